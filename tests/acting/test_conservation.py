"""Whatever is done: no gram is lost, what settles is the steady balance, and the same script gives the same trace."""

import random

import pytest

from tests.acting.conftest import fault
from tests.conftest import LATER
from wolfsbane.acting.actions import ACTIONS, act, actions_for
from wolfsbane.acting.script import play, script
from wolfsbane.acting.settling import advance, arrive, moment, settled, steady_state
from wolfsbane.acting.site import on_site
from wolfsbane.acting.stepping import cycles
from wolfsbane.acting.trace import shown_state
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.sweep import random_conditions, random_faults

WALKED = tuple(m for m in MACHINES if m not in LATER)


def _arguments(kind, machine, rng):
    found = {}
    for p in kind.parameters:
        if p.name == "oz":
            found["oz"] = round(rng.uniform(0.05, 0.3) * machine.circuit.charge_kg / 0.02835, 2)
        elif p.words:
            found[p.name] = rng.choice(p.words)
        elif p.name == "minutes":
            found[p.name] = rng.uniform(0.5, 6.0)
        elif not p.optional:
            found[p.name] = rng.uniform(p.low, p.high)
    return found


def _wandered(seed, machines=WALKED):
    """(site before, site after) a random machine with random faults and up to eight random actions."""
    rng = random.Random(seed)
    machine = rng.choice([MACHINES[m] for m in machines])
    try:
        begun = arrive(on_site(machine, random_conditions(machine, rng), random_faults(machine, rng)))
    except NoConvergenceError:
        return None
    site = begun
    for _ in range(rng.randint(1, 8)):
        kind = rng.choice([*actions_for(machine), *[ACTIONS["start"], ACTIONS["wait"], ACTIONS["add_liquid"]] * 3])
        site = act(site, kind, _arguments(kind, machine, rng)).site
    return begun, site


@pytest.mark.slow
@pytest.mark.parametrize(
    ("seed", "machines"),
    [
        *((f"acts-{seed}", WALKED) for seed in range(70)),
        *((f"acts-{seed}", (later,)) for later in LATER for seed in range(4)),
        pytest.param(
            "acts-16",
            tuple(MACHINES),
            marks=pytest.mark.xfail(
                strict=True, reason="known: a rooftop's shown energy is 1 % off its balance after this sequence"
            ),
        ),
    ],
    ids=lambda v: v if isinstance(v, str) else v[0] if len(v) == 1 else str(len(v)),
)
def test_no_sequence_of_actions_loses_a_gram_and_what_settles_is_the_steady_balance(seed, machines):
    wandered = _wandered(seed, machines)
    if wandered is None:
        pytest.skip("this machine finds no steady operating point to arrive at")
    begun, site = wandered
    charge = site.machine.circuit.charge_kg
    assert site.total_kg == pytest.approx(begun.total_kg, abs=1e-6 * charge)
    assert min(site.circuit_kg, site.hoses_kg, site.lost_kg, *(c.kg for c in site.cylinders)) >= -1e-9
    for cylinder in site.cylinders:
        assert cylinder.id != "recovery" or cylinder.kg <= cylinder.most_kg * (1 + 1e-9), "never past 80 % full"
    if site.moving is None:
        return
    assert shown_state(site, begun.conditions).charge_kg == pytest.approx(site.circuit_kg, rel=2e-6), (
        "the solver met this very charge"
    )
    if (
        site.circuit().valve_swing
        or cycles(site.circuit())
        or site.temporary.bulb
        or site.temporary.liquid_shut
        or site.refrigerant != site.machine.refrigerant
    ):
        return
    end, _ = settled(site)
    if not end.running or end.ice_share > 0.1:
        return
    steady, shown = steady_state(end), moment(end).state
    assert abs(steady.energy_residual) < 1e-5 and abs(steady.mass_residual) < 1e-5
    assert abs(shown.energy_residual) < 2e-3, "what is shown closes too, once it has settled"
    for name, limit in (("suction_pa", 200.0), ("head_pa", 300.0), ("superheat_dk", 0.05), ("subcooling_dk", 0.05)):
        assert getattr(shown, name) == pytest.approx(getattr(steady, name), abs=limit), name


@pytest.mark.parametrize("machine_id", MACHINES)
def test_a_machine_left_alone_stays_at_the_steady_solve(machine_id, site):
    machine = MACHINES[machine_id]
    later, _ = advance(site(machine_id), 600.0)
    steady, shown = solve(machine, rating_conditions(machine)), moment(later).state
    assert later.running
    assert shown.suction_pa == pytest.approx(steady.suction_pa, abs=50)
    assert shown.head_pa == pytest.approx(steady.head_pa, abs=50)
    assert shown.superheat_dk == pytest.approx(steady.superheat_dk, abs=0.01)
    assert shown.capacity_w == pytest.approx(steady.capacity_w, rel=1e-4)


@pytest.mark.parametrize("machine_id", MACHINES)
def test_a_machine_stopped_and_started_again_comes_back_to_where_it_was(machine_id, site):
    before = site(machine_id)
    after = act(
        act(act(before, ACTIONS["stop"], {}).site, ACTIONS["wait"], {"minutes": 8}).site, ACTIONS["start"], {}
    ).site
    end, minutes = settled(after)
    assert end.running, end.trip
    assert minutes <= 40
    assert moment(end).state.superheat_dk == pytest.approx(moment(before).state.superheat_dk, abs=0.05)
    assert moment(end).state.head_pa == pytest.approx(moment(before).state.head_pa, abs=300)


def test_the_same_script_gives_the_same_trace():
    machine = MACHINES["split-3t-r410a-txv"]
    written = script(
        {
            "weather": {"outdoor_df_per_h": 3, "return_df_per_h": -1},
            "actions": [
                {"do": "add_liquid", "oz": 9},
                {"do": "wait", "minutes": 4},
                {"do": "stop"},
                {"do": "clean_condenser"},
                {"do": "start"},
                {"do": "settle"},
            ],
        }
    )
    traces = [
        play(machine, rating_conditions(machine), (fault("undercharge", 80),), written).to_json() for _ in range(2)
    ]
    assert traces[0] == traces[1]


def test_a_standing_machine_ends_at_its_standing_pressure(site):
    from wolfsbane.cycle.standing import standing_pa

    rest = act(act(site("split-3t-r410a-orifice"), ACTIONS["stop"], {}).site, ACTIONS["wait"], {"minutes": 60}).site
    state = moment(rest).state
    assert state.suction_pa == pytest.approx(state.head_pa, rel=1e-3)
    assert state.suction_pa == pytest.approx(standing_pa(rest.circuit(), "R-410A", rest.conditions.return_k), rel=1e-3)


def test_weather_that_drifts_is_in_the_trace_and_the_machine_follows_it():
    machine = MACHINES["split-3t-r410a-txv"]
    played = play(
        machine,
        rating_conditions(machine),
        (),
        script({"weather": {"outdoor_df_per_h": -10}, "actions": [{"do": "wait", "minutes": 60}]}),
    )
    rows = played.to_json()["trace"]
    assert rows[-1]["outdoor_db_f"] == pytest.approx(rows[0]["outdoor_db_f"] - 10, abs=0.1)
    assert rows[-1]["head_pressure_psig"] < rows[0]["head_pressure_psig"] - 30
