"""The same circuit on a general property library: for checking the tables and for measuring against. Development only.

The equations are those of ``cycle.parts`` and ``cycle.balance``, taken as plain Python from their own source; only
the property look-ups are exchanged for calls into CoolProp, and the solver for ``scipy.optimize.root``. So what differs
is the property route and the search, not the model. Needs CoolProp and scipy, which the product does not install.
"""

from __future__ import annotations

import math
import types
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle import balance, properties
from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.parts import compressor, condenser, evaporator, metering
from wolfsbane.cycle.surroundings import saturated_air, surroundings_of

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

_FLUIDS = {
    "R-410A": "R410A",
    "R-22": "R22",
    "R-32": "R32",
    "R-134a": "R134a",
    "R-290": "R290",
    "R-600a": "R600a",
    "R-454B": "R454B.mix",
    "R-404A": "R404A.mix",
    "R-407C": "R407C.mix",
    "R-448A": "R448A.mix",
    "R-449A": "R449A.mix",
}


HIGH_LEVEL = "PropsSI"


class _HighLevelState:
    """The calls of a CoolProp state by way of ``PropsSI``, each property its own call, as most scripts write it."""

    def __init__(self, cp: Any, fluid: str) -> None:
        self.cp, self.fluid = cp, fluid
        self.names = {
            cp.PQ_INPUTS: ("P", "Q"),
            cp.HmassP_INPUTS: ("H", "P"),
            cp.PSmass_INPUTS: ("P", "S"),
            cp.PT_INPUTS: ("P", "T"),
        }

    def update(self, inputs: Any, a: Any, b: Any) -> None:
        one, two = self.names[inputs]
        self.ask = lambda key: self.cp.PropsSI(key, one, a, two, b, self.fluid)

    def T(self) -> Any:  # noqa: N802 - the name the library has
        return self.ask("T")

    def hmass(self) -> Any:
        return self.ask("H")

    def smass(self) -> Any:
        return self.ask("S")

    def rhomass(self) -> Any:
        return self.ask("D")


class Library:
    """Property calls through one CoolProp state; ``backend`` is HEOS (equations), BICUBIC&HEOS (its own tables) or
    :data:`HIGH_LEVEL`.
    """

    def __init__(self, name: str, backend: str = "HEOS") -> None:
        from CoolProp import CoolProp as cp  # noqa: N813

        self.cp = cp
        self.state = (
            _HighLevelState(cp, _FLUIDS[name]) if backend == HIGH_LEVEL else cp.AbstractState(backend, _FLUIDS[name])
        )
        arrays = properties.refrigerant(name).arrays
        self.ln_p_min, self.ln_p_max, self.h_span, self.t_span = (
            arrays.ln_p_min,
            arrays.ln_p_max,
            arrays.h_span,
            arrays.t_span,
        )
        self.saturated = lru_cache(maxsize=256)(self._saturated)

    def _saturated(self, ln_p: float) -> list[float]:
        p, s, found = math.exp(ln_p), self.state, [0.0] * 7
        for quality in (0.0, 1.0):
            s.update(self.cp.PQ_INPUTS, p, quality)
            if quality == 0.0:
                found[properties.T_BUBBLE], found[properties.H_F], found[properties.RHO_F] = (
                    s.T(),
                    s.hmass(),
                    s.rhomass(),
                )
            else:
                found[properties.T_DEW], found[properties.H_G] = s.T(), s.hmass()
                found[properties.S_G], found[properties.RHO_G] = s.smass(), s.rhomass()
        return found


def _saturation_at(lib: Library, row: int, ln_p: float) -> float:
    return lib.saturated(min(max(ln_p, lib.ln_p_min), lib.ln_p_max))[row]


def _ln_p_of(lib: Library, row: int, value: float) -> float:
    from scipy.optimize import brentq

    def miss(ln_p: Any) -> Any:
        return _saturation_at(lib, row, ln_p) - value

    if miss(lib.ln_p_min) >= 0.0:
        return lib.ln_p_min
    return lib.ln_p_max if miss(lib.ln_p_max) <= 0.0 else brentq(miss, lib.ln_p_min, lib.ln_p_max, xtol=1e-10)


def _temperature_density_entropy(lib: Library, ln_p: float, h: float) -> tuple[float, float, float]:
    h_f, h_g = _saturation_at(lib, properties.H_F, ln_p), _saturation_at(lib, properties.H_G, ln_p)
    if h_f < h < h_g:
        t_b, t_d = _saturation_at(lib, properties.T_BUBBLE, ln_p), _saturation_at(lib, properties.T_DEW, ln_p)
        x = (h - h_f) / (h_g - h_f)
        v = x / _saturation_at(lib, properties.RHO_G, ln_p) + (1 - x) / _saturation_at(lib, properties.RHO_F, ln_p)
        return t_b + x * (t_d - t_b), 1.0 / v, _saturation_at(lib, properties.S_G, ln_p) - (h_g - h) / t_d
    lib.state.update(lib.cp.HmassP_INPUTS, h, math.exp(ln_p))
    return lib.state.T(), lib.state.rhomass(), lib.state.smass()


def _enthalpy_at_entropy(lib: Library, ln_p: float, s: float) -> float:
    s_g, h_g = _saturation_at(lib, properties.S_G, ln_p), _saturation_at(lib, properties.H_G, ln_p)
    if s <= s_g:
        return h_g + _saturation_at(lib, properties.T_DEW, ln_p) * (s - s_g)
    lib.state.update(lib.cp.PSmass_INPUTS, math.exp(ln_p), s)
    return lib.state.hmass()


def _liquid_at(lib: Library, which: int, ln_p: float, subcooling: float) -> float:
    if subcooling <= 0.0:
        return 0.0 if which == 0 else _saturation_at(lib, properties.RHO_F, ln_p)
    lib.state.update(lib.cp.PT_INPUTS, math.exp(ln_p), _saturation_at(lib, properties.T_BUBBLE, ln_p) - subcooling)
    return lib.state.hmass() - _saturation_at(lib, properties.H_F, ln_p) if which == 0 else lib.state.rhomass()


def _subcooling_of(lib: Library, ln_p: float, h: float) -> float:
    if h >= _saturation_at(lib, properties.H_F, ln_p):
        return 0.0
    return _saturation_at(lib, properties.T_BUBBLE, ln_p) - _temperature_density_entropy(lib, ln_p, h)[0]


def _enthalpy_at_temperature(lib: Library, ln_p: float, t: float) -> float:
    if t <= _saturation_at(lib, properties.T_DEW, ln_p) + 1e-9:
        return _saturation_at(lib, properties.H_G, ln_p)
    lib.state.update(lib.cp.PT_INPUTS, math.exp(ln_p), t)
    return lib.state.hmass()


_CALLS = {
    "saturation_at": _saturation_at,
    "ln_p_of": _ln_p_of,
    "temperature_density_entropy": _temperature_density_entropy,
    "enthalpy_at_entropy": _enthalpy_at_entropy,
    "liquid_at": _liquid_at,
    "subcooling_of": _subcooling_of,
    "enthalpy_at_temperature": _enthalpy_at_temperature,
}


def _injected(module: Any, replaced: Any) -> Any:
    """The compiled functions of a module as plain Python, with the names in ``replaced`` exchanged:
    name -> function.
    """
    scope = {**vars(module), **replaced}
    functions = {
        name: f.py_func
        for name, f in vars(module).items()
        if hasattr(f, "py_func") and name not in replaced and f.py_func.__module__ == module.__name__
    }
    scope.update({name: types.FunctionType(f.__code__, scope, name, f.__defaults__) for name, f in functions.items()})
    return {name: scope[name] for name in functions}


@lru_cache(maxsize=1)
def plain_balance() -> dict[str, Any]:
    """The functions of ``cycle.balance`` on the library's properties, by name."""
    parts = {n: f for part in (compressor, condenser, evaporator, metering) for n, f in _injected(part, _CALLS).items()}
    return _injected(balance, {**_CALLS, **{name: f for name, f in parts.items() if hasattr(balance, name)}})


def solve_on_library(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...] = (),
    *,
    start: Any,
    backend: str = "HEOS",
    library: Any = None,
) -> tuple[np.ndarray, balance.Figures, bool]:
    """Solve on the library from ``start`` (ln Pe, ln Pc, h1) with ``scipy.optimize.root``: (x, Figures, success).

    ``library`` is a :class:`Library` to use again. Machines without a receiver.
    """
    from scipy.optimize import root

    faulted = plant(machine, faults)
    circuit, library = faulted.circuit, library or Library(faulted.refrigerant, backend)
    boundary = surroundings_of(circuit, conditions).boundary(conditions, balance.NO_RECEIVER)
    h_sat, plain = saturated_air(conditions), plain_balance()

    def residuals(u: Any) -> Any:
        r = np.empty(3)
        plain["residuals"](
            plain["trial"]((u[0], u[1], u[2] * 5e4), circuit, library, boundary, h_sat), circuit, boundary, r
        )
        return r

    found = root(residuals, np.array([start[0], start[1], start[2] / 5e4]), method="hybr", tol=1e-8)
    x = found.x * np.array([1.0, 1.0, 5e4])
    solved = plain["trial"](tuple(x), circuit, library, boundary, h_sat)
    return x, plain["figures"](solved, circuit, library, boundary), bool(found.success)
