"""What stands in deploy/ names files, settings and parts that exist; images themselves cannot be built in a test."""

import re
import shutil
import subprocess
from pathlib import Path

import pytest
import yaml

from wolfsbane.server.core.config import SETTINGS, from_environment

ROOT = Path(__file__).parents[1]
DEPLOY = ROOT / "deploy"
#: of the compose file alone
OTHERS = {"WOLFSBANE_DB_PASSWORD"}


def test_every_setting_that_is_named_exists():
    for path in DEPLOY.iterdir():
        named = set(re.findall(r"WOLFSBANE_[A-Z_]+", path.read_text()))
        assert named <= set(SETTINGS) | OTHERS, path.name


def test_services_start_with_the_settings_they_are_given():
    found = yaml.safe_load((DEPLOY / "compose.yaml").read_text())
    parts = []
    for name in ("pages", "worker"):
        given = found["services"][name]["environment"]
        plain = {key: re.sub(r"\$\{\w+:[-?]([^}]*)\}", r"\1", text) for key, text in given.items()}
        parts += from_environment(plain).parts
        assert (ROOT / "deploy" / found["services"][name]["build"]["context"]).resolve() == ROOT
    assert sorted(parts) == ["logger", "web", "worker"], "each part once"
    assert found["services"]["pages"]["ports"][0].startswith("127.0.0.1:"), "not beyond this machine by itself"


def test_the_image_runs_the_start_command_as_nobody_special():
    lines = (DEPLOY / "Dockerfile").read_text()
    assert lines.index("USER wolfsbane") < lines.index("CMD [") and "wolfsbane.server.run.launch" in lines
    assert (ROOT / "src/wolfsbane/server/run/launch.py").is_file()


@pytest.mark.skipif(shutil.which("systemd-analyze") is None, reason="no systemd here")
def test_the_unit_is_one_that_systemd_reads(tmp_path):
    text = (DEPLOY / "wolfsbane.service").read_text()
    for folder in re.findall(r"/srv/wolfsbane\S*", text):
        assert not folder.startswith("/srv/wolfsbane/src")
    unit = tmp_path / "wolfsbane.service"
    # the program it starts is not installed here
    unit.write_text(re.sub(r"ExecStart=\S+", "ExecStart=/bin/true", text).replace("User=wolfsbane\n", ""))
    done = subprocess.run(["systemd-analyze", "verify", str(unit)], capture_output=True, text=True)
    said = [line for line in done.stderr.splitlines() if "wolfsbane.service" in line]
    assert said == [], said
