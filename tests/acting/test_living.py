"""Boxes and houses that answer to their machine: thermostat, pump-down, defrost, and what is wrong with the
controls.
"""

from dataclasses import replace
from functools import cache

import pytest

from wolfsbane.acting.actions import ACTIONS, act
from wolfsbane.acting.keeper import COLD, Keeper, decided
from wolfsbane.acting.living import living
from wolfsbane.acting.rooms import DOORS, room_after, room_of
from wolfsbane.acting.script import play, played_on, script
from wolfsbane.acting.settling import advance, arrive, moment, started, stopped
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.controls import TROUBLES, controls_of, troubled
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.heating import heating, heating_conditions
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.units import f_to_k

COOLER, FREEZER = "walkin-cooler-r404a-txv", "walkin-freezer-r449a-txv"
HEATING = "heatpump-3t-r410a-heating"
TWO_STAGE = "split-4t-r410a-two-stage"


def site_of(machine_id, *, hours=0.0, faults=(), troubles=(), start_f=None, door="usual", outdoor_f=95, box_f=None):
    m = machine(machine_id)
    box = box_f if box_f is not None else 0 if "freezer" in machine_id else 38
    inside = {"box_f": box} if m.refrigeration else {"return_db_f": 75, "return_wb_f": 63}
    if m.in_heating:
        outdoor_f, inside = 40, {"return_db_f": 70}
    site = arrive(on_site(m, for_machine(m, outdoor_db_f=outdoor_f, **inside), faults))
    air_k = None if start_f is None else f_to_k(start_f)
    return living(site, air_k=air_k, door=DOORS[door], troubles=troubles)


@cache
def run(machine_id, hours, troubles=(), every=120.0, **given):
    return advance(site_of(machine_id, troubles=troubles, **given), 3600.0 * hours, every_s=every)


def boxes(moments):
    return [m.room.air_k * 1.8 - 459.67 for m in moments]


def test_a_cooler_cycles_around_its_setting_and_runs_about_two_thirds_of_the_time():
    """16 hours a day is a usual sizing of a cooler (common practice, no source)."""
    site, moments = run(COOLER, 3)
    assert 8 <= site.keeper.starts <= 24
    assert site.keeper.on_s / site.keeper.all_s == pytest.approx(16 / 24, abs=0.1)
    assert 35 < min(boxes(moments)) < 37 and 39 < max(boxes(moments)) < 41.5
    assert site.trip is None and {m.keeper.mode for m in moments} >= {"on", "satisfied"}


def test_the_charge_is_the_same_through_every_cycle():
    site, moments = run(COOLER, 3)
    assert site.circuit_kg == pytest.approx(site.right_kg, rel=1e-9)
    assert {round(m.circuit_kg, 9) for m in moments} == {round(site.circuit_kg, 9)}


def test_a_pump_down_leaves_the_suction_at_the_cutout_and_the_head_at_the_weather():
    site, moments = run(COOLER, 3, every=10.0)
    down = [m for m in moments if m.keeper.mode == "satisfied" and m.keeper.mode_s < 15.0]
    assert down
    for m in down:
        gauge = m.state.suction_pa - m.state.barometer_pa
        assert gauge < site.keeper.controls.closes_pa
    for m in moments:
        if m.keeper.mode == "satisfied":
            assert not m.running and m.state.suction_pa < m.state.head_pa


def test_a_warm_box_reads_high_everywhere_and_is_pulled_down():
    """Common practice, no source: judge a box near its setting."""
    _, warm = run(COOLER, 1.5, start_f=65)
    _, usual = run(COOLER, 3)
    on = [m for m in usual if m.keeper.mode == "on"][-1]
    assert warm[2].state.suction_pa > on.state.suction_pa + 40e3
    assert boxes(warm)[0] > boxes(warm)[10] > boxes(warm)[-1] + 1.0
    assert warm[-1].room.mass_k > warm[-1].room.air_k + 3.0, "the goods follow more slowly"


def test_a_busy_door_brings_water_that_freezes_on_the_coil():
    _, usual = run(COOLER, 3)
    busy, moments = run(COOLER, 3, door="busy")
    assert busy.keeper.on_s / busy.keeper.all_s > 0.9
    assert busy.ice_share > 5 * max(m.ice_share for m in usual)
    assert moments[-1].state.airflow_kg_s < moments[0].state.airflow_kg_s


def test_a_freezer_defrosts_by_its_clock_drips_and_holds_its_fans_back():
    site, moments = run(FREEZER, 6.6, every=30.0)
    modes = [m.keeper.mode for m in moments]
    order = [modes[0]]
    for mode in modes:
        if mode != order[-1]:
            order.append(mode)
    i = order.index("defrost")
    assert order[i : i + 4] == ["defrost", "drip", "fan_delay", "on"]
    (minutes,) = site.keeper.defrosts
    assert 8 < minutes < 25, "by temperature, before its longest time"
    before = [m.ice_share for m in moments if m.time_s < 6 * 3600][-1]
    assert before > 0.05 and site.ice_share < 0.02
    cold = [m for m in moments if m.keeper.mode == "fan_delay"]
    assert all(m.state.airflow_kg_s < 0.2 * moments[0].state.airflow_kg_s for m in cold[:-1])


@pytest.mark.parametrize(
    ("trouble", "machine_id", "hours", "shows"),
    [
        ("thermostat_set_cold", COOLER, 3, lambda bad, good: bad[0].keeper.starts < good[0].keeper.starts / 2),
        ("thermostat_set_warm", COOLER, 3, lambda bad, good: min(boxes(bad[1][60:])) > max(boxes(good[1]))),
        ("thermostat_narrow", COOLER, 3, lambda bad, good: bad[0].keeper.starts > 2 * good[0].keeper.starts),
        ("low_pressure_control_high", COOLER, 3, lambda bad, good: bad[0].keeper.starts > 2 * good[0].keeper.starts),
        ("low_pressure_control_close", COOLER, 3, lambda bad, good: bad[0].keeper.starts > good[0].keeper.starts),
        ("solenoid_leaks", COOLER, 3, lambda bad, good: bad[0].keeper.starts > 1.5 * good[0].keeper.starts),
        (
            "defrost_never_starts",
            FREEZER,
            6.6,
            lambda bad, good: bad[0].ice_share > 0.05 and not bad[0].keeper.defrosts,
        ),
        (
            "defrost_by_clock",
            HEATING,
            3,
            lambda bad, good: len(bad[0].keeper.defrosts) >= len(good[0].keeper.defrosts) + 2,
        ),
        ("defrost_never_ends", FREEZER, 6.6, lambda bad, good: max(boxes(bad[1])) > max(boxes(good[1])) + 5.0),
        ("defrost_ends_early", FREEZER, 6.6, lambda bad, good: bad[0].ice_share > good[0].ice_share + 0.02),
        (
            "high_stage_never",
            "split-4t-r410a-two-stage",
            3,
            lambda bad, good: bad[0].room.air_k > good[0].room.air_k + 0.8,
        ),
        ("fan_delay_failed", FREEZER, 6.6, lambda bad, good: max(boxes(bad[1])) > max(boxes(good[1])) + 1.0),
    ],
)
def test_a_trouble_of_the_controls_shows_in_time(trouble, machine_id, hours, shows):
    every = 120.0 if machine_id == COOLER else 30.0
    assert shows(run(machine_id, hours, troubles=(trouble,), every=every), run(machine_id, hours, every=every))


def test_every_trouble_is_shown_above():
    marks = test_a_trouble_of_the_controls_shows_in_time.pytestmark
    assert {row[0] for row in marks[0].args[1]} == set(TROUBLES)


def test_a_short_charge_keeps_the_box_from_coming_down():
    short = (Fault(id="undercharge", severity=36),)
    starved, moments = run(COOLER, 1.5, start_f=65, faults=short)
    _, full = run(COOLER, 1.5, start_f=65)
    assert boxes(moments)[-1] > boxes(full)[-1] + 3.0
    assert starved.keeper.on_s / starved.keeper.all_s > 0.9


def test_a_house_is_held_and_the_machine_rests_between():
    site, moments = run("split-3t-r410a-txv", 2, outdoor_f=85)
    assert min(boxes(moments)) > 73.5 and max(boxes(moments)) < 76.5
    assert 3 <= site.keeper.starts <= 12, "no more than some six starts an hour (common practice, no source)"
    assert {m.keeper.mode for m in moments} == {"on", "satisfied"}


def test_a_heat_pump_clears_its_coil_on_demand():
    hot = heating(machine("heatpump-3t-r410a-txv"))
    site = living(arrive(on_site(hot, heating_conditions(outdoor_db_f=30, return_db_f=70))))
    after, moments = advance(site, 5 * 3600.0, every_s=120.0)
    assert len(after.keeper.defrosts) >= 1 and 1.5 < after.keeper.defrosts[0] < 10.0
    first = next(i for i, m in enumerate(moments) if m.keeper.defrosts)
    assert all(m.keeper.coil_k == COLD for m in moments[first + 2 :] if m.keeper.mode == "on"), "ready for the next one"
    ice = [m.ice_share for m in moments]
    assert max(ice) > 0.3 and min(ice[ice.index(max(ice)) :]) < 0.05
    assert all(66.0 < f < 72.0 for f in boxes(moments))


def test_gauges_and_clamps_show_a_heat_pump_in_reverse():
    """In defrost the outdoor coil condenses against ice: head and suction fall far, then climb with the metal."""
    hot = heating(machine("heatpump-3t-r410a-txv"))
    site = living(arrive(on_site(hot, heating_conditions(outdoor_db_f=30, return_db_f=70))))
    after, moments = advance(site, 2.6 * 3600.0, every_s=20.0)
    rows = [m.row() for m in moments if m.keeper.mode == "defrost"]
    usual = [m.row()["head_pressure_psig"] for m in moments if m.keeper.mode == "on"]
    assert len(rows) >= 3 and max(r["head_pressure_psig"] for r in rows) < 0.8 * min(usual[-5:])
    assert all(r["head_pressure_psig"] > r["suction_pressure_psig"] > 20.0 for r in rows)
    assert rows[-1]["head_pressure_psig"] > rows[0]["head_pressure_psig"] + 20.0
    assert 2.0 < after.keeper.defrosts[0] < 10.0, "three to six minutes are usual (common practice, no source)"
    room = [m.room.air_k for m in moments if m.keeper.mode == "defrost"]
    assert room[-1] < room[0], "the house pays for it"


def test_only_a_demand_defrost_can_be_set_to_the_clock():
    with pytest.raises(BadInputError, match="defrosts by demand"):
        site_of(FREEZER, troubles=("defrost_by_clock",))


def test_without_a_room_nothing_has_changed():
    """Conditions that are held stay held: a long run is the steady solve."""
    m = machine(COOLER)
    site = arrive(on_site(m, rating_conditions(m)))
    assert site.room is None and site.keeper is None
    after, _ = advance(site, 600.0)
    assert after.shown.suction_pa == pytest.approx(site.shown.suction_pa, rel=1e-4)


@pytest.mark.parametrize("machine_id", MACHINES)
def test_a_closed_room_keeps_its_heat(machine_id):
    """What is brought in is what is stored: no walls, no door, nothing else."""
    m = machine(machine_id)
    weather = rating_conditions(m)
    room = room_of(m, weather, weather.return_k)
    tight = type(room)(**{**vars(room), "walls_w_k": 0.0, "comes_in_kg_s": 0.0, "gains_w": 0.0, "water_kg_s": 0.0})
    after = room_after(tight, 900.0, weather.outdoor_k, weather.barometer_pa, heat_w=-500.0, water_kg_s=0.0)
    stored = tight.air_j_k * (after.air_k - tight.air_k) + tight.mass_j_k * (after.mass_k - tight.mass_k)
    assert stored == pytest.approx(-500.0 * 900.0, rel=1e-9)


def test_the_thermostat_has_a_differential():
    controls = controls_of(machine(COOLER), 276.0)
    dk = controls.differential_k
    assert controls.calls(276.0 + 1.01 * dk, now=False) and not controls.calls(276.0 + 0.5 * dk, now=False)
    assert controls.calls(276.0 - 0.5 * dk, now=True) and not controls.calls(276.0 - 1.01 * dk, now=True)


def test_off_on_low_pressure_comes_back_by_itself():
    m = machine(COOLER)
    weather = rating_conditions(m)
    controls = controls_of(m, weather.return_k)
    keeper = Keeper(controls=controls, mode="low_pressure", defrosts_in_s=1e5)
    room = room_of(m, weather, weather.return_k + 3.0)
    assert decided(keeper, room, controls.closes_pa - 1.0, 0.0, 270.0).mode == "low_pressure"
    assert decided(keeper, room, controls.closes_pa + 1.0, 0.0, 270.0).mode == "on"


@pytest.mark.parametrize("trouble", ["solenoid_leaks", "low_pressure_control_high", "fan_delay_failed", "loose"])
def test_a_trouble_the_controls_cannot_have_is_one_clear_error(trouble):
    m = machine("split-3t-r410a-txv")
    with pytest.raises(BadInputError) as told:
        troubled(controls_of(m, 297.0), (trouble,), m)
    assert told.value.field == "trouble" and told.value.value == trouble


def test_a_script_may_bring_the_room_to_life():
    m = machine(COOLER)
    written = script({"actions": [{"do": "wait", "minutes": 40}], "room": {"start_f": 60, "door": "closed"}})
    assert script(written.to_json()) == written
    played = play(m, rating_conditions(m), (), written).to_json()
    rows = played["trace"]
    assert rows[0]["room_f"] == pytest.approx(60) and rows[-1]["room_f"] < 48
    assert rows[-1]["mode"] == "on" and played["controls"]["ran_pct"] == 100.0
    plain = play(m, rating_conditions(m), (), script([{"do": "wait", "minutes": 5}])).to_json()
    assert "controls" not in plain and "room_f" not in plain["trace"][0]


def test_going_on_is_the_same_as_playing_it_all():
    m = machine(COOLER)
    steps = [{"do": "wait", "minutes": 12}, {"do": "stop"}, {"do": "wait", "minutes": 3}, {"do": "start"}]
    room = {"start_f": 45, "door": "busy"}
    whole = play(m, rating_conditions(m), (), script({"actions": steps, "room": room}))
    some = play(m, rating_conditions(m), (), script({"actions": steps[:2], "room": room}))
    on = played_on(some, script({"actions": steps[2:]}).steps)
    assert on.to_json() == whole.to_json()


@pytest.mark.parametrize(
    ("room", "field"),
    [
        ({"door": "ajar"}, "door"),
        ({"start_f": 300}, "start_f"),
        ({"troubles": ["x"]}, "troubles"),
        ({"heat": 1}, "heat"),
    ],
)
def test_a_room_that_is_not_understood_is_one_clear_error(room, field):
    with pytest.raises(BadInputError) as told:
        script({"actions": [{"do": "stop"}], "room": room})
    assert field in told.value.field


@pytest.mark.parametrize(("minutes", "floods"), ((20, False), (600, True)))
def test_a_night_locked_out_is_told_as_a_flooded_start(minutes, floods):
    """Refrigerant moves into the oil of the cold shell over a night (common practice, no source)."""
    m = machine("split-3t-r410a-txv")
    site = arrive(on_site(m, for_machine(m, outdoor_db_f=70, return_db_f=72, return_wb_f=60)))
    site = act(act(site, ACTIONS["stop"], {}).site, ACTIONS["wait"], {"minutes": minutes}).site
    said = act(site, ACTIONS["start"], {}).said
    assert any("Flooded start" in text for text in said) == floods


def test_two_stages_low_on_a_mild_day_high_on_a_hot_one():
    mild, _ = run(TWO_STAGE, 4, outdoor_f=78)
    hot, _ = run(TWO_STAGE, 4, outdoor_f=104)
    assert mild.keeper.low_s == mild.keeper.on_s > 0.0, "a mild day is held in low stage alone"
    assert hot.keeper.low_s < 0.2 * hot.keeper.on_s, "a hot one is not"
    single, _ = run("split-3t-r410a-txv", 4, outdoor_f=78)
    assert mild.keeper.on_s > 1.15 * single.keeper.on_s, "and runs longer for it"


def test_a_high_stage_that_never_comes_on_lets_the_house_get_warm():
    held, _ = run(TWO_STAGE, 6, outdoor_f=95)
    weak, _ = run(TWO_STAGE, 6, outdoor_f=95, troubles=("high_stage_never",))
    assert weak.room.air_k > held.room.air_k + 1.5 and weak.keeper.low_s == weak.keeper.on_s
    with pytest.raises(BadInputError, match="two-stage"):
        site_of("split-3t-r410a-txv", troubles=("high_stage_never",))


def test_hot_gas_shows_on_the_gauges_and_clears_the_coil():
    site, moments = run("walkin-freezer-r404a-txv", 6.8, every=60.0)
    clearing = [m for m in moments if m.keeper.mode == "defrost"]
    assert site.keeper.defrosts and min(m.ice_share for m in moments[-20:]) < 0.02
    rows = [m.row("us") for m in clearing]
    suctions = [row["suction_pressure_psig"] for row in rows]
    assert all(row["head_pressure_psig"] > row["suction_pressure_psig"] for row in rows)
    assert suctions[-1] > 2.0 * suctions[0], "the low side rises with the coil"
    usual = max(m.row("us")["head_pressure_psig"] for m in moments if m.keeper.mode == "on")
    assert max(row["head_pressure_psig"] for row in rows) < usual, "and the high side stands lower than in cooling"


def test_hot_gas_on_a_coil_colder_than_the_scale_reads_its_last_mark():
    site = site_of("walkin-freezer-r404a-txv", box_f=-20)
    keeper = replace(site.keeper.into("defrost"), coil_k=170.0)
    shown = moment(replace(site, keeper=keeper, moving=None)).state
    assert 0.0 < shown.suction_pa < shown.head_pa
    assert shown.subcooling_dk == pytest.approx(shown.liquid_saturation_k - shown.liquid_line_k)


def test_a_leaking_solenoid_costs_starts_and_not_the_box():
    """Common practice, no source: the compressor starts again and again, and the box is held all the same."""
    site, moments = run(COOLER, 2.0, ("solenoid_leaks",), every=30.0, box_f=38)
    healthy, _ = run(COOLER, 2.0, every=30.0, box_f=38)
    assert max(boxes(moments)) < 43.0
    assert site.keeper.starts > 1.5 * healthy.keeper.starts


def test_a_pump_down_stops_at_its_cutout_however_close_the_cut_in_lies():
    """No gauge falls into a vacuum while the control opens well above one."""
    for troubles in ((), ("low_pressure_control_close",)):
        site, moments = run(COOLER, 1.0, troubles, every=5.0, box_f=38)
        opens = site.low_cutout_gauge_pa
        lowest = min(m.state.suction_pa - m.state.barometer_pa for m in moments)
        assert lowest > 0.6 * opens


@pytest.mark.parametrize("machine_id", ["split-3t-r410a-orifice", "split-3t-r410a-txv", "split-1.5t-r32-orifice"])
@pytest.mark.parametrize("charge", [40.0, 60.0, 100.0])
def test_gas_leaves_no_coil_warmer_than_what_it_touches(machine_id, charge):
    """A start draws down a low side that hardly anything feeds; its gas takes heat of the metal, and no more."""
    m = machine(machine_id)
    conditions = for_machine(m, outdoor_db_f=84, return_db_f=78, return_wb_f=65)
    faults = () if charge == 100.0 else (Fault(id="undercharge", severity=charge),)
    site, _ = advance(stopped(arrive(on_site(m, conditions, faults))), 3600.0, every_s=3600.0)
    _, moments = advance(started(site), 180.0, every_s=2.0)
    warmest = max(conditions.outdoor_k, conditions.return_k)
    ran = [x.state for x in moments if x.running]
    assert ran and max(s.evaporator_outlet_k for s in ran) < warmest + 0.5
    assert max(s.suction_line_k for s in ran) < warmest + 3.0
