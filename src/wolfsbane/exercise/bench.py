"""The instructor's bench: one machine with one fault, beside itself when sound, judged. Shows the answer."""

from wolfsbane.cycle import units
from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instruments import POINTS, read
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import FIGURES
from wolfsbane.exercise.call import UNITS, bands_for, figures_of
from wolfsbane.exercise.questions import fault_name
from wolfsbane.exercise.variant import judge

CUTOUTS = {"high_pressure": "high pressure", "low_pressure": "low pressure",
           "discharge_temperature": "discharge temperature"}
_LABELS = {"superheat": "Superheat", "subcooling": "Subcooling", "evaporator_td": "Evaporator TD", "ctoa": "CTOA"}
#: drawn range of each figure's bar, degrees F
_SCALES_DF = {"superheat": (-5.0, 45.0), "subcooling": (-5.0, 30.0), "evaporator_td": (15.0, 60.0),
              "ctoa": (0.0, 45.0)}


def trip_sentence(trip):
    """What a technician sees: "trips on high pressure after about 40 s"."""
    return f"trips on {CUTOUTS[trip.cutout]} after about {round(trip.after_s)} s"


def fill(state):
    """Zone shares for the circuit picture."""
    return {"condenser_gas": state.condenser_gas_share, "condenser_two_phase": state.condenser_two_phase_share,
            "condenser_liquid": max(0.0, state.condenser_liquid_share),
            "evaporator_boiling": state.evaporator_boiling_share, "flash": state.valve_inlet_quality,
            "flood_back": state.flood_back, "frosting": state.frosting}


def bench(machine, conditions, fault, practice, kit, system):
    """Everything the bench shows, as plain data. ``fault`` is a Fault or None.

    Raises BadInputError; a machine that cuts out answers with ``trip`` and no readings.
    """
    sound = solve(machine, conditions)
    state = solve(machine, conditions, (fault,) if fault else ())
    if state.trip is not None or sound.trip is not None:
        trip = state.trip or sound.trip
        return {"trip": {"cutout": trip.cutout, "after_s": round(trip.after_s), "sentence": trip_sentence(trip)},
                "readings": [], "figures": [], "dials": [], "fill": None, "sound_fill": None, "capacity": None,
                "judged": None}
    now, before = read(state, kit, system), read(sound, kit, system)
    return {
        "trip": None,
        "readings": [{"id": key, "label": POINTS[key][0], "now": _quantity(now[key]), "sound": _quantity(before[key])}
                     for key in POINTS],
        "figures": _figures(machine, conditions, practice, system, now, before),
        "dials": [{**dial(side, system, now[key].value, machine.refrigerant, conditions.barometer_pa),
                   "text": now[key].text, "sound_value": before[key].value}
                  for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))],
        "fill": fill(state), "sound_fill": fill(sound), "capacity": _capacity(state, system),
        "judged": _judged(machine, conditions, fault, practice, kit, system),
    }


def _quantity(reading):
    return {"value": reading.value, "unit": reading.unit, "text": reading.text}


def _capacity(state, system):
    if system == "us":
        value = round(state.capacity_w / units.W_PER_BTUH, -2)
        return {"value": value, "unit": "Btu/h", "text": f"{value:,.0f} Btu/h"}
    value = round(state.capacity_w / 1000, 1)
    return {"value": value, "unit": "kW", "text": f"{value:.1f} kW"}


def _figures(machine, conditions, practice, system, now, before):
    unit = UNITS[system]["difference"]
    k = 1.0 if system == "us" else 1 / 1.8
    targets = bands_for(machine, practice, system, now)
    values = figures_of(machine, now, system, conditions.barometer_pa)
    sound = figures_of(machine, before, system, conditions.barometer_pa)
    made = lambda v: {"value": round(v, 2), "unit": unit, "text": f"{round(v, 1) + 0.0:.1f} {unit}"}  # noqa: E731
    return [{"id": name, "label": _LABELS[name], "now": made(values[name]), "sound": made(sound[name]),
             "band_low": round(targets[name].low, 2), "band_high": round(targets[name].high, 2),
             "band_text": f"{targets[name].low:.1f} to {targets[name].high:.1f} {unit}",
             "scale_low": round(_SCALES_DF[name][0] * k, 2), "scale_high": round(_SCALES_DF[name][1] * k, 2),
             "verdict": targets[name].verdict(values[name])} for name in FIGURES]


def _judged(machine, conditions, fault, practice, kit, system):
    judgement = judge(machine, conditions, fault, practice, kit, system)
    sentence = "One defensible answer." if judgement.refusal is None else f"Not fair yet: {judgement.refusal}."
    rows = [{"fault": item.fault, "name": "Sound machine" if item.fault == NONE else fault_name(item.fault),
             "distance": round(item.distance, 2)} for item in judgement.look_alikes[:4]]
    return {"fair": judgement.refusal is None, "sentence": sentence, "look_alikes": rows}


def fault_of(fault_id, severity):
    """A checked Fault, or None for ``none``. Raises BadInputError."""
    if fault_id == NONE:
        return None
    kind = fault_kind(fault_id)
    return Fault(id=fault_id, severity=kind.level("moderate" if severity is None else severity))

