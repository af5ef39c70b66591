"""The ``wolfsbane`` command: what an operator does (``serve``, ``school``, ``account``, ``backup``, ``restore``,
``upgrade``) is a module of the server; everything else is the core's command line, which needs no server.
"""

from __future__ import annotations

import importlib
import sys

#: word -> (module whose ``run`` does it, what it is given before the words that follow)
OPERATE: dict[str, tuple[str, tuple[str, ...]]] = {
    "serve": ("wolfsbane.server.run.launch", ()),
    "school": ("wolfsbane.server.run.founding", ()),
    "account": ("wolfsbane.server.run.accounts", ()),
    "backup": ("wolfsbane.server.run.backups", ("make",)),
    "backups": ("wolfsbane.server.run.backups", ("list",)),
    "restore": ("wolfsbane.server.run.backups", ("restore",)),
    "upgrade": ("wolfsbane.server.run.backups", ("upgrade",)),
}


def main(argv: list[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = sys.argv[1:] if argv is None else argv
    if words and words[0] in OPERATE:
        module, before = OPERATE[words[0]]
        found: int = importlib.import_module(module).run([*before, *words[1:]])
        return found
    if words and words[0] in ("-h", "--help"):
        print(f"for the operator of a server: wolfsbane {' | '.join(OPERATE)}; each with --help\n")
    from wolfsbane.cli.main import main as core

    code: int = core(words)
    return code
