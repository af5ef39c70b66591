"""Worked lab sessions: what a pair did and did not do at a rig; how each is marked stands in docs/lab-sessions.md."""

from __future__ import annotations

from collections.abc import Callable

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.exercise.lab.scripted import MACHINE, Lab, usual_baseline


def _short(oz: float = 14.0) -> Lab:
    """A rig short of charge by so much."""
    machine = usual_baseline().individual.machine(MACHINES[MACHINE])
    share = 100.0 * (1.0 - oz * KG_PER_OZ / machine.circuit.charge_kg)
    return Lab({"charge": oz}, (Fault(id="undercharge", severity=round(share, 1)),))


def _up_to_plan(lab: Lab, *, skip_safety: bool = False, settle: bool = True, oz: float | None = None) -> None:
    """The way to a plan as it is taught."""
    if not skip_safety:
        lab.to("safety")
        lab.tick("safety")
        lab.say("countersign", desk=True)
    lab.to("look")
    lab.tick("look")
    lab.to("hook_up")
    lab.tick("hook_up")
    if settle:
        lab.wait(2.0)
    own = lab.measure()
    lab.work_out(own)
    lab.plan(oz=oz)


def _work(lab: Lab, *steps: float, log_oz: float | None = None) -> None:
    """Go ahead, weigh each step in or out, let it settle, prove it."""
    lab.say("go", desk=True)
    lab.to("act")
    for oz in steps:
        lab.weigh(oz, log_oz=log_oz)
        lab.wait(8.0)
    lab.say("done")
    lab.wait(20.0)
    lab.prove()


def safe_and_right() -> Lab:
    """As it is taught, from the safety steps to the record."""
    lab = _short()
    _up_to_plan(lab)
    _work(lab, 14.0)
    lab.close()
    return lab


def right_but_unsafe() -> Lab:
    """The same result without a safety step, and the cylinder opened before the go-ahead."""
    lab = _short()
    _up_to_plan(lab, skip_safety=True)
    lab.to("act")
    lab.weigh(14.0)
    lab.say("go", desk=True)
    lab.say("done")
    lab.wait(20.0)
    lab.prove()
    lab.close()
    return lab


def stopped_at_sign_off() -> Lab:
    """A plan to take refrigerant out of a machine that is short of it, stopped; then the right one."""
    lab = _short()
    _up_to_plan(lab)
    lab.plan("overcharge", -16.0)
    lab.say("stop", desk=True, why="Subcooling is low. What does taking more out do to it?")
    lab.plan()
    _work(lab, 14.0)
    lab.close()
    return lab


def overshot_and_recovered() -> Lab:
    """Ten ounces too much, seen by the subcooling, taken out again."""
    lab = _short()
    _up_to_plan(lab)
    _work(lab, 24.0, -10.0)
    lab.close()
    return lab


def overshot_and_left() -> Lab:
    """Ten ounces too much, and left so."""
    lab = _short()
    _up_to_plan(lab)
    _work(lab, 24.0)
    lab.close()
    return lab


def record_does_not_balance() -> Lab:
    """Fourteen ounces went in, ten were written down."""
    lab = _short()
    _up_to_plan(lab)
    _work(lab, 14.0, log_oz=10.0)
    lab.close()
    return lab


def misread_dial() -> Lab:
    """A division of the high side miscounted: ten psi."""
    lab = _short()
    lab.read_off["head_pressure"] = 10.0
    _up_to_plan(lab)
    _work(lab, 14.0)
    lab.close()
    return lab


def clamp_on_the_wrong_line() -> Lab:
    """The clamp of the suction line sits on the liquid line."""
    lab = _short()
    seen = lab.shown()
    lab.read_off["suction_line"] = seen["liquid_line"] - seen["suction_line"]
    _up_to_plan(lab)
    _work(lab, 14.0)
    lab.close()
    return lab


def gauges_not_zeroed() -> Lab:
    """Both gauges read six psi high."""
    lab = _short()
    lab.read_off |= {"suction_pressure": 6.0, "head_pressure": 6.0}
    _up_to_plan(lab)
    _work(lab, 14.0)
    lab.close()
    return lab


def proof_too_early() -> Lab:
    """Proof read a minute after the last ounce."""
    lab = _short()
    _up_to_plan(lab)
    lab.say("go", desk=True)
    lab.to("act")
    lab.weigh(14.0)
    lab.say("done")
    lab.prove()
    lab.close()
    return lab


def copied() -> Lab:
    """Nothing read: the fault, the plan and the weight of the pair before."""
    lab = _short()
    lab.to("safety")
    lab.tick("safety")
    lab.say("countersign", desk=True)
    lab.plan()
    _work(lab, 14.0)
    lab.close()
    return lab


def not_undone() -> Lab:
    """A board over the condenser: named right, taken for washed, and left on."""
    lab = Lab({"condenser_board": 45.0}, (Fault(id="dirty_condenser", severity=62.0),))
    _up_to_plan(lab)
    lab.say("go", desk=True)
    lab.to("act")
    lab.say("done")
    lab.wait(20.0)
    lab.prove()
    lab.close("Coil cleaned and rinsed.")
    return lab


def limit_passed() -> Lab:
    """Charged until the glass of the hose was clear, far past what was missing: the head goes over its limit."""
    lab = _short()
    _up_to_plan(lab, oz=64.0)
    _work(lab, 64.0, -50.0)
    lab.close()
    return lab


#: name -> (what is done, how it goes)
WORKED: dict[str, Callable[[], Lab]] = {
    "Safe and right": safe_and_right,
    "Right but unsafe": right_but_unsafe,
    "Wrong plan stopped at sign-off": stopped_at_sign_off,
    "Overshot and recovered": overshot_and_recovered,
    "Overshot and left": overshot_and_left,
    "Record does not balance": record_does_not_balance,
    "Dial misread": misread_dial,
    "Clamp on the wrong line": clamp_on_the_wrong_line,
    "Gauges not zeroed": gauges_not_zeroed,
    "Proof read too early": proof_too_early,
    "Copied from the pair before": copied,
    "Rig not undone": not_undone,
    "Limit passed on the way": limit_passed,
}
