"""Log files of the processes: for their owner only, and put aside before they grow without end."""

from __future__ import annotations

import os
import shutil
from typing import IO, TYPE_CHECKING

if TYPE_CHECKING:
    from pathlib import Path

#: a log is put aside at this size, and so many are kept
LARGEST, KEPT = 10_000_000, 5


def opened(path: Path) -> IO[bytes]:
    """A log to write at the end of, which only its owner reads."""
    file = os.fdopen(os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600), "ab")
    os.chmod(path, 0o600)
    return file


def rotate(path: Path, most: int = LARGEST, kept: int = KEPT) -> bool:
    """Put a log aside that has grown to ``most`` bytes: ``name.1`` is the newest of ``kept``. Whoever writes to it goes
    on with an empty one. Returns whether it did.
    """
    if not path.exists() or path.stat().st_size < most:
        return False
    for number in range(kept, 1, -1):
        older = path.with_name(f"{path.name}.{number - 1}")
        if older.exists():
            older.replace(path.with_name(f"{path.name}.{number}"))
    newest = path.with_name(f"{path.name}.1")
    shutil.copyfile(path, newest)
    newest.chmod(0o600)
    os.truncate(path, 0)
    return True
