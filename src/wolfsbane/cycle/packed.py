"""Sets of figures as compiled code takes them: by their address, not figure by figure.

Handing a circuit of eighty figures from one compiled function to the next by value costs more than what most of them
work out, and so does handing a single record in: an array of one record costs next to nothing.
"""

from __future__ import annotations

from functools import cache
from struct import Struct
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from typing import NamedTuple


@cache
def _layout(kind: type[NamedTuple]) -> tuple[Struct, np.dtype]:
    names = kind._fields
    return Struct(f"{len(names)}d"), np.dtype([(name, np.float64) for name in names])


def packed(values: NamedTuple) -> np.ndarray:
    """A named tuple of numbers as an array (1,) of a record with the same fields, read only."""
    layout, dtype = _layout(type(values))
    return np.frombuffer(layout.pack(*values), dtype)


def packed_with_arrays(values: NamedTuple) -> np.ndarray:
    """A named tuple of numbers and arrays as an array (1,) of a record with the same fields, the arrays copied into it;
    read only.
    """
    fields = [(name, np.float64, np.shape(value)) for name, value in zip(values._fields, values, strict=True)]
    record = np.zeros(1, dtype=np.dtype(fields))
    for name, value in zip(values._fields, values, strict=True):
        record[name][0] = value
    return np.frombuffer(record.tobytes(), record.dtype)


def writable(values: NamedTuple) -> tuple[np.ndarray, np.ndarray]:
    """The figures (n,) of a named tuple, to be written over, and the same memory as an array (1,) of its record."""
    figures = np.array(values, dtype=np.float64)
    return figures, figures.view(_layout(type(values))[1])
