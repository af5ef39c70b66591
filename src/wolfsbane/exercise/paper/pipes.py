"""A call without gauges: saturation is read off two pipes where the refrigerant is surely two-phase.

The evaporator inlet stands for the low side, a return bend half-way down the condenser for the high side. Saves opening
a critically charged circuit; not for mild weather (common practice, no source). A variant counts only where the pipes
lead to the same verdicts as gauges would.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import PIPES, usual_points
from wolfsbane.diagnosis.figures import SATURATIONS, subtracted
from wolfsbane.exercise.paper.key import Slip
from wolfsbane.exercise.plan.call_kind import reads_pipes

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.plan.scenario import Scenario

#: saturation -> the pipe it is read off
PIPE_OF = {"suction_saturation": "evaporator_inlet", "liquid_saturation": "condenser_bend"}
#: below this outdoors nobody should judge by pipes
MILD_F = 70.0
#: a pipe may stand this far from the saturation it stands for, degrees F
_FAR_DF = 3.0
_TEXT = {
    "suction_saturation": "Suction saturation, from the evaporator inlet line",
    "liquid_saturation": "Condensing temperature, from the condenser return bend",
    "after_suction": "Evaporator inlet temperature, after the repair",
    "after_head": "Condensing temperature, after the repair",
}


def pipes_given(machine: Machine) -> tuple[str, ...]:
    """What a call without gauges gives in place of the usual readings."""
    usual = (key for key in usual_points(machine) if not key.endswith("_pressure"))
    return tuple(dict.fromkeys((*usual, *PIPE_OF.values())))


def with_pipes(scenario: Scenario) -> Scenario:
    """The scenario with the two pipes among its readings, on digital instruments.

    Raises BadInputError in mild weather, for a machine that stands outdoors.
    """
    if not reads_pipes(scenario.profile) and scenario.outdoor_db_f - scenario.spread_outdoor_df < MILD_F:
        raise BadInputError(
            "asked.instruments",
            PIPES,
            f"gauges below {MILD_F:.0f} °F outdoors: line temperatures mislead in mild weather",
        )
    given = usual_points(scenario.profile) if scenario.given_readings is None else scenario.given_readings
    return replace(scenario, instruments="digital", given_readings=tuple(dict.fromkeys((*given, *PIPE_OF.values()))))


def by_pipes(call: Call) -> Call | None:
    """The :class:`~wolfsbane.exercise.paper.call.Call` with its pressures taken away and its key worked out from the
    pipes, or None.

    None where a pipe stands too far from its saturation or where any verdict would differ from the one that gauges
    give.
    """
    k = 1.0 if call.units == "us" else 1 / 1.8
    values = {name: row.value for name, row in call.readings.items()}
    figures = dict(call.key.figures)
    for name, pipe in PIPE_OF.items():
        if pipe not in values or abs(values[pipe] - figures[name]) > _FAR_DF * k:
            return None
        figures[name] = values[pipe]
    known = values | figures
    figures |= {name: round(value, 2) for name, value in subtracted(known).items()}
    if any(band.verdict(figures[name]) != call.key.verdicts[name] for name, band in call.key.bands.items()):
        return None
    pressures = {pressure for pressure, _ in SATURATIONS.values()}
    swapped = {"suction_saturation": figures["liquid_saturation"], "liquid_saturation": figures["suction_saturation"]}
    mistakes: dict[str, tuple[Slip, ...]] = {
        name: (Slip(code="other_gauge", value=value),) for name, value in swapped.items()
    }
    return replace(
        call,
        instruments=PIPES,
        readings={name: row for name, row in call.readings.items() if name not in pressures},
        before={name: row for name, row in call.before.items() if name not in pressures},
        questions=tuple(replace(q, text=_TEXT.get(q.id, q.text)) for q in call.questions),
        key=replace(call.key, figures=figures, mistakes=mistakes),
    )
