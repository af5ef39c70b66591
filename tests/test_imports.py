"""Imports run one way, and the core stays pure: cycle <- acting, tuning <- diagnosis <- exercise <- server."""

import ast
import re
import subprocess
from pathlib import Path

import pytest

SRC = Path(__file__).parents[1] / "src" / "wolfsbane"
#: rooms in the order of the data flow: each may import itself and what stands before it
ORDER = [
    "tables",
    "cycle",
    "acting",
    "tuning",
    "diagnosis",
    "rig",
    "exercise.plan",
    "exercise.paper",
    "exercise.draw",
    "exercise.marking",
    "exercise.lab",
    "exercise.screen",
    "exercise.show",
]
#: rooms of the server, the same way; the application itself stands above them all
SERVER = ["language", "core", "printing", "exchange", "services", "rigs", "jobs", "api", "run"]
CORE = ["cycle", "acting", "tuning", "diagnosis", "rig", "exercise"]
NEVER_IN_CORE = {
    "flask",
    "psycopg",
    "psycopg_pool",
    "procrastinate",
    "typst",
    "pikepdf",
    "jinja2",
    "CoolProp",
    "os",
    "pathlib",
    "time",
    "datetime",
    "secrets",
    "socket",
    "subprocess",
    "urllib",
    "requests",
    "tempfile",
    "io",
}


def imports(path):
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def files(room):
    return sorted((SRC / room.replace(".", "/")).rglob("*.py"))


def stands_in(name, rooms):
    """Whether the module called ``name`` stands in one of ``rooms``."""
    return any(name == room or name.startswith(room + ".") for room in rooms)


@pytest.mark.parametrize("room", ORDER)
def test_a_room_imports_only_what_stands_before_it(room):
    allowed = [f"wolfsbane.{r}" for r in ORDER[: ORDER.index(room) + 1]]
    assert files(room)
    for path in files(room):
        for name in imports(path):
            if name.startswith("wolfsbane."):
                assert stands_in(name, allowed), f"{path.relative_to(SRC)} imports {name}"


@pytest.mark.parametrize("room", SERVER)
def test_a_room_of_the_server_imports_only_what_stands_before_it(room):
    allowed = [f"wolfsbane.server.{r}" for r in SERVER[: SERVER.index(room) + 1]]
    assert files(f"server.{room}")
    for path in files(f"server.{room}"):
        for name in imports(path):
            if name.startswith("wolfsbane.server."):
                assert stands_in(name, allowed), f"{path.relative_to(SRC)} imports {name}"


@pytest.mark.parametrize("room", [*ORDER, "server"])
def test_the_product_does_not_import_what_is_for_developers(room):
    for path in files(room):
        assert not any(stands_in(name, ["wolfsbane.devtools", "wolfsbane.cli"]) for name in imports(path)), path


@pytest.mark.parametrize("package", CORE)
def test_the_core_knows_no_web_database_file_or_clock(package):
    for path in files(package):
        for name in imports(path):
            assert name.split(".")[0] not in NEVER_IN_CORE, f"{path.relative_to(SRC)} imports {name}"
        assert "open(" not in path.read_text(), path


@pytest.mark.parametrize("package", CORE)
def test_randomness_in_the_core_comes_from_a_seeded_generator(package):
    for path in files(package):
        drawn = set(re.findall(r"\brandom\.(\w+)", path.read_text()))
        assert drawn <= {"Random"}, f"{path.relative_to(SRC)} uses random.{drawn}"


def test_only_the_database_layer_and_the_private_cluster_know_psycopg():
    users = {
        p.relative_to(SRC).as_posix()
        for p in SRC.rglob("*.py")
        if any(n.split(".")[0] == "psycopg" for n in imports(p))
    }
    assert users == {
        "server/core/db/database.py",
        "server/core/db/migrate.py",
        "server/run/backups.py",
        "server/core/db/tables.py",
        "server/run/postgres.py",
    }


def test_the_running_product_never_imports_the_property_library():
    """Only the reference that the speed command measures against does, and only where it is installed."""
    for path in SRC.rglob("*.py"):
        if path.name == "reference.py":
            continue
        assert path.name == "speed.py" or "wolfsbane.devtools.reference" not in set(imports(path)), path
        assert "CoolProp" not in set(imports(path)) | {n.split(".")[0] for n in imports(path)}, path


def test_no_typescript_does_thermodynamics_or_marking():
    for path in (SRC.parents[1] / "web" / "src").rglob("*"):
        if path.suffix in (".ts", ".vue") and "schema.d" not in path.name:
            assert not re.search(r"saturation_k|PropsSI|14\.7|6894|101325", path.read_text()), path


def test_modules_stay_small_enough_to_read():
    for path in SRC.rglob("*.py"):
        assert len(path.read_text().splitlines()) <= 420, path


def test_no_file_of_the_repository_names_an_outside_address_to_fetch_from():
    root = SRC.parents[1]
    tracked = subprocess.run(["git", "ls-files"], cwd=root, capture_output=True, text=True).stdout.split()
    for name in tracked:
        if (
            name.endswith((".py", ".ts", ".vue", ".html", ".css", ".txt", ".sh", "package-lock.json"))
            and "LICENSE" not in name
        ):
            for address in re.findall(r"https?://([\w.:-]+)", (root / name).read_text(errors="ignore")):
                assert (
                    address.split(":")[0]
                    in {
                        "127.0.0.1",
                        "www.w3.org",
                        "localhost",
                        "json-schema.org",
                        "www.imsglobal.org",
                        "purl.imsglobal.org",
                    }
                    or address.endswith(".example")
                    or name.endswith("package-lock.json")
                ), f"{name}: {address}"
