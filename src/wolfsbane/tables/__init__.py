"""Refrigerant property tables: data files, their provenance, and the one place that reads them."""

from __future__ import annotations

import hashlib
import io
import json
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

NAMES = ("R-410A", "R-22", "R-32", "R-454B", "R-134a", "R-404A", "R-407C", "R-448A", "R-449A", "R-290", "R-600a")


def content_hash(arrays: dict[str, np.ndarray]) -> str:
    """SHA-256 over the names, shapes and little-endian float64 bytes of ``arrays`` (a dict of ndarray)."""
    digest = hashlib.sha256()
    for key in sorted(arrays):
        digest.update(f"{key}{arrays[key].shape}".encode())
        digest.update(np.ascontiguousarray(arrays[key], dtype="<f8").tobytes())
    return digest.hexdigest()


@cache
def load(name: str) -> tuple[dict[str, np.ndarray], dict[str, Any]]:
    """Return ``(arrays, provenance)`` of one refrigerant.

    ``arrays`` is a dict of ndarray in SI units (dome float64, grids float32), ``provenance`` the record beside it.
    Raises KeyError for an unknown name and ValueError when the file does not match its recorded hash.
    """
    if name not in NAMES:
        raise KeyError(name)
    folder = resources.files(__package__)
    provenance = json.loads((folder / f"{name}.json").read_text())
    with np.load(io.BytesIO((folder / f"{name}.npz").read_bytes())) as data:
        arrays = {key: data[key] for key in data.files}
    if content_hash(arrays) != provenance["sha256"]:
        raise ValueError(f"property table {name} does not match its recorded hash; run tools/build_tables.py")
    return arrays, provenance


@cache
def combined_hash() -> str:
    """One SHA-256 over the hashes of every table, stored with each issued sheet."""
    return hashlib.sha256("".join(load(name)[1]["sha256"] for name in NAMES).encode()).hexdigest()
