"""What a newcomer types first: the list of targets and settings, and that each target is there."""

import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]


def test_every_target_that_is_explained_is_listed_and_phony():
    text = (ROOT / "Makefile").read_text()
    explained = re.findall(r"^([a-z-]+):.*## (.+)$", text, re.MULTILINE)
    assert {"setup", "demo", "serve", "test", "quick", "check", "coverage", "bench"} <= {name for name, _ in explained}
    phony = set(re.findall(r"^\.PHONY: ([a-z-]+)$", text, re.MULTILINE))
    assert {name for name, _ in explained} <= phony
    for called in re.findall(r"\$\(MAKE\)[^\n]*?((?: [a-z]+-[a-z]+| [a-z]+)+)$", text, re.MULTILINE):
        assert set(called.split()) <= phony, called


def test_the_settings_are_listed_with_what_they_do():
    said = subprocess.run(
        [sys.executable, "-B", ROOT / "tools/settings.py"], capture_output=True, text=True, check=True
    )
    from wolfsbane.server.core.config import SETTINGS

    assert SETTINGS and all(name in said.stdout for name in SETTINGS)


def test_every_tool_that_the_makefile_runs_is_there():
    for name in re.findall(r"tools/[\w.]+", (ROOT / "Makefile").read_text()):
        assert (ROOT / name).exists(), name
