"""Wolfsbane: graded refrigerant-circuit practice, from a solved machine to a mark."""

import hashlib
import os
from pathlib import Path

from wolfsbane.version import VERSION

__version__ = VERSION


def _fresh_compiled_code() -> None:
    """Keep compiled kernels apart by the source of the whole ``cycle`` package and of what else is compiled.

    The compiler's own cache looks only at the file a function stands in, so a change in a part would leave the
    circuit that calls it as it was.
    """
    folder = Path(__file__).parent
    digest = hashlib.sha256()
    for source in sorted((folder / "cycle").rglob("*.py")):
        digest.update(source.read_bytes())
    for source in sorted((folder / "diagnosis").glob("*.py")):
        if b"@njit" in (text := source.read_bytes()):
            digest.update(text)
    os.environ.setdefault("NUMBA_CACHE_DIR", str(folder / "__pycache__" / f"compiled-{digest.hexdigest()[:12]}"))


_fresh_compiled_code()
