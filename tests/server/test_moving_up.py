"""PostgreSQL's major version: data are opened by the binaries they are of, and moved to newer ones by a command.

One major version is installed where this runs: a second is stood in for by the same binaries under another number.
"""

import psycopg
import pytest

from wolfsbane.server.core.db.migrate import migrate
from wolfsbane.server.run import backups, moving_up, postgres
from wolfsbane.server.run.postgres import FAST, PostgresError, PrivatePostgres


@pytest.fixture
def packages(open_folder, monkeypatch):
    """Where PostgreSQL is installed: the version that is here, and whatever the test adds."""
    real = postgres.installed()
    here = max(real)
    root = open_folder / "packages"
    root.mkdir(mode=0o755)

    def install(major):
        (root / str(major)).mkdir(mode=0o755)
        (root / str(major) / "bin").symlink_to(real[here])
        monkeypatch.setattr(postgres, "PACKAGES", root)

    install(here)
    install.here = here
    return install


@pytest.fixture
def folder(open_folder, packages):
    """A cluster with a school in it, stopped."""
    place = open_folder / "postgres"
    server = PrivatePostgres(place, options=FAST).start()
    migrate(server.url())
    with psycopg.connect(server.url()) as connection:
        connection.execute("insert into schools (name, time_zone) values ('Marrow Hill', 'UTC')")
    server.stop()
    return place


def schools(server):
    with psycopg.connect(server.start().url()) as connection:
        found = [row[0] for row in connection.execute("select name from schools")]
    server.stop()
    return found


def test_data_stay_with_the_version_they_are_of_until_they_are_moved(folder, packages, tmp_path):
    packages(packages.here + 1)
    assert moving_up.waits(folder) == (packages.here, packages.here + 1)
    assert PrivatePostgres(folder).major == packages.here
    said = list(moving_up.move_up(folder, tmp_path))
    assert f"moved: PostgreSQL {packages.here} to {packages.here + 1}" in said[0]
    assert [n.why for n in backups.listed(tmp_path)] == [f"before PostgreSQL {packages.here + 1}"]
    assert (folder / f"data-{packages.here}").is_dir()
    assert schools(PrivatePostgres(folder)) == ["Marrow Hill"]
    with pytest.raises(PostgresError, match="there already"):
        list(moving_up.move_up(folder, tmp_path))


def test_a_move_that_fails_leaves_everything_where_it_was(folder, packages, tmp_path, monkeypatch):
    packages(packages.here + 1)

    def broken(url, path):
        raise backups.BackupError("the disk is full")

    monkeypatch.setattr(backups, "restore", broken)
    with pytest.raises(backups.BackupError, match="disk is full"):
        list(moving_up.move_up(folder, tmp_path))
    assert not (folder / f"data-{packages.here}").exists()
    assert schools(PrivatePostgres(folder)) == ["Marrow Hill"]


def test_nothing_is_moved_under_those_who_use_it(folder, packages, tmp_path):
    packages(packages.here + 1)
    server = PrivatePostgres(folder, options=FAST).start()
    try:
        with pytest.raises(PostgresError, match="stop wolfsbane first"):
            list(moving_up.move_up(folder, tmp_path))
    finally:
        server.stop()
    assert backups.listed(tmp_path) == []


def test_data_whose_version_is_not_installed_are_not_touched(folder, packages):
    (folder / "data" / "PG_VERSION").write_text("9\n")
    with pytest.raises(PostgresError, match="are of PostgreSQL 9, and installed is"):
        PrivatePostgres(folder)
    assert moving_up.waits(folder / "nowhere") is None


def test_there_is_nothing_to_do_on_the_newest(folder, packages, tmp_path):
    assert moving_up.waits(folder) is None and list(moving_up.move_up(folder, tmp_path)) == []
