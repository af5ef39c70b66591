"""Imports run one way, and the core stays pure: cycle <- acting, tuning <- diagnosis <- exercise <- server."""

import ast
import re
import subprocess
from pathlib import Path

import pytest

SRC = Path(__file__).parents[1] / "src" / "wolfsbane"
ORDER = ["tables", "cycle", "acting", "tuning", "diagnosis", "exercise", "server"]
NEVER_IN_CORE = {"flask", "psycopg", "psycopg_pool", "procrastinate", "weasyprint", "jinja2", "pydantic", "CoolProp", "os",
                 "pathlib", "time", "datetime", "secrets", "socket", "subprocess", "urllib", "requests", "tempfile", "io"}


def imports(path):
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def files(package):
    return sorted((SRC / package).rglob("*.py"))


@pytest.mark.parametrize("package", ORDER)
def test_a_package_imports_only_what_stands_before_it(package):
    allowed = set(ORDER[: ORDER.index(package) + 1])
    for path in files(package):
        for name in imports(path):
            parts = name.split(".")
            if parts[0] == "wolfsbane" and len(parts) > 1:
                assert parts[1] in allowed, f"{path.relative_to(SRC)} imports {name}"


@pytest.mark.parametrize("package", ["cycle", "acting", "tuning", "diagnosis", "exercise"])
def test_the_core_knows_no_web_database_file_or_clock(package):
    for path in files(package):
        for name in imports(path):
            assert name.split(".")[0] not in NEVER_IN_CORE, f"{path.relative_to(SRC)} imports {name}"
        assert "open(" not in path.read_text(), path


@pytest.mark.parametrize("package", ["cycle", "acting", "tuning", "diagnosis", "exercise"])
def test_randomness_in_the_core_comes_from_a_seeded_generator(package):
    for path in files(package):
        drawn = set(re.findall(r"\brandom\.(\w+)", path.read_text()))
        assert drawn <= {"Random"}, f"{path.relative_to(SRC)} uses random.{drawn}"


def test_only_the_database_layer_and_the_private_cluster_know_psycopg():
    users = {p.relative_to(SRC).as_posix() for p in SRC.rglob("*.py") if any(n.split(".")[0] == "psycopg" for n in imports(p))}
    assert users == {"server/db/database.py", "server/db/migrate.py", "server/postgres.py"}


def test_the_running_product_never_imports_the_property_library():
    """Only the reference that the speed command measures against does, and only where it is installed."""
    for path in SRC.rglob("*.py"):
        if path.name == "reference.py":
            continue
        assert path.name == "speed.py" or "wolfsbane.reference" not in set(imports(path)), path
        assert "CoolProp" not in set(imports(path)) | {n.split(".")[0] for n in imports(path)}, path


def test_no_typescript_does_thermodynamics_or_marking():
    for path in (SRC.parents[1] / "web" / "src").rglob("*"):
        if path.suffix in (".ts", ".vue") and "schema.d" not in path.name:
            assert not re.search(r"saturation_k|PropsSI|14\.7|6894|101325", path.read_text()), path


def test_modules_stay_small_enough_to_read():
    for path in SRC.rglob("*.py"):
        assert len(path.read_text().splitlines()) <= 350, path


def test_no_file_of_the_repository_names_an_outside_address_to_fetch_from():
    root = SRC.parents[1]
    tracked = subprocess.run(["git", "ls-files"], cwd=root, capture_output=True, text=True).stdout.split()
    for name in tracked:
        if name.endswith((".py", ".ts", ".vue", ".html", ".css", ".txt", ".sh", "package-lock.json")) and "LICENSE" not in name:
            for address in re.findall(r"https?://([\w.:-]+)", (root / name).read_text(errors="ignore")):
                assert address.split(":")[0] in {"127.0.0.1", "www.w3.org", "localhost", "json-schema.org", "www.imsglobal.org"} or name.endswith("package-lock.json"), \
                    f"{name}: {address}"
