"""Refrigerant properties from tables: compiled look-ups and the ``Refrigerant`` that carries them.

Superheat counts from the dew point and subcooling from the bubble point, always. Inside the dome temperature runs
linearly from bubble to dew with quality.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass
from functools import cache, cached_property
from typing import Any, NamedTuple

import numpy as np

from wolfsbane import tables
from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.packed import packed_with_arrays

T_BUBBLE, T_DEW, H_F, H_G, S_G, RHO_F, RHO_G = range(7)
#: how often a range of pressures is halved
_HALVINGS = 50


class PropertyArrays(NamedTuple):
    """Arrays handed to the compiled code. Axes: ln P, then h - h_g, s - s_g or subcooling, evenly spaced."""

    ln_p_min: float
    ln_p_max: float
    h_span: float
    s_span: float
    t_span: float
    saturation: np.ndarray
    vapor: np.ndarray
    vapor_h_by_s: np.ndarray
    liquid: np.ndarray


@njit(cache=True, error_model="numpy")
def _cell(tab: PropertyArrays, ln_p: float) -> tuple[int, float]:
    """Where ``ln_p`` stands between two columns of the saturation rows: (column, share)."""
    n = tab.saturation.shape[1]
    u = (ln_p - tab.ln_p_min) / (tab.ln_p_max - tab.ln_p_min) * (n - 1)
    u = min(max(u, 0.0), n - 1.000001)
    i = int(u)
    return i, u - i


@njit(cache=True, error_model="numpy")
def _in_cell(rows: np.ndarray, row: int, i: int, a: float) -> float:
    return rows[row, i] + a * (rows[row, i + 1] - rows[row, i])


@njit(cache=True, error_model="numpy")
def saturation_at(tab: PropertyArrays, row: int, ln_p: float) -> float:
    """Value of one saturation row at ``ln_p`` (held at the ends of the table)."""
    i, a = _cell(tab, ln_p)
    return _in_cell(tab.saturation, row, i, a)


@njit(cache=True, error_model="numpy")
def ln_p_of(tab: PropertyArrays, row: int, value: float) -> float:
    """Inverse of :func:`saturation_at` for a row that rises with pressure."""
    data = tab.saturation[row]
    n = data.size
    i = min(max(np.searchsorted(data, value) - 1, 0), n - 2)
    u = min(max(i + (value - data[i]) / (data[i + 1] - data[i]), 0.0), n - 1.0)
    return tab.ln_p_min + u * (tab.ln_p_max - tab.ln_p_min) / (n - 1)


@njit(cache=True, error_model="numpy")
def _corner(grid: np.ndarray, u: float, v: float) -> tuple[int, int, float, float]:
    """Where a place stands among four points of a grid: (row, column, shares of both)."""
    nu, nv = grid.shape
    u = min(max(u, 0.0), nu - 1.000001)
    v = min(max(v, 0.0), nv + 20.0)
    i, j = int(u), min(int(v), nv - 2)
    return i, j, u - i, v - j


@njit(cache=True, error_model="numpy")
def _between(grid: np.ndarray, i: int, j: int, a: float, b: float) -> float:
    return (1 - a) * ((1 - b) * grid[i, j] + b * grid[i, j + 1]) + a * (
        (1 - b) * grid[i + 1, j] + b * grid[i + 1, j + 1]
    )


@njit(cache=True, error_model="numpy")
def _bilinear(grid: np.ndarray, u: float, v: float) -> float:
    i, j, a, b = _corner(grid, u, v)
    return _between(grid, i, j, a, b)


@njit(cache=True, error_model="numpy")
def _row_u(tab: PropertyArrays, grid: np.ndarray, ln_p: float) -> float:
    return (ln_p - tab.ln_p_min) / (tab.ln_p_max - tab.ln_p_min) * (grid.shape[0] - 1)


@njit(cache=True, error_model="numpy")
def enthalpy_at_entropy(tab: PropertyArrays, ln_p: float, s: float) -> float:
    """Enthalpy of vapor, or of wet vapor just inside the dome, at pressure and entropy."""
    ds = s - saturation_at(tab, S_G, ln_p)
    h_g = saturation_at(tab, H_G, ln_p)
    if ds <= 0.0:
        return h_g + saturation_at(tab, T_DEW, ln_p) * ds
    grid = tab.vapor_h_by_s
    return h_g + _bilinear(grid, _row_u(tab, grid, ln_p), ds / tab.s_span * (grid.shape[1] - 1))


@njit(cache=True, error_model="numpy")
def liquid_at(tab: PropertyArrays, which: int, ln_p: float, subcooling: float) -> float:
    """h - h_f (0) or density (1) of liquid ``subcooling`` K below the bubble point."""
    grid = tab.liquid[which]
    return _bilinear(grid, _row_u(tab, grid, ln_p), subcooling / tab.t_span * (grid.shape[1] - 1))


@njit(cache=True, error_model="numpy")
def _column_of(grid: np.ndarray, u: float, target: float) -> float:
    """Column position where the row at ``u`` takes ``target``; rows run one way. The inverse of :func:`_bilinear`."""
    nu, nv = grid.shape
    u = min(max(u, 0.0), nu - 1.000001)
    i = int(u)
    a = u - i
    first = (1 - a) * grid[i, 0] + a * grid[i + 1, 0]
    rising = (1 - a) * grid[i, nv - 1] + a * grid[i + 1, nv - 1] > first
    low, high = 0, nv - 1
    while high - low > 1:
        mid = (low + high) // 2
        value = (1 - a) * grid[i, mid] + a * grid[i + 1, mid]
        if (value < target) == rising:
            low = mid
        else:
            high = mid
    start = (1 - a) * grid[i, low] + a * grid[i + 1, low]
    end = (1 - a) * grid[i, high] + a * grid[i + 1, high]
    return low + (target - start) / (end - start)


@njit(cache=True, error_model="numpy")
def subcooling_of(tab: PropertyArrays, ln_p: float, h: float) -> float:
    """Subcooling in K of liquid with enthalpy ``h`` below saturation (0 at saturation, at most the table's span)."""
    grid = tab.liquid[0]
    v = _column_of(grid, _row_u(tab, grid, ln_p), h - saturation_at(tab, H_F, ln_p))
    return min(max(v / (grid.shape[1] - 1), 0.0), 1.0) * tab.t_span


@njit(cache=True, error_model="numpy")
def enthalpy_at_temperature(tab: PropertyArrays, ln_p: float, t: float) -> float:
    """Enthalpy of vapor at pressure and temperature; at and below the dew point that of saturated vapor."""
    grid = tab.vapor[0]
    v = _column_of(grid, _row_u(tab, grid, ln_p), t)
    return saturation_at(tab, H_G, ln_p) + max(v, 0.0) / (grid.shape[1] - 1) * tab.h_span


@njit(cache=True, error_model="numpy")
def temperature_density_entropy(tab: PropertyArrays, ln_p: float, h: float) -> tuple[float, ...]:
    """(T, rho, s) at pressure and enthalpy; two-phase density is homogeneous, liquid entropy is not used (0)."""
    rows = tab.saturation
    at, share = _cell(tab, ln_p)
    h_g = _in_cell(rows, H_G, at, share)
    if h >= h_g:
        grid = tab.vapor[0]
        i, j, a, b = _corner(grid, _row_u(tab, grid, ln_p), (h - h_g) / tab.h_span * (grid.shape[1] - 1))
        return _between(grid, i, j, a, b), _between(tab.vapor[1], i, j, a, b), _between(tab.vapor[2], i, j, a, b)
    h_f = _in_cell(rows, H_F, at, share)
    t_b, t_d = _in_cell(rows, T_BUBBLE, at, share), _in_cell(rows, T_DEW, at, share)
    if h > h_f:
        x = (h - h_f) / (h_g - h_f)
        v = x / _in_cell(rows, RHO_G, at, share) + (1 - x) / _in_cell(rows, RHO_F, at, share)
        return t_b + x * (t_d - t_b), 1.0 / v, _in_cell(rows, S_G, at, share) - (h_g - h) / t_d
    dt = subcooling_of(tab, ln_p, h)
    return t_b - dt, liquid_at(tab, 1, ln_p, dt), 0.0


@njit(cache=True, error_model="numpy")
def _vapor_density(tables: np.ndarray, ln_p: float, t_k: float) -> float:
    tab = tables[0]
    return temperature_density_entropy(tab, ln_p, enthalpy_at_temperature(tab, ln_p, t_k))[1]


@njit(cache=True, error_model="numpy")
def _vapor_pa(tables: np.ndarray, density: float, t_k: float, low: float, high: float) -> float:
    for _ in range(_HALVINGS):
        middle = math.sqrt(low * high)
        if _vapor_density(tables, math.log(middle), t_k) < density:
            low = middle
        else:
            high = middle
    return math.sqrt(low * high)


@njit(cache=True, error_model="numpy")
def _state(tables: np.ndarray, ln_p: float, h: float) -> tuple[float, ...]:
    return temperature_density_entropy(tables[0], ln_p, h)


@njit(cache=True, error_model="numpy")
def _compressed(tables: np.ndarray, ln_p: float, s: float) -> float:
    return enthalpy_at_entropy(tables[0], ln_p, s)


@dataclass(frozen=True, kw_only=True)
class Refrigerant:
    """One refrigerant: its name, ASHRAE 34 safety class, tables and their provenance.

    ``charged_as_liquid`` is true of blends, whose composition shifts when vapor is drawn from the cylinder.
    """

    name: str
    safety_class: str
    charged_as_liquid: bool
    arrays: PropertyArrays
    table_hash: str

    @cached_property
    def packed(self) -> Any:
        """``arrays`` as compiled code takes them (:mod:`wolfsbane.cycle.packed`)."""
        return packed_with_arrays(self.arrays)

    @cached_property
    def min_pa(self) -> Any:
        """Lowest absolute pressure of the table, Pa."""
        return float(np.exp(self.arrays.ln_p_min))

    @cached_property
    def max_pa(self) -> Any:
        """Highest absolute pressure of the table, Pa."""
        return float(np.exp(self.arrays.ln_p_max))

    @cached_property
    def searched_k(self) -> Any:
        """Dew and bubble temperatures between which the solver begins its search:
        (dew low, high, bubble low, high), K.
        """
        ends = (self.min_pa * 1.2, self.max_pa * 0.9)
        return tuple(self.saturation_k(p, point) for point in ("dew", "bubble") for p in ends)

    def glide_dk(self, pressure_pa: float) -> float:
        """Dew minus bubble temperature at a pressure, K (0 for a pure substance)."""
        return self.saturation_k(pressure_pa, "dew") - self.saturation_k(pressure_pa, "bubble")

    def saturation_k(self, pressure_pa: float, point: str) -> float:
        """Saturation temperature, K, at ``pressure_pa`` absolute; ``point`` is "dew" or "bubble".

        Raises BadInputError outside the table.
        """
        if not self.min_pa <= pressure_pa <= self.max_pa:
            raise BadInputError(
                "pressure_pa", round(pressure_pa), f"{self.min_pa:.0f} to {self.max_pa:.0f} Pa absolute"
            )
        return self.saturated(T_DEW if point == "dew" else T_BUBBLE, math.log(pressure_pa))

    @cached_property
    def _rows(self) -> list[list[float]]:
        """The saturation table as plain numbers: one look-up costs less than a call of compiled code."""
        return [row.tolist() for row in self.arrays.saturation]

    def saturated(self, row: int, ln_p: float) -> float:
        """Value of one saturation row at ``ln_p``, as :func:`saturation_at` has it."""
        values, low = self._rows[row], self.arrays.ln_p_min
        last = len(values) - 1
        u = min(max((ln_p - low) / (self.arrays.ln_p_max - low) * last, 0.0), last - 0.000001)
        i = int(u)
        return values[i] + (u - i) * (values[i + 1] - values[i])

    def vapor_density(self, ln_p: float, t_k: float) -> float:
        """Density of vapor at pressure and temperature, kg/m3."""
        return _vapor_density(self.packed, ln_p, t_k)

    def vapor_pa(self, density: float, t_k: float, low: float, high: float) -> float:
        """Pressure between ``low`` and ``high``, Pa, at which vapor of ``t_k`` has ``density`` (kg/m3), by halving."""
        return _vapor_pa(self.packed, density, t_k, low, high)

    def state(self, ln_p: float, h: float) -> tuple[float, ...]:
        """:func:`temperature_density_entropy` of it."""
        return _state(self.packed, ln_p, h)

    def compressed(self, ln_p: float, s: float) -> float:
        """:func:`enthalpy_at_entropy` of it."""
        return _compressed(self.packed, ln_p, s)

    def saturation_pa(self, temperature_k: float, point: str) -> float:
        """Saturation pressure, Pa absolute, at ``temperature_k``; raises BadInputError outside the table."""
        row = T_DEW if point == "dew" else T_BUBBLE
        values = self._rows[row]
        low, high, last = values[0], values[-1], len(values) - 1
        if not low <= temperature_k <= high:
            raise BadInputError("temperature_k", round(temperature_k, 2), f"{low:.1f} to {high:.1f} K")
        i = min(max(bisect_left(values, temperature_k) - 1, 0), last - 1)
        u = min(max(i + (temperature_k - values[i]) / (values[i + 1] - values[i]), 0.0), float(last))
        return math.exp(self.arrays.ln_p_min + u * (self.arrays.ln_p_max - self.arrays.ln_p_min) / last)


@cache
def refrigerant(name: str) -> Refrigerant:
    """The ``Refrigerant`` called ``name``; raises BadInputError for an unknown one."""
    try:
        data, provenance = tables.load(name)
    except KeyError:
        raise BadInputError("refrigerant", name, ", ".join(tables.NAMES)) from None

    def array(key: str) -> np.ndarray:
        return np.ascontiguousarray(data[key], dtype=np.float64)

    h_span, s_span, t_span = (float(v) for v in data["spans"])
    arrays = PropertyArrays(
        ln_p_min=float(data["ln_p_range"][0]),
        ln_p_max=float(data["ln_p_range"][1]),
        h_span=h_span,
        s_span=s_span,
        t_span=t_span,
        saturation=array("saturation"),
        vapor=array("vapour"),
        vapor_h_by_s=array("vapour_h_by_s"),
        liquid=array("liquid"),
    )
    return Refrigerant(
        name=name,
        safety_class=provenance["safety_class"],
        charged_as_liquid=provenance["blend"],
        arrays=arrays,
        table_hash=provenance["sha256"],
    )
