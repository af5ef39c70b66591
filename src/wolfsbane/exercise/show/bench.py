"""The instructor's bench: one machine with any faults, beside itself with nothing wrong, judged. Shows the answer."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import units
from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault, fault_kind
from wolfsbane.cycle.heating import indoors
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, of_instruments, scale_of
from wolfsbane.cycle.instruments import label, points_for, read
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, instruments_on_paper
from wolfsbane.diagnosis.difficulty import difficulty
from wolfsbane.diagnosis.figures import saturation, work_out
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.rivals import SAME
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.exercise.draw.judgement import judge_on
from wolfsbane.exercise.paper.call import UNITS, bands_for, figures_of
from wolfsbane.exercise.plan.call_kind import figure_called, figures_judged, kind_of
from wolfsbane.exercise.plan.severity import severity_text
from wolfsbane.exercise.plan.story import notices
from wolfsbane.exercise.show.pictures import pressure_enthalpy

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.instruments import Reading
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState, Trip
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.proof import Claim
    from wolfsbane.diagnosis.solved_cases import SolvedCases

CUTOUTS = {
    "high_pressure": "high pressure",
    "low_pressure": "low pressure",
    "discharge_temperature": "discharge temperature",
    "overload": "the compressor's overload",
}
#: vapor share of the liquid line that shows as bubbles
_FLASHES = 1e-3
#: drawn range of each figure's bar, degrees F
_SCALES_DF = {
    "superheat": (-5.0, 45.0),
    "evaporator_superheat": (-5.0, 45.0),
    "subcooling": (-5.0, 30.0),
    "evaporator_td": (15.0, 60.0),
    "ctoa": (0.0, 45.0),
}

_BOX_SCALES_DF = {"evaporator_td": (-5.0, 45.0)}
_HEATING_SCALES_DF = {"evaporator_td": (-5.0, 40.0), "ctoa": (0.0, 70.0)}


def trip_sentence(trip: Trip) -> str:
    """What a technician sees: "trips on high pressure after about 40 s"."""
    return f"trips on {CUTOUTS[trip.cutout]} after about {round(trip.after_s)} s"


def fill(state: CircuitState, fault_free: CircuitState | None = None, faults: tuple[Fault, ...] = ()) -> dict[str, Any]:
    """What the circuit picture shows of a state, as shares of the coils;
    airs are shares of what the ``fault_free`` machine moves.
    """
    fault_free = fault_free or state
    twin = state.twin
    return {
        "condenser_gas": state.condenser_gas_share,
        "condenser_two_phase": state.condenser_two_phase_share,
        "condenser_liquid": max(0.0, state.condenser_liquid_share),
        "evaporator_boiling": state.evaporator_boiling_share,
        "flash": state.valve_inlet_quality,
        "glass": state.sight_glass_quality > _FLASHES,
        "flood_back": state.flood_back,
        "slugging": state.slugging,
        "frosting": state.frosting,
        "receiver": None if state.receiver is None else state.receiver.level,
        "evaporator_air": state.airflow_kg_s / fault_free.airflow_kg_s,
        "condenser_air": _stream(state) / _stream(fault_free),
        "blocked": sum(f.severity for f in faults if f.id == "distributor_blocked") / 100.0,
        "opening": state.valve_opening,
        "swings": state.swing is not None,
        "stands": state.equalized,
        "second": None if twin is None else "stands" if twin.equalized or twin.trip else "runs",
    }


def _stream(state: CircuitState) -> float:
    """Heat capacity rate of the air or water through the condenser, up to a constant;
    1 for a machine that rejects nothing.
    """
    rise_k = state.condenser_air_out_k - state.condenser_entering_k
    return state.condenser_heat_w / rise_k if rise_k > 0.01 and state.condenser_heat_w > 0.0 else 1.0


def bench(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], practice: Practice, kit: str, system: str
) -> dict[str, Any]:
    """Everything the bench shows, as plain data. ``faults`` is a tuple of Fault, of the machine and of the instruments.

    Raises BadInputError; a machine that cuts out answers with ``trip`` and no readings.
    """
    planted = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    disturbed = tuple(f for f in faults if f.id in INSTRUMENT_FAULTS)
    fault_free = solve(machine, conditions)
    state = solve(machine, conditions, planted)
    trip = state.trip or fault_free.trip
    if trip is not None:
        return {
            "trip": {"cutout": trip.cutout, "after_s": round(trip.after_s), "sentence": trip_sentence(trip)},
            "readings": [],
            "figures": [],
            "dials": [],
            "fill": None,
            "fault_free_fill": None,
            "capacity": None,
            "signs": [],
            "loop": None,
        }
    keys = points_for(machine)
    now = read(state, kit, system, machine=machine, keys=keys, instrument_faults=disturbed, faults=planted)
    before = read(fault_free, kit, system, machine=machine, keys=keys)
    pt_scale = scale_of(machine, disturbed)
    return {
        "trip": None,
        "readings": [
            {"id": key, "label": label(key, machine), "now": _quantity(now[key]), "fault_free": _quantity(before[key])}
            for key in now
        ],
        "figures": _figures(machine, conditions, practice, system, now, before, pt_scale),
        "dials": _dials(machine, conditions, pt_scale, system, now, before),
        "fill": fill(state, fault_free, planted),
        "fault_free_fill": fill(fault_free),
        "capacity": _capacity(machine, state, planted, system),
        "signs": _signs(machine, state, planted, pt_scale),
        "loop": pressure_enthalpy(state, fault_free, system),
    }


def _dials(
    machine: Machine,
    conditions: Conditions,
    pt_scale: str,
    system: str,
    now: dict[str, Reading],
    before: dict[str, Reading],
) -> list[dict[str, Any]]:
    """Both dials with what they read, converted on the PT scale that is set."""
    held = on_the_scale(pt_scale, now, system, conditions.barometer_pa)
    unit, found = UNITS[system]["temperature"], []
    for side, key, point in (("low", "suction_pressure", "dew"), ("high", "head_pressure", "bubble")):
        converted = saturation(pt_scale, held[key], point, system, conditions.barometer_pa)
        found.append(
            {
                **dial(
                    side, system, now[key].value, pt_scale, conditions.barometer_pa, refrigeration=machine.refrigeration
                ),
                "text": now[key].text,
                "fault_free_value": before[key].value,
                "saturation": f"{round(converted, 1) + 0.0:.1f} {unit} {point}",
            }
        )
    return found


def _signs(machine: Machine, state: CircuitState, planted: tuple[Fault, ...], pt_scale: str) -> list[str]:
    """Sentences for what no gauge shows: glass and level, liquid coming back, ice, a swinging valve,
    the other circuit.
    """
    found = []
    if state.receiver is not None:
        glass = "bubbles in the sight glass" if state.sight_glass_quality > _FLASHES else "clear sight glass"
        found.append(f"Receiver {100 * state.receiver.level:.0f} % full, {glass}.")
    if state.equalized:
        found.append("Pressures stay equal: the compressor is not pumping.")
    if state.slugging:
        found.append("Liquid is slugging back; discharge temperature is no guide.")
    elif state.flood_back:
        found.append("Liquid is flooding back to the compressor.")
    if state.frosting and machine.in_heating:
        found.append("The outdoor coil is frosting; these readings are from before the frost.")
    elif state.frosting and machine.comfort:
        found.append("The coil is below freezing and will ice up; these readings are from before the ice.")
    if state.swing is not None:
        found.append("The TXV is hunting: readings swing over the ranges shown.")
    if state.twin is not None:
        stopped = state.twin.equalized or state.twin.trip
        found.append("The second circuit does not run." if stopped else "The second circuit runs.")
    if pt_scale != machine.refrigerant:
        found.append(f"Saturation is read on the {pt_scale} scale; the machine holds {machine.refrigerant}.")
    if any(f.id == "wrong_refrigerant" for f in planted):
        found.append(f"{state.refrigerant} is in it; the nameplate says {machine.refrigerant}.")
    return found


def _quantity(reading: Reading) -> dict[str, Any]:
    return {"value": reading.value, "unit": reading.unit, "text": reading.text}


def _capacity(machine: Machine, state: CircuitState, planted: tuple[Fault, ...], system: str) -> dict[str, Any]:
    """What the coil takes, or in heating what the house is given."""
    watts = indoors(machine, planted, state).heat_w if machine.in_heating else state.capacity_w
    if system == "us":
        value = round(watts / units.W_PER_BTUH, -2)
        return {"value": value, "unit": "Btu/h", "text": f"{value:,.0f} Btu/h"}
    value = round(watts / 1000, 1)
    return {"value": value, "unit": "kW", "text": f"{value:.1f} kW"}


def _figures(
    machine: Machine,
    conditions: Conditions,
    practice: Practice,
    system: str,
    now: dict[str, Reading],
    before: dict[str, Reading],
    pt_scale: str,
) -> list[dict[str, Any]]:
    unit = UNITS[system]["difference"]
    k = 1.0 if system == "us" else 1 / 1.8
    scales = {
        **_SCALES_DF,
        **({} if machine.comfort else _BOX_SCALES_DF),
        **(_HEATING_SCALES_DF if machine.in_heating else {}),
    }
    targets = bands_for(machine, practice, system, now)
    values = work_out(
        pt_scale, on_the_scale(pt_scale, now, system, conditions.barometer_pa), system, conditions.barometer_pa
    )
    fault_free = figures_of(machine, before, system, conditions.barometer_pa)

    def made(v: Any) -> Any:
        return {"value": round(v, 2), "unit": unit, "text": f"{round(v, 1) + 0.0:.1f} {unit}"}

    return [
        {
            "id": name,
            "label": figure_called(name, machine),
            "now": made(values[name]),
            "fault_free": made(fault_free[name]),
            "band_low": round(targets[name].low, 2),
            "band_high": round(targets[name].high, 2),
            "band_text": f"{targets[name].low:.1f} to {targets[name].high:.1f} {unit}",
            "scale_low": round(scales[name][0] * k, 2),
            "scale_high": round(scales[name][1] * k, 2),
            "verdict": targets[name].verdict(values[name]),
        }
        for name in figures_judged(machine)
        if name in values and name in fault_free
    ]


def on_the_scale(pt_scale: str, readings: dict[str, Reading], system: str, barometer_pa: float) -> dict[str, float]:
    """Printed values with pressures held at the ends of the PT scale:
    a needle off its PT scale is read at the last mark.
    """
    fluid, values = refrigerant(pt_scale), {k: r.value for k, r in readings.items()}
    low, high = (
        units.to_display("pressure", p, system, barometer_pa) for p in (1.001 * fluid.min_pa, 0.999 * fluid.max_pa)
    )
    return values | {k: min(max(values[k], low), high) for k in ("suction_pressure", "head_pressure") if k in values}


def judged(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    tests: tuple[str, ...] = (),
    readings: Any = None,
) -> dict[str, Any]:
    """Whether one or two faults make a fair call on paper with what is given, with the reason: {fair, sentence}."""
    kind, disturbed = kind_of(cases.machine), of_instruments(faults)
    bench_only = not {f.id for f in disturbed} <= set(instruments_on_paper(cases.kit)) or (disturbed and kind.pipes)
    if bench_only or any(f.id in NOT_ON_PAPER for f in faults) or len(faults) > 2 or len(disturbed) > 1:
        return {
            "fair": False,
            "sentence": "For the bench only: it cannot be a call on paper. The proof shows what its readings prove.",
        }
    carried = tuple(dict.fromkeys((*kind.looks, *tests)))
    judgement = judge_on(cases, faults, practice, system, tests=carried, readings=readings, pipes=kind.pipes)
    fair = judgement.refusal is None
    return {
        "fair": fair,
        "sentence": (
            "Fair on paper: no other answer the sheet offers fits."
            if fair
            else f"Not fair on paper: {judgement.refusal}."
        ),
    }


def proved_and_judged(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    tests: tuple[str, ...],
    readings: Any,
    practice: Practice,
    kit: str,
    system: str,
) -> dict[str, Any]:
    """What the readings of a planted machine prove, and whether they make a fair call on paper (``judged``). Raises
    NoConvergenceError where even the machine with nothing wrong finds no steady operating point.
    """
    cases = solved_cases(machine, conditions, kit)
    found = proved(cases, faults, tests, readings, system)
    return found | {"judged": judged(cases, faults, practice, system, tests, readings)}


def proved(
    cases: SolvedCases, faults: tuple[Fault, ...], tests: tuple[str, ...], readings: Any, system: str = "us"
) -> dict[str, Any]:
    """What the readings prove, for the bench: answer, equals and nearest look-alikes with their distance,
    what splits, difficulty.
    """
    proof = prove(cases, faults, readings=readings, tests=tests, wants_weather=True)

    def called(answer_id: str) -> str:
        return names(answer_id, cases.machine.in_heating)

    def claim(c: Claim) -> dict[str, Any]:
        return c.to_json() | {"nearest": None if c.nearest is None else called(c.nearest)}

    def row(r: Any) -> Any:
        return {
            "fault": r.id,
            "name": called(r.id),
            "distance": round(r.distance, 2),
            "ruled_out": r.distance <= SAME and r.id not in proof.accepted,
            "severities": ", ".join(
                severity_text(f, system) for f in sorted(r.faults, key=lambda f: r.id.split("+").index(f.id))
            ),
        }

    # the simulated apprentices have learned cooling only
    hard = None if proof.refusal else difficulty(cases, faults, proof)
    return {
        "answer": proof.answer,
        "unique": proof.unique,
        "refusal": proof.refusal,
        "equals": [row(r) for r in proof.equals],
        "nearest": [row(r) for r in proof.nearest],
        "splits": [
            {
                "kind": s.kind,
                "id": s.id,
                "text": s.text,
                "minutes": s.minutes,
                "removes": [called(x) for x in s.removes],
            }
            for s in proof.splits
        ],
        "left": [called(x) for x in proof.left],
        "claims": [claim(c) for c in proof.claims],
        "weakest": None if proof.weakest is None else claim(proof.weakest),
        "difficulty": None if hard is None else hard.to_json(),
    }


def names(answer_id: str, in_heating: bool = False) -> str:
    """Faults joined by "+" in plain words."""
    if answer_id == NONE:
        return "Nothing wrong"
    return " with ".join(
        FAULTS[part].named(in_heating) if part in FAULTS else INSTRUMENT_FAULTS[part].name
        for part in answer_id.split("+")
    )


def faults_of(rows: list[dict[str, str]], machine: Machine) -> tuple[Fault, ...]:
    """Checked faults from plain rows {id, severity, cause}: severity None is moderate on ``machine``. Raises
    BadInputError.
    """
    found = []
    for row in rows:
        if row["id"] == NONE:
            continue
        kind = INSTRUMENT_FAULTS.get(row["id"]) or fault_kind(row["id"]).on(machine)
        severity = kind.level("moderate" if row.get("severity") is None else row["severity"])
        found.append(Fault(id=row["id"], severity=severity, cause=kind.cause(row.get("cause")).id))
    return tuple(found)


def noticed(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> set[str]:
    """What a customer may notice of the machine with ``faults``; nothing where it has no steady operating point."""
    planted = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    try:
        return notices(solve(machine, conditions, planted), solve(machine, conditions))
    except NoConvergenceError:
        return set()
