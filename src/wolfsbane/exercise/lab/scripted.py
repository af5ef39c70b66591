"""A lab session that is played by a script: a simulated rig, its logger, and a student who reads, works out and weighs.

Every number comes from the stepped machine.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from functools import cache
from typing import Any

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import KG_PER_OZ, k_to_f
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.exercise.draw.rig import rig_call
from wolfsbane.exercise.lab.events import Event, Session, checked, fold
from wolfsbane.exercise.lab.forecast import Forecast, forecast
from wolfsbane.exercise.lab.judging import Bench, Judged, Logged, judge, minute_of
from wolfsbane.exercise.lab.marks import RUBRIC
from wolfsbane.exercise.lab.steps import PROOF, ticks_of
from wolfsbane.exercise.marking.grade import perfect_answers
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.rig.baseline import Baseline, conditions_of, fitted
from wolfsbane.rig.coming_back import back
from wolfsbane.rig.refrigerant_log import Move, StockCylinder, differences
from wolfsbane.rig.rig import RIG, Rig
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.rig.steady import Sample, stretches

MACHINE, SEED = "split-3t-r410a-txv", 21
_POINTS = (
    ("suction_pressure", "psig"), ("head_pressure", "psig"), ("suction_line", "°F"), ("liquid_line", "°F"),
    ("discharge_line", "°F"), ("return_db", "°F"), ("return_rh", "%"), ("supply_db", "°F"), ("outdoor_db", "°F"),
    ("compressor_amps", "A"), ("weight", "oz"),
)  # fmt: skip
_DEVICES = ("liquid_valve", "condenser_board", "indoor_fan", "charge")
_EVERY_S = 5.0


@cache
def worked_rig() -> Rig:
    """The rig of the worked sessions."""
    return RIG.read(
        {
            "schema": 1,
            "name": "Rig 1",
            "machine": MACHINE,
            "channels": [{"point": p, "register": 2 * i, "unit": u} for i, (p, u) in enumerate(_POINTS)],
            "devices": [{"kind": k, "register": 100 + 2 * i} for i, k in enumerate(_DEVICES)],
            "countersign": True,
            "limits": {"head_psig": 390},
        }
    )


def _simulated() -> SimulatedRig:
    return SimulatedRig(rig=worked_rig(), profile=MACHINES[MACHINE], seed=SEED)


@cache
def usual_baseline() -> Baseline:
    """What an hour and a half of running sound tells of this rig."""
    running, rows = _simulated(), []
    for _ in range(900):
        running.step(6.0)
        rows.append((running.seconds, running.readings()))
    return fitted(worked_rig(), running.profile, stretches(rows))


@dataclass
class Lab:
    """A student at the rig: the machine, what its logger kept, what was said, on one clock (s)."""

    devices: dict[str, float]
    planted: tuple[Fault, ...]
    running: SimulatedRig = field(default_factory=_simulated)
    rows: list[tuple[float, Sample]] = field(default_factory=list)
    events: list[Event] = field(default_factory=list)
    read_off: dict[str, float] = field(default_factory=dict)
    foreseen: list[Forecast] = field(default_factory=list)

    def __post_init__(self) -> None:
        for device, position in self.devices.items():
            self.running.set(device, position)
        self.wait(35.0)
        self.began = self.now
        mean = {k: v for k, v in self.rows[-1][1][1].items() if v is not None}
        self.weather = conditions_of(worked_rig(), self.running.profile, mean)
        self.bench = Bench(
            rig=worked_rig(),
            profile=self.running.profile,
            individual=usual_baseline().individual,
            planted=self.planted,
            countersigns=True,
        )
        body = {
            "schema": 3,
            "title": "Lab",
            "machine": MACHINE,
            "faults": [{"id": f.id, "severity": f.severity} for f in self.planted],
            "outdoor_db_f": round(k_to_f(self.weather.outdoor_k), 1),
            "return_db_f": round(k_to_f(self.weather.return_k), 1),
            "return_wb_f": round(k_to_f(self.weather.return_wet_bulb_k), 1),
        }
        machine = self.bench.individual.machine(self.running.profile)
        self.call: Call = rig_call(scenario(body), "us", random.Random(5), None, machine)

    @property
    def now(self) -> float:
        """Seconds since the rig was switched on."""
        return self.running.seconds

    def wait(self, minutes: float) -> None:
        """The machine runs on, and its logger reads it."""
        for _ in range(round(60.0 * minutes / _EVERY_S)):
            self.running.step(_EVERY_S)
            self.rows.append((self.running.seconds, (self.running.seconds, self.running.readings())))

    def say(self, what: str, /, *, desk: bool = False, **data: Any) -> None:
        """Somebody says or types something, and half a minute goes by."""
        self.events.append(Event(kind=what, at=self.now, data=checked(what, data, desk), desk=desk))
        self.wait(0.1)

    def to(self, phase: str) -> None:
        """On to a phase."""
        self.say("phase", to=phase)

    def tick(self, phase: str, *but: str) -> None:
        """Everything of a phase is ticked, ``but`` what is left out."""
        for one in ticks_of(self.call.machine.refrigerant):
            if one.phase == phase and one.id not in but:
                self.say("tick", step=one.id, on=True)

    def shown(self) -> dict[str, float]:
        """What good instruments show now."""
        seen = minute_of(self.bench, Logged(self.rows), self.now, "us")
        assert seen is not None, "the logger of a worked session never sleeps"
        return dict(seen.shown)

    def measure(self) -> dict[str, float]:
        """Read everything the call asks for, misread by ``read_off``; returns what was written down."""
        self.to("measure")
        own: dict[str, float] = {}
        for q in self.call.questions:
            if q.id in MEASURED:
                name = MEASURED[q.id]
                own[name] = float(round(self.shown()[name] + self.read_off.get(name, 0.0)))
                self.say("answer", question=q.id, text=f"{own[name]:g}")
        return own

    def work_out(self, own: dict[str, float]) -> None:
        """Convert and subtract from one's own readings, and call each figure by one's own number."""
        self.to("work_out")
        found = work_out(self.call.machine.refrigerant, own, "us", self.call.conditions.barometer_pa)
        for q in self.call.questions:
            if q.id in found:
                self.say("answer", question=q.id, text=f"{found[q.id]:.1f}")
            elif q.id == "target":
                self.say("answer", question="target", text=perfect_answers(self.call)["target"])
            elif q.id.endswith("_verdict"):
                name = q.id.removesuffix("_verdict")
                band = self.call.key.bands.get(name)
                word = self.call.key.verdicts[name] if band is None else band.verdict(found[name])
                self.say("answer", question=q.id, text=word)

    def plan(self, fault: str = "", oz: float | None = None) -> None:
        """Name what is wrong (the key's where nothing is said) and hand a plan in."""
        self.to("plan")
        answers = perfect_answers(self.call)
        if fault:
            answers["fault"] = self.call.choices.letter("fault", fault)
            answers["action"] = self.call.choices.letter("action", fault)
        if oz is not None:
            answers["amount"] = f"{oz:g}"
        for q in self.call.questions:
            if q.id in ("fault", "evidence", "action", "amount", "order") or q.id.startswith("after_"):
                self.say("answer", question=q.id, text=answers.get(q.id, ""))
        kg = float(answers.get("amount") or 0.0) * KG_PER_OZ
        machine = self.bench.individual.machine(self.running.profile)
        named = fault or self.call.key.fault
        repaired = "" if named in ("undercharge", "overcharge", "none") else named
        self.foreseen.append(forecast(worked_rig(), machine, self.weather, self.planted, kg, repaired))
        self.say("plan")

    def weigh(self, oz: float, *, log_oz: float | None = None) -> None:
        """Let so much into the machine by the scale (out: negative) and write it down, right or not."""
        began, before = self.now, self._gross()
        self.running.by_hand(oz)
        while abs(self.running.missing_kg()) > 1e-4:
            self.wait(0.25)
        self.wait(0.5)
        after = self._gross()
        kind = "charge" if oz > 0 else "recover"
        log = abs(oz) if log_oz is None else log_oz
        self.say(
            "weigh", cylinder_id=1, kind=kind, before=f"{before / KG_PER_OZ:.1f} oz",
            after=f"{after / KG_PER_OZ:.1f} oz", log=f"{log:g}", began_at=began,
        )  # fmt: skip
        cylinder = StockCylinder(
            name="R1", kind="recovery", refrigerant="R-410A", tare_kg=7.5, water_kg=15.0, gross_kg=before
        )
        move = Move(kind=kind, log_kg=log * KG_PER_OZ, before_kg=before, after_kg=after)
        said = "; ".join(f"{d.between} differ: {', '.join(d.causes)}" for d in differences(move, cylinder))
        self.events.append(Event(kind="weighed", at=self.now, data={"move_id": 1, "said": said}, desk=True))

    def _gross(self) -> float:
        return self.running.truth()["weight"]

    def prove(self) -> None:
        """Read again."""
        self.to("prove")
        for name in PROOF:
            self.say("proof", reading=name, text=f"{self.shown()[name]:.0f}")

    def close(self, words: str = "Charge put right, proved, ports leak checked.") -> None:
        """Close up, write the record, finish."""
        self.to("close")
        self.tick("close")
        self.to("record")
        self.say("record", text=words)
        self.say("finish")

    def session(self) -> Session:
        """What was said, added up."""
        return fold(self.events, self.began)

    def judged(self) -> Judged:
        """How it is marked."""
        return judge(self.call, self.session(), self.bench, Logged(self.rows), RUBRIC)

    def undone(self) -> str:
        """What the logger says of the rig half an hour after the last step, as if somebody had signed it off."""
        begin = len(self.rows)
        self.wait(35.0)
        profile, individual = self.running.profile, self.bench.individual
        seen = back(worked_rig(), profile, individual, [s for _, s in self.rows[begin:]])
        return seen.text
