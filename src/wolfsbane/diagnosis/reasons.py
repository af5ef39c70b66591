"""Reasons in the trade's words: which figures speak for an explanation, and which against."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.quantities import said_of
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.hypotheses import LOADS
from wolfsbane.diagnosis.likelihoods import CHECKS, share
from wolfsbane.diagnosis.space import AT, DISAGREE_DF, differences_of
from wolfsbane.diagnosis.stand_in import weather_f
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL, Band, bands

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.diagnosis.observed import Observed
    from wolfsbane.diagnosis.posterior import Weighed
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.stand_in import StandIn

#: figures that speak for or against an answer, in the order they are told
_SPEAKING = (
    "superheat",
    "subcooling",
    "evaporator_td",
    "ctoa",
    "drier_drop",
    "air_delta_t",
    "evaporator_superheat",
)
MEANING = {
    ("superheat", HIGH): "the evaporator is starved",
    ("superheat", LOW): "liquid reaches too far through the evaporator",
    ("evaporator_superheat", HIGH): "the evaporator is starved",
    ("evaporator_superheat", LOW): "liquid reaches too far through the evaporator",
    ("subcooling", LOW): "the condenser is short of liquid",
    ("subcooling", HIGH): "liquid is backed up in the condenser",
    ("evaporator_td", HIGH): "the coil is colder than this air explains",
    ("evaporator_td", LOW): "suction is high for this air",
    ("ctoa", HIGH): "the condenser is not rejecting its heat",
    ("ctoa", LOW): "little heat is reaching the condenser",
    ("drier_drop", HIGH): "liquid loses pressure and flashes there",
    ("air_delta_t", HIGH): "little air is going over the coil",
    ("air_delta_t", LOW): "little cooling is reaching the air",
}
#: both verdicts together say more than each alone: family -> (superheat, subcooling, sentence)
_TOGETHER = {
    "undercharge": (HIGH, LOW, "both coils look short of liquid"),
    "overcharge": (LOW, HIGH, "both coils look full of liquid"),
    "valve_overfeeding": (
        LOW,
        LOW,
        "superheat and subcooling point to opposite charges: it is the TXV, not the charge",
    ),
    "orifice_oversized": (
        LOW,
        LOW,
        "superheat and subcooling point to opposite charges: it is the orifice, not the charge",
    ),
    "valve_underfeeding": (
        HIGH,
        HIGH,
        "superheat and subcooling point to opposite charges: liquid is backed up ahead of the coil",
    ),
    "orifice_undersized": (
        HIGH,
        HIGH,
        "superheat and subcooling point to opposite charges: liquid is backed up ahead of the coil",
    ),
    "liquid_line_restriction": (
        HIGH,
        HIGH,
        "superheat and subcooling point to opposite charges: liquid is backed up ahead of the coil",
    ),
}
_CHECK_TEXT = {
    "filter": "the filter is {}",
    "condenser_coil": "the condenser coil is {}",
    "evaporator_coil": "the evaporator coil is {}",
    "blower_wheel": "the blower wheel is {}",
    "bulb": "the bulb is {}",
    "oil_traces": "oil traces: {}",
    "condenser_wet": "condenser wet: {}",
    "evaporator_ice": "ice on the evaporator: {}",
    "pump_down": "on a pump-down the {}",
    "bulb_warmed": "warming the bulb: {}",
    "bulb_chilled": "chilling the bulb: {}",
    "standing_pressure": "the standing pressure {}",
    "coil_face": "the coil's face is {}",
    "sight_glass": "sight glass and receiver: {}",
    "compressor_sound": "the compressor sounds {}",
}
LEAKS_IN = "low charge cannot be told from suction pressure alone"


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One worked-out figure in degrees F with its band; ``verdict`` is low, normal or high,
    None where nothing judges it.
    """

    name: str
    value: float
    band: Band | None
    verdict: str | None


def figures(seen: Observed, stand: StandIn, practice: Practice) -> list[Figure]:
    """Figures that can be worked out of what was seen, judged where a target is known: list of :class:`Figure`."""
    r, c, worked = seen.readings, seen.conditions, differences_of(seen)
    found = dict(worked)
    for name in ("superheat", "subcooling", "evaporator_superheat"):
        if name in r:
            found.setdefault(name, r[name].value)
    inside = c.get("box" if stand.machine.refrigeration else "return_db")
    outside = r["water_in"].value if "water_in" in r else c.get("outdoor_db")
    if "suction_saturation" in worked and inside is not None:
        found["evaporator_td"] = inside - worked["suction_saturation"]
    if "liquid_saturation" in worked and outside is not None:
        found["ctoa"] = worked["liquid_saturation"] - outside
    if "drier_in" in r and "drier_out" in r:
        found["drier_drop"] = r["drier_in"].value - r["drier_out"].value
    if "supply_db" in r and inside is not None:
        found["air_delta_t"] = inside - r["supply_db"].value
    targets = targets_of(seen, stand, practice)
    return [
        Figure(
            name=name,
            value=found[name],
            band=targets.get(name),
            verdict=targets[name].verdict(found[name]) if name in targets else None,
        )
        for name in (*_SPEAKING, "suction_saturation", "liquid_saturation")
        if name in found
    ]


def targets_of(seen: Observed, stand: StandIn, practice: Practice) -> dict[str, Band]:
    """Target bands in degrees F: name -> Band, as far as plate, weather and practice tell."""
    outdoor, _, wet = weather_f(stand)
    found = bands(stand.machine, practice, "us", outdoor, wet)
    if stand.machine.metering == "fixed_orifice" and not {"outdoor_db", "return_wb"} <= set(seen.conditions):
        found.pop("superheat", None)
    if "outdoor_db" not in seen.conditions and "water_in" not in seen.readings:
        found.pop("ctoa", None)
    if stand.subcooling_df is not None:
        width = (
            practice.subcooling_tolerance_df
            if seen.plate.plate_subcooling_df is not None
            else 0.5 * (practice.subcooling_without_plate_df[1] - practice.subcooling_without_plate_df[0])
        )
        target = stand.subcooling_df[0]
        found["subcooling"] = Band(low=target - width, high=target + width, target=target)
    if seen.plate.receiver:
        found.pop("subcooling", None)
    if seen.plate.plate_superheat_df and seen.plate.metering in ("txv", "eev"):
        low, high = seen.plate.plate_superheat_df
        found["evaporator_superheat"] = Band(low=low, high=high)
        found["superheat"] = Band(
            low=low, high=max(high + 6.0, 20.0) if not stand.machine.refrigeration else high + 15.0
        )
    elif seen.plate.metering in ("txv", "eev"):
        found["evaporator_superheat"] = Band(low=6.0, high=14.0)
    found["drier_drop"] = Band(low=-5.0, high=practice.drier_limit_df)
    if stand.machine.comfort:
        found["air_delta_t"] = Band(low=15.0, high=23.0)
    if stand.heating:
        found = {k: v for k, v in found.items() if k in ("subcooling", "drier_drop", "evaporator_superheat")}
    return found


def shown(vector: np.ndarray, stand: StandIn) -> dict[str, float]:
    """The same figures of a machine's vector."""
    outdoor, return_f, _ = weather_f(stand)

    def y(name: str) -> Any:
        return vector[AT[name]]

    return {
        "superheat": y("suction_line") - y("suction_saturation"),
        "subcooling": y("liquid_saturation") - y("liquid_line"),
        "evaporator_td": return_f - y("suction_saturation"),
        "ctoa": y("liquid_saturation") - outdoor,
        "drier_drop": y("drier_drop"),
        "air_delta_t": return_f - y("supply"),
        "evaporator_superheat": y("evaporator_outlet") - y("coil_saturation"),
    }


def name_of(answer_id: Any) -> Any:
    """A fault, pair, or answer in plain words."""
    if answer_id == NONE:
        return "nothing wrong"
    names = [(FAULTS.get(part) or INSTRUMENT_FAULTS[part]).name for part in answer_id.split("+")]
    return " and ".join(n[0].lower() + n[1:] for n in names)


def _amount(value: float) -> str:
    return f"{value:.0f}".replace("-", "−").replace("−0", "0") if abs(value) < 0.5 else f"{value:.0f}".replace("-", "−")


#: within so much of an edge the whole degree would not show on which side a figure lies, °F
_CLOSE = 0.75


def _edge(row: Figure) -> float | None:
    """The edge of its band on which the verdict of a figure hangs by less than a degree."""
    edges = () if row.band is None else (row.band.low, row.band.high)
    return next((edge for edge in edges if abs(row.value - edge) < _CLOSE), None)


def _read(row: Figure) -> str:
    """A figure as it is said: whole degrees, to the tenth where the verdict hangs on it."""
    return _amount(row.value) if _edge(row) is None else f"{row.value:.1f}".replace("-", "−")


def _against_band(row: Figure) -> str:
    band = row.band
    if band is None:
        return "no target"

    def said(edge: float) -> str:
        return f"{edge:.1f}".replace("-", "−") if edge == _edge(row) and edge % 1 else _amount(edge)

    if row.name == "subcooling" and band.target is not None:
        close = _edge(row)
        return f"a target of {_amount(band.target)}" + (
            "" if close is None else f", {said(band.low)} to {said(band.high)}"
        )
    return f"at most {said(band.high)}" if row.name == "drier_drop" else f"{said(band.low)} to {said(band.high)}"


def reasons(weighed: Weighed, rows: list[Figure], seen: Observed, stand: StandIn) -> tuple[list[str], list[str]]:
    """(for, against): lists of sentences for one :class:`~wolfsbane.diagnosis.posterior.Weighed` and rows of
    :class:`Figure`.
    """
    speaks, against = [], []
    predicted = shown(weighed.vector, stand)
    ids = weighed.family.ids
    harmless = not ids or ids[0] in LOADS
    for row in rows:
        if row.verdict is None or row.band is None:
            continue
        label, said = said_of(row.name), f"{said_of(row.name)} {_read(row)} °F"
        would = row.band.verdict(predicted[row.name])
        if row.verdict != NORMAL and (would == row.verdict and not harmless):
            speaks.append(f"{said} against {_against_band(row)}: {MEANING.get((row.name, row.verdict), row.verdict)}")
        elif row.verdict != NORMAL and harmless:
            if abs(predicted[row.name] - row.value) < 3.0:
                speaks.append(
                    f"{said} is {row.verdict} by the rule of thumb, but normal for this machine in this weather"
                )
            else:
                against.append(f"{said} against {_against_band(row)} is {row.verdict}")
        elif row.verdict != NORMAL:
            against.append(f"{said} is {row.verdict}, where {_amount(predicted[row.name])} would go with it")
        elif harmless:
            speaks.append(f"{said} against {_against_band(row)}: right")
        elif would != NORMAL and abs(predicted[row.name] - row.value) > 3.0:
            against.append(f"{label} {_read(row)} °F is right, where {_amount(predicted[row.name])} would go with it")
        elif len(ids) == 1 and _tells(ids[0], row.name):
            speaks.append(f"{said} is normal: that rules against {_tells(ids[0], row.name)}")
    _together(ids, rows, speaks)
    _impossible(ids, rows, seen, speaks)
    _checked(ids, seen, speaks, against)
    if ids == ("undercharge",) and not any(r.name in ("superheat", "subcooling", "evaporator_superheat") for r in rows):
        against.append(LEAKS_IN)
    if ids == ("valve_hunting",):
        speaks.append(
            "the readings are swinging" if any(s.flutter for s in seen.readings.values()) else "no reading was swinging"
        )
    return speaks, against


def _tells(family: str, figure: str) -> str | None:
    """What a right figure rules out, for the families it is often mistaken for."""
    table = {
        ("low_airflow", "subcooling"): "a low charge",
        ("dirty_condenser", "subcooling"): "an overcharge",
        ("condenser_fan_weak", "subcooling"): "an overcharge",
        ("leaking_compressor_valves", "superheat"): "the metering device",
        ("liquid_line_restriction", "subcooling"): "a low charge",
        ("valve_underfeeding", "subcooling"): "a low charge",
        ("valve_underfeeding", "drier_drop"): "a restriction in the line",
    }
    return table.get((family, figure))


def _together(ids: tuple[str, ...], rows: list[Figure], speaks: list[str]) -> None:
    verdicts = {r.name: r.verdict for r in rows}
    heat = verdicts.get("superheat", verdicts.get("evaporator_superheat"))
    for family in ids:
        pattern = _TOGETHER.get(family)
        if pattern and heat == pattern[0] and verdicts.get("subcooling") == pattern[1]:
            speaks.append(f"superheat {pattern[0]} and subcooling {pattern[1]}: {pattern[2]}")


def _impossible(ids: tuple[str, ...], rows: list[Figure], seen: Observed, speaks: list[str]) -> None:
    """Figures a running machine cannot show, where an instrument is suspected."""
    if not ids or ids[0] not in INSTRUMENT_FAULTS:
        return
    values = {r.name: r.value for r in rows}
    if values.get("subcooling", 0.0) < -2.0:
        speaks.append(f"subcooling {_amount(values['subcooling'])} °F: liquid cannot be hotter than its saturation")
    if values.get("superheat", 0.0) < -2.0:
        speaks.append(
            f"superheat {_amount(values['superheat'])} °F: the suction line cannot be colder than its saturation"
        )
    if (
        "suction" in seen.readings
        and "head" in seen.readings
        and seen.readings["suction"].value > seen.readings["head"].value + 5.0
    ):
        speaks.append("the low-side gauge reads higher than the high-side gauge")
    if values.get("ctoa", 1.0) < 0.0:
        speaks.append(
            f"CTOA {_amount(values['ctoa'])} °F: a dry condenser cannot condense below its entering air temperature"
        )
    if not speaks:
        speaks.append(INSTRUMENT_FAULTS[ids[0]].seen)


def _checked(ids: tuple[str, ...], seen: Observed, speaks: list[str], against: list[str]) -> None:
    for check, word in seen.telling.items():
        if check not in CHECKS:
            continue
        ratio = share(check, word, ids) / share(check, word, ())
        said = ("yes" if word else "no") if isinstance(word, bool) else word.replace("_", " ")
        text = _CHECK_TEXT.get(check, check.replace("_", " ") + ": {}").format(said)
        if ratio > 2.0:
            speaks.append(text)
        elif ratio < 0.5:
            against.append(text)


def contradictions(seen: Observed) -> list[Any]:
    """Sentences for figures that do not follow from the readings beside them."""
    worked = differences_of(seen)
    return [
        f"{name} is given as {_amount(seen.readings[name].value)} °F, but its own readings say {_amount(worked[name])}:"
        " check sum and scale"
        for name in ("superheat", "subcooling")
        if name in worked and name in seen.readings and abs(worked[name] - seen.readings[name].value) >= DISAGREE_DF
    ]


def computed(rows: list[Figure], seen: Observed, stand: StandIn) -> dict[str, Any]:
    """Figures, their targets and what was guessed, under contract keys, rounded to a tenth."""
    found: dict[str, Any] = {
        f"{r.name}{'_f' if r.name.endswith('saturation') else '_df'}": round(r.value, 1) + 0.0 for r in rows
    }
    found["targets"] = {
        f"{r.name}_df": [round(r.band.low, 1), round(r.band.high, 1)] for r in rows if r.band is not None
    }
    found["verdicts"] = {r.name: r.verdict for r in rows if r.verdict is not None}
    found["compared_with"] = stand.machine.id
    found["contradictions"] = contradictions(seen)
    if stand.guessed:
        outdoor, inside, wet = weather_f(stand)
        named = {"outdoor_db": outdoor, "water_in": outdoor, "return_db": inside, "box": inside, "return_wb": wet}
        found["guessed_f"] = {key: round(named[key], 1) for key in stand.guessed}
    if (
        seen.conditions.get("outdoor_db") is not None
        and abs(k_to_f(stand.conditions.outdoor_k) - seen.conditions["outdoor_db"]) > 1.0
        and not stand.heating
    ):
        found["outdoor_solved_at_f"] = round(k_to_f(stand.conditions.outdoor_k), 1)
    return found
