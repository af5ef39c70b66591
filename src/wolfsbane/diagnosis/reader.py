"""What a set of instruments shows of a machine's vector, and how far apart two machines read on them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, cached_property, lru_cache

import numpy as np

from wolfsbane.cycle.instruments import tool_for
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.compared import apart, shown
from wolfsbane.diagnosis.space import AT, N

#: readings that are pressures, and the points of their scales
_PRESSURES, _POINTS = ("suction_pressure", "head_pressure"), 1500
#: reading as printed -> what it shows of the vector
SHOWS = {
    "suction_pressure": {"suction_saturation": 1},
    "head_pressure": {"liquid_saturation": 1},
    "suction_line": {"suction_line": 1},
    "liquid_line": {"liquid_line": 1},
    "drier_out": {"liquid_line": 1, "drier_drop": -1},
    "discharge_line": {"discharge": 1},
    "supply_db": {"supply": 1},
    "evaporator_outlet": {"evaporator_outlet": 1},
    "evaporator_inlet": {"evaporator_inlet": 1},
    "condenser_bend": {"condenser_bend": 1},
    "condenser_inlet": {"discharge": 1},
    "condenser_leaving_air": {"stream_out": 1},
    "water_out": {"stream_out": 1},
}


@dataclass(frozen=True, kw_only=True)
class Reader:
    """A set of readings on one refrigerant's scale: ``weights`` (N, k) of the entries each shows; the ``columns`` (p,)
    that are pressures with the scale of each, ``scales_f`` and ``scales_pa`` (p, points); and what the tools resolve
    and may be off, (k,) each in US units.
    """

    weights: np.ndarray
    columns: np.ndarray
    scales_f: np.ndarray
    scales_pa: np.ndarray
    steps: np.ndarray
    tolerances: np.ndarray

    def shown(self, vectors: np.ndarray, barometer_pa: float) -> np.ndarray:
        """Readings (n, k) of vectors (n, N)."""
        return shown(vectors, self.weights, self.columns, self.scales_f, self.scales_pa, barometer_pa)

    def apart(self, readings: np.ndarray, own: np.ndarray) -> np.ndarray:
        """Distances (n,) of readings (n, k) from the nearer of ``own`` (2, 1, k), as it is and as it is printed: the
        largest difference of a reading in units of what an honest one may be off.
        """
        return apart(readings, own, self.tolerances)

    @cached_property
    def parts(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """What compiled code needs to read, in the order it takes it."""
        return self.weights, self.columns, self.scales_f, self.scales_pa, self.tolerances


@lru_cache(maxsize=400)
def reader_of(refrigerant_name: str, kit: str, readings: tuple[str, ...]) -> Reader:
    weights = np.zeros((N, len(readings)))
    for i, key in enumerate(readings):
        for entry, factor in SHOWS[key].items():
            weights[AT[entry], i] = factor
    pressures = [(i, "dew" if k == "suction_pressure" else "bubble") for i, k in enumerate(readings) if k in _PRESSURES]
    scales = np.array([pt_grid(refrigerant_name, point) for _, point in pressures]).reshape(-1, 2, _POINTS)
    tools = [tool_for(key, kit) for key in readings]
    return Reader(
        weights=weights,
        columns=np.array([i for i, _ in pressures], dtype=np.int64),
        scales_f=np.ascontiguousarray(scales[:, 0]),
        scales_pa=np.ascontiguousarray(scales[:, 1]),
        steps=np.array([t.resolution["us"] for t in tools]),
        tolerances=np.array([t.tolerance_us for t in tools]),
    )


@cache
def pt_grid(refrigerant_name: str, point: str) -> tuple[np.ndarray, np.ndarray]:
    """(saturation temperatures in degrees F, pressures in Pa) of a refrigerant, close enough for straight lines."""
    fluid = refrigerant(refrigerant_name)
    pa = np.geomspace(fluid.min_pa * 1.001, fluid.max_pa * 0.999, _POINTS)
    return np.array([k_to_f(fluid.saturation_k(float(p), point)) for p in pa]), pa
