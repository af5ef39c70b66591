"""What only time shows: a machine that trips, readings that are not settled, and a valve or a fan that swings."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.settling import advance, arrive, moment, started, steady_state, stopped
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.instruments import reading, values
from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.diagnosis.solved_cases import solved
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page
from wolfsbane.exercise.draw.weather import weather_for
from wolfsbane.exercise.paper.call import bands_for

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.instruments import Reading

_GAUGES = ("suction_pressure", "head_pressure", "suction_line", "liquid_line")
#: a machine that has not tripped after so long stays on, s
_STAYS_ON_S = 1500.0
#: what makes a machine trip: case -> (fault, severities from mild to severe that may do it)
_TRIPS = {
    "condenser": ("dirty_condenser", (29.0, 28.0, 27.0, 26.0, 25.0)),
    "overcharge": ("overcharge", (126.0, 130.0, 134.0, 138.0, 143.0)),
    "air": ("non_condensables", (4.2, 4.4, 4.6, 4.8, 5.0)),
    "short": ("undercharge", (44.0, 43.0, 42.0, 41.0, 40.0)),
    "airflow": ("low_airflow", (45.0, 40.0, 35.0, 30.0, 26.0)),
}
#: a head that tripped it is seen on the gauge at so much of its limit: the gauge follows with a lag
_SEEN_AT = 0.95
#: machines on which a case trips in weather that is met
_TRIPS_ON = {
    "condenser": lambda m: True,
    "overcharge": lambda m: m.condenser == "microchannel",
    "air": lambda m: m.refrigerant == "R-22",
    "short": lambda m: m.metering == "fixed_orifice",
    "airflow": lambda m: True,
}
#: heat waves in which a case trips, degrees F
_HOT_F = {"condenser": (106.0, 118.0), "overcharge": (100.0, 114.0), "air": (110.0, 120.0)}
#: ice on a coil whose airflow is lost, as it stands when somebody comes (share of what closes it)
_ICE = 0.7
_HIGH, _LOW = ("condenser", "overcharge", "air"), ("short", "airflow")
_LIMITS = {
    "high_pressure": "The high-pressure cutout",
    "low_pressure": "The low-pressure cutout",
    "overload": "The compressor's overload",
    "discharge_temperature": "The discharge thermostat",
}
_TRIP_NAMES = {
    "condenser": "Condenser air: dirt between the rows, or a fan that does not do its work",
    "overcharge": "Too much refrigerant",
    "air": "Air in the system",
    "short": "Short of refrigerant",
    "restriction": "A restriction in the liquid line",
    "airflow": "Evaporator air lost, and ice on the coil by now",
}
_TRIP_STEPS = {
    "condenser": "Restore the condenser's air first, then let it run and read it",
    "overcharge": "Recover a little into a weighed cylinder so that it stays on, read, then trim by the target",
    "air": "Recover the whole charge, evacuate, weigh in",
    "short": "Find the leak; only then weigh in, a few ounces at a time so that it stays on to be read",
    "restriction": "Feel along the liquid line for the cold spot, then recover and open it there",
    "airflow": "Thaw the coil, restore the evaporator's air, then let it run and read it",
    "jumper": "Jumper the cutout so that it stays on while you read",
}


def _until_it_trips(site: Site) -> tuple[Site, list[Moment]]:
    """From rest: (site as it trips, or later, moments every 2 s with the rest before them)."""
    ice, rested = site.ice_share, site if not site.running else stopped(site)
    if site.running:
        rested, _ = advance(rested, 3600.0, every_s=3600.0)
        rested = replace(rested, ice_share=ice)
    first = moment(rested)
    run, moments = advance(started(rested), _STAYS_ON_S, every_s=2.0, until=lambda s: s.trip is not None)
    return run, [first, *[m for m in moments if m.running]]


def _tripping(page: Page, case: str, severity: float) -> tuple[Site, list[Moment]]:
    fault_id = _TRIPS[case][0]
    kind = fault_kind(fault_id).on(page.machine)
    mildest, worst = sorted((kind.limit, kind.fault_free))
    fault = Fault(id=fault_id, severity=min(max(severity, mildest), worst))
    site = arrive(on_site(page.machine, page.conditions, (fault,)))
    if case == "airflow":
        return _until_it_trips(replace(site, ice_share=_ICE))
    if site.running and steady_state(site).trip is None:
        return site, []
    return _until_it_trips(site)


def _texts(page: Page, one: Moment, keys: tuple[str, ...] = _GAUGES) -> dict[str, Reading]:
    """Readings of a moment, which may stand."""
    shown = values(page.machine, replace(one.state, trip=None))
    return {k: reading(k, shown[k], page.kit, page.system, page.conditions.barometer_pa) for k in keys if k in shown}


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{int(seconds % 60):02d}"


def trips(page: Page) -> None:
    """It starts and trips: which limit, why, and what makes it stay on long enough to read."""
    rng = page.rng
    case = page.pick((*_HIGH, *_LOW))
    family = _HIGH if case in _HIGH else _LOW
    fit = [m for m in page.machines if _TRIPS_ON[case](m)]
    if fit:
        page.machine = rng.choice(fit)
    hot = rng.uniform(*_HOT_F[case]) if case in _HIGH else rng.uniform(76, 90)
    weather = {"outdoor_db_f": hot, "return_db_f": rng.uniform(73, 80), "return_wb_f": rng.uniform(60, 66)}
    page.conditions = weather_for(page.machine, weather, 0.0, page.system)
    severities = _TRIPS[case][1]
    severity = rng.uniform(min(severities), max(severities))
    site, moments = _tripping(page, case, round(severity, 1))
    if site.trip is None or len(moments) < 8:
        raise NotProvedError(f"{case} does not trip here")
    begin, end = moments[0].time_s, moments[-1].time_s
    at = [moments[round(i * (len(moments) - 1) / 5)] for i in range(6)]
    rows = [(_clock(m.time_s - begin), _texts(page, m)) for m in at]
    last, first = rows[-1][1], rows[0][1]
    limit_pa = page.machine.plate.high_cutout_gauge_pa + page.conditions.barometer_pa
    if case in _HIGH and last["head_pressure"].value < _SEEN_AT * page.shown("pressure", limit_pa):
        raise NotProvedError(f"{case}: it trips before the gauge has followed")
    page.complaint = rng.choice(
        (
            "It starts, runs a short while and stops; later it starts again by itself.",
            "It comes on and goes off all afternoon and the house stays warm.",
            "The breaker is fine. It quits before one can read anything.",
        )
    )
    plate = page.machine.plate
    page.looks = [
        "Both fans turn; whether they move enough air is not known yet.",
        "It had stood for an hour before it was switched on. Gauges zeroed.",
        f"Outdoor air {page.degrees(page.conditions.outdoor_k)}, return air {page.degrees(page.conditions.return_k)}.",
    ]
    page.table(
        f"From the start to the stop after {_clock(end - begin)}",
        ("min:s", *[page.label(k) for k in last]),
        [(when, *[r.text for r in shown.values()]) for when, shown in rows],
    )
    page.table(
        "Limits on the nameplate",
        ("Limit", "Opens at"),
        [
            (
                name,
                reading(
                    key, pa + page.conditions.barometer_pa, "digital", page.system, page.conditions.barometer_pa
                ).text,
            )
            for name, key, pa in (
                ("High-pressure cutout", "head_pressure", plate.high_cutout_gauge_pa),
                ("Low-pressure cutout", "suction_pressure", plate.low_cutout_gauge_pa),
            )
        ],
    )
    figures = page.figures(last)
    outdoors = page.shown("temperature", page.conditions.outdoor_k)
    high = page.number(
        "liquid_saturation", "Condensing temperature in the last row", "temperature", figures["liquid_saturation"]
    )
    page.number(
        "subcooling",
        "Subcooling in the last row",
        "difference",
        high - last["liquid_line"].value,
        per={"liquid_saturation": 1.0},
        slips={"subtracted backward": last["liquid_line"].value - high},
    )
    page.number(
        "ctoa",
        "Condensing temperature − outdoor air, last row",
        "difference",
        high - outdoors,
        per={"liquid_saturation": 1.0},
    )
    low = page.number(
        "suction_saturation",
        "Suction saturation temperature in the last row",
        "temperature",
        figures["suction_saturation"],
    )
    page.number(
        "superheat",
        "Superheat in the last row",
        "difference",
        last["suction_line"].value - low,
        per={"suction_saturation": 1.0},
        slips={"subtracted backward": low - last["suction_line"].value},
    )
    page.choose(
        "limit",
        "Which limit stopped it",
        _LIMITS,
        site.trip.cutout,
        because=("liquid_saturation", "suction_saturation"),
        why={
            "high_pressure": "The head stays below its limit.",
            "low_pressure": "The suction stays above its limit.",
            "overload": "A pressure reached its own limit first: put the last row beside the nameplate.",
            "discharge_temperature": "A pressure reached its own limit first: put the last row beside the nameplate.",
        },
        points=2,
    )
    if site.trip.cutout != ("high_pressure" if case in _HIGH else "low_pressure"):
        raise NotProvedError(f"{case}: it trips on {site.trip.cutout}")
    page.choose(
        "what",
        "What makes it trip",
        _TRIP_NAMES,
        case,
        because=("subcooling", "ctoa", "superheat"),
        why={
            "condenser": "With little condenser air the head climbs while subcooling stays about where it belongs.",
            "overcharge": "Too much refrigerant shows as high subcooling, and the standing pressure fits the air.",
            "air": "Air stands above saturation already at rest: look at the first row.",
            "short": "Short of refrigerant: no subcooling, high superheat.",
            "restriction": "Behind a restriction liquid backs up: subcooling is there while the evaporator starves.",
            "airflow": "Without evaporator air superheat does not climb and subcooling stays.",
        },
    )
    page.choose(
        "do",
        "What to do so that it can be read and put right",
        {key: _TRIP_STEPS[key] for key in (*family, *(k for k in _TRIP_STEPS if k not in family))},
        case,
        after="what",
        plan={key: key for key in _TRIP_NAMES},
        why={"jumper": "A jumped cutout lets the pressure go where the vessel bursts or the motor burns. Never."},
        points=3,
    )
    page.case = case
    page.title = f"Trips on {site.trip.cutout.replace('_', ' ')}: {_TRIP_NAMES[case].lower()}"
    page.hazard = (
        "A cutout that opened did its work: never jumper it. Head pressure climbs within seconds; stay at the gauges."
    )
    distances = {}
    for other in family:
        if other == case:
            continue
        best = 9.9
        for rival in _TRIPS[other][1]:
            _, there = _tripping(page, other, rival)
            if not there:
                continue
            away = max(page.away(last, _texts(page, there[-1])), page.away(first, _texts(page, there[0])))
            best = min(best, away)
        distances[other] = best
    page.apart("No other cause of this trip shows this standing pressure and this last row.", distances)
    kind = fault_kind(_TRIPS[case][0])
    page.tell(f"{kind.name}, {kind.parameter} {severity:.3g} {kind.unit}; stopped after {_clock(end - begin)}.")


_WAITS = ("early", "charging", "wet", "iced", "sound", "short")
#: superheat that moves more than this between two rows is still on its way, degrees F
_STILL_DF = 1.5


def _sequence(page: Page, case: str) -> tuple[list[tuple[str, Moment]], list[str], str]:
    """(when, moment) rows, what is to be seen, and how it came about, of one case."""
    rng = page.rng
    faults: tuple[Fault, ...] = ()
    if case == "short":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(68, 80), 1), cause="leak"),)
    if case == "charging":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(75, 85), 1), cause="undercharged_at_start"),)
    if case == "early":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(85, 100), 1)),) if rng.random() < 0.5 else ()
    if case == "iced":
        faults = (Fault(id="low_airflow", severity=round(rng.uniform(40, 55), 1)),)
    site = arrive(on_site(page.machine, page.conditions, faults, units=page.system))
    if not site.running:
        raise NotProvedError(f"{case}: it trips")
    if case == "early":
        rested, _ = advance(stopped(site), 2400.0, every_s=2400.0)
        site, moments = advance(started(rested), 95.0, every_s=30.0)
        return (
            [(f"{30 * (i + 1)} s", m) for i, m in enumerate(moments[:3])],
            ["Coils clean and dry."],
            "Switched on after it had stood",
        )
    if case == "wet":
        site = replace(site, wet_share=round(rng.uniform(0.7, 1.0), 2))
        site, moments = advance(site, 365.0, every_s=120.0)
        return (
            [(f"{2 * (i + 1)} min", m) for i, m in enumerate(moments[:3])],
            ["The condenser was washed a quarter of an hour ago; water still drips from it."],
            "Running since it was washed",
        )
    if case == "iced":
        site = replace(site, ice_share=round(rng.uniform(0.4, 0.6), 2))
        site, moments = advance(site, 185.0, every_s=60.0)
        return (
            [(f"{i + 1} min", m) for i, m in enumerate(moments[:3])],
            ["Condenser clean and dry. Frost on the suction line; the coil cannot be seen behind its panel."],
            "Running, gauges just put on",
        )
    if case == "charging":
        kg = page.machine.circuit.charge_kg * rng.uniform(0.08, 0.12)
        fed = act(site, action_kind("add_liquid"), {"cylinder": site.cylinders[0].id, "oz": kg / KG_PER_OZ})
        end = max((i for i, m in enumerate(fed.moments) if m.running), default=0)
        if fed.refused or end < 4:
            raise NotProvedError("nothing goes in")
        at = [fed.moments[i] for i in (0, end // 2, end)]
        return (
            [(f"{m.time_s - site.time_s:.0f} s", m) for m in at],
            ["Coils clean and dry. The cylinder stands on the scale, its valve opened a little."],
            "Since the valve was opened",
        )
    site, moments = advance(site, 905.0, every_s=300.0)
    return [(f"{12 + 5 * i} min", m) for i, m in enumerate(moments[:3])], ["Coils clean and dry."], "Running"


def wait_or_read(page: Page) -> None:
    """Three rows of readings: believe them, or wait, dry, thaw?"""
    rng = page.rng
    case = page.pick(_WAITS)
    rows, looks, how = _sequence(page, case)
    keys = (*_GAUGES, "outdoor_db")
    shown = [(when, _texts(page, m, keys)) for when, m in rows]
    page.complaint = rng.choice(
        ("Does not cool enough.", "It ran short of cold last week.", "The owner wants it checked before summer.")
    )
    page.looks = [*looks, f"Return air {page.degrees(page.conditions.return_k)}; filter new, blower right."]
    page.table(
        how, ("After", *[page.label(k) for k in shown[-1][1]]), [(w, *[r.text for r in s.values()]) for w, s in shown]
    )
    before, last = page.figures(shown[-2][1]), page.figures(shown[-1][1])
    own = {k: r for k, r in shown[-1][1].items()}
    low = page.number(
        "suction_saturation", "Suction saturation temperature, last row", "temperature", last["suction_saturation"]
    )
    high = page.number(
        "liquid_saturation", "Condensing temperature, last row", "temperature", last["liquid_saturation"]
    )
    superheat = page.number(
        "superheat",
        "Superheat, last row",
        "difference",
        own["suction_line"].value - low,
        per={"suction_saturation": 1.0},
        slips={"subtracted backward": low - own["suction_line"].value},
    )
    page.number(
        "subcooling",
        "Subcooling, last row",
        "difference",
        high - own["liquid_line"].value,
        per={"liquid_saturation": 1.0},
        slips={"subtracted backward": own["liquid_line"].value - high},
    )
    moved = superheat - before["superheat"]
    page.number(
        "moved",
        "How far superheat has moved since the row before",
        "difference",
        moved,
        per={"superheat": 1.0},
        tolerance=1.6 * page.k,
    )
    names = {
        "early": "Not yet: it has not run long enough",
        "charging": "Not yet: refrigerant only just went in",
        "wet": "Not yet: the condenser is wet",
        "iced": "No: the evaporator is iced",
        "sound": "Yes, and nothing is wrong",
        "short": "Yes: it is short of refrigerant",
        "overfull": "Yes: it holds too much refrigerant",
    }
    because = ("superheat", "subcooling", "moved")
    page.choose(
        "what",
        "Can the last row be believed",
        names,
        case,
        because=because,
        why={
            "overfull": "High subcooling means too much only on a machine that is dry, settled and clean.",
            "short": "Before it is settled, a low subcooling or a high superheat says nothing about the charge.",
            "sound": "Put the figures beside the target, and look whether they still move.",
            "early": "Look at how far superheat still moves between the rows.",
            "charging": "Nothing went in here.",
            "wet": "No water on this one.",
            "iced": "Ice shows as a suction far below freezing and a low superheat.",
        },
    )
    page.choose(
        "do",
        "What to do now",
        {
            "wait": "Let it run and read again every few minutes until nothing moves",
            "dry": "Let the condenser run dry, then read again",
            "thaw": "Outdoor unit off, blower on until the coil is clear and dry; then run and read",
            "leave": "Leave the charge alone; write the readings down",
            "leak": "Find and repair the leak, then charge by the target",
            "add": "Add refrigerant by the target now",
            "recover": "Recover some by the target now",
        },
        {"early": "wait", "charging": "wait", "wet": "dry", "iced": "thaw", "sound": "leave", "short": "leak"}[case],
        after="what",
        plan={"early": "wait", "charging": "wait", "wet": "dry", "iced": "thaw", "sound": "leave", "short": "leak"},
        why={
            "add": "Charging by readings that still move overshoots; a leak wants to be found first.",
            "recover": "Refrigerant taken out now is missing once the machine has settled.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "Never knock ice off a coil; liquid fast into the suction breaks valves: throttle, in bursts, and wait."
    )
    _settled_or_not(page, case, rows, abs(moved), own)
    page.tell("Superheat lags by minutes; subcooling answers first.")


def _settled_or_not(
    page: Page, case: str, rows: list[tuple[str, Moment]], moved: float, last: dict[str, Reading]
) -> None:
    """The claim that carries the answer: still moving, wet, iced, or settled and on or off its target."""
    still = _STILL_DF * page.k
    wet, ice = rows[-1][1].wet_share, rows[-1][1].ice_share
    figures = page.figures(last)
    if case in ("early", "charging"):
        ends = [r.superheat_dk for _, m in rows if (r := m.state)]
        truly = abs(page.shown("difference", ends[-1]) - page.shown("difference", ends[-2]))
        page.apart(
            "Superheat still moves between the rows by more than two readings may differ.",
            {"settled": min(moved, truly) / still},
        )
        return
    dry_healthy = steady_state(arrive(on_site(page.machine, page.conditions)))
    healthy = page.readings(dry_healthy, _GAUGES)
    if case == "wet":
        if wet < 0.15:
            raise NotProvedError("dry already")
        page.apart("A dry condenser in this weather reads otherwise.", {"dry": page.away(last, healthy) / 1.2})
        return
    if case == "iced":
        if ice < 0.2:
            raise NotProvedError("clear already")
        boils = figures["suction_saturation"] - (32.0 if page.system == "us" else 0.0)
        page.apart(
            "The suction is far below freezing, and a dry, clear coil reads otherwise.",
            {"clear": -boils / (3.0 * page.k)},
        )
        short = solved(page.machine, page.conditions, (Fault(id="undercharge", severity=65.0),))
        page.apart(
            "A machine short of refrigerant has no such superheat.",
            {} if short is None else {"short": page.away(last, page.readings(short, _GAUGES))},
        )
        return
    if moved > 0.6 * still:
        raise NotProvedError("it still moves")
    band = bands_for(
        page.machine,
        practice_by_id("plate_and_formula"),
        page.system,
        page.readings(dry_healthy, (*_GAUGES, "return_db", "return_wb", "outdoor_db")),
    )
    name = "subcooling" if page.machine.metering in ("txv", "eev") else "superheat"
    inside = band[name].low <= figures[name] <= band[name].high
    if case == "sound" and not inside:
        raise NotProvedError("off its target")
    off = {
        "sound": page.away(
            last,
            page.readings(
                steady_state(arrive(on_site(page.machine, page.conditions, (Fault(id="undercharge", severity=75.0),)))),
                _GAUGES,
            ),
        )
    }
    if case == "short":
        if inside:
            raise NotProvedError("on its target")
        off = {"nothing wrong": page.away(last, healthy)}
    page.apart(
        "Nothing moves any more, and the other answer reads otherwise.",
        {("short" if case == "sound" else "nothing wrong"): next(iter(off.values()))},
    )


def hunting(page: Page) -> None:
    """Readings that swing: a hunting valve, or only a machine that is steady."""
    rng, machine = page.rng, page.machine
    walk_in = machine.receiver
    case = page.pick(("fan", "steady") if walk_in else ("hunts", "steady", "floods"))
    if walk_in:
        met = {
            "outdoor_db_f": rng.uniform(28, 45) if case == "fan" else rng.uniform(80, 95),
            "box_f": rng.uniform(35, 39),
        }
        page.conditions = for_machine(machine, **met)
    faults = {
        "hunts": lambda: (Fault(id="valve_hunting", severity=round(rng.uniform(14, 24), 1)),),
        "floods": lambda: (Fault(id="valve_overfeeding", severity=round(rng.uniform(97, 108), 1)),),
    }.get(case, lambda: ())()
    site = arrive(on_site(machine, page.conditions, faults, units=page.system))
    if not site.running:
        raise NotProvedError("it trips")
    site, _ = advance(site, 300.0, every_s=300.0)
    site, moments = advance(site, 485.0, every_s=60.0 if not walk_in else 60.0)
    keys = ("suction_pressure", "suction_line", "head_pressure", "liquid_line")
    keys = ("suction_pressure", "evaporator_outlet", "head_pressure", "liquid_line") if walk_in else keys
    rows = [(f"{i + 1} min", _texts(page, m, keys)) for i, m in enumerate(moments[:8])]
    line = "evaporator_outlet" if walk_in else "suction_line"
    page.complaint = rng.choice(
        ("It cools, but the sound goes up and down.", "Cools unevenly.", "Somebody adjusted something last week.")
    )
    page.looks = [f"Running for half an hour. Air at the unit {page.degrees(page.conditions.outdoor_k)}."]
    page.table(
        "A reading every minute",
        ("After", *[page.label(k) for k in keys]),
        [(w, *[r.text for r in s.values()]) for w, s in rows],
    )
    each = []
    for _, shown in rows:
        saturation = page.figures(
            {"suction_pressure": shown["suction_pressure"], "head_pressure": shown["head_pressure"]}
        )
        each.append(shown[line].value - saturation["suction_saturation"])
    heads = [s["head_pressure"].value for _, s in rows]
    lowest = page.number(
        "lowest", "Lowest superheat of the eight rows", "difference", min(each), tolerance=1.5 * page.k
    )
    highest = page.number(
        "highest", "Highest superheat of the eight rows", "difference", max(each), tolerance=1.5 * page.k
    )
    swing = page.number(
        "swing",
        "How far superheat swings",
        "difference",
        highest - lowest,
        per={"highest": 1.0, "lowest": -1.0},
        tolerance=1.5 * page.k,
    )
    head = page.number(
        "head_swing",
        "How far the head pressure swings",
        "pressure",
        max(heads) - min(heads),
        tolerance=2 * rows[0][1]["head_pressure"].resolution,
    )
    names = {
        "hunts": "The TXV hunts: the evaporator swings, the head follows a little",
        "fan": "A pressure switch cycles the condenser fan: head control in cold weather, and normal",
        "steady": "Steady, and where it should be",
        "floods": "Steady, and flooding: the TXV feeds too much",
        "short": "Short of refrigerant",
    }
    page.choose(
        "what",
        "What the eight rows say",
        names,
        case,
        because=("lowest", "highest", "swing", "head_swing"),
        why={
            "hunts": "A hunting valve swings superheat by many degrees within minutes.",
            "fan": "With fan cycling the head goes far up and down, and all else follows it.",
            "steady": "Look at how far superheat swings, and where it stands.",
            "floods": "A flooding valve stands still near zero superheat; this does not.",
            "short": "Short of refrigerant superheat stays high.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "bulb": "Check bulb strap, place and insulation and the equalizer, then the valve's size",
            "leave": "Leave it; judge it by the middle of its readings",
            "raise": "Check the bulb's strap and insulation; then a stem can be closed a turn, waiting between",
            "add": "Add refrigerant until it stands still",
            "switch": "Replace the fan's pressure switch",
        },
        {"hunts": "bulb", "fan": "leave", "steady": "leave", "floods": "raise"}[case],
        after="what",
        plan={"hunts": "bulb", "fan": "leave", "steady": "leave", "floods": "raise"},
        why={
            "add": "A swing is no shortage: the middle of the readings says where the charge is.",
            "switch": "The switch does what it is there for.",
            "bulb": "Nothing swings, or it swings for another reason.",
        },
        points=2,
    )
    page.case, page.title = case, names[case]
    page.hazard = "A valve that swings to zero superheat sends liquid to the compressor: do not leave it so."
    k = page.k
    if case == "hunts":
        page.apart("A steady valve does not swing like this.", {"steady": swing / (2.5 * k)})
    elif case == "fan":
        psi = 1.0 if page.system == "us" else 6.9
        page.apart("A head that no switch cycles stands still.", {"steady": head / (8.0 * psi)})
    else:
        if swing > 2.0 * k:
            raise NotProvedError("it swings")
        middle = 0.5 * (highest + lowest)
        if case == "floods":
            healthy = steady_state(arrive(on_site(machine, page.conditions)))
            page.apart(
                "A good valve holds more superheat.",
                {"steady": (page.shown("difference", healthy.superheat_dk) - middle) / (2.0 * k)},
            )
        else:
            page.apart(
                "A hunting valve swings, and a flooding one stands lower.", {"hunts": 3.0, "floods": middle / (2.0 * k)}
            )


KINDS = {"trips": trips, "wait_or_read": wait_or_read, "hunting": hunting}
