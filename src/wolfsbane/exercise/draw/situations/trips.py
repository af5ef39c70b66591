"""A machine that does not stay running: which limit, what makes it trip, and how to keep it on."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.settling import advance, arrive, moment, started, steady_state, stopped
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.instruments import reading
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page
from wolfsbane.exercise.draw.weather import weather_for

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment


#: a machine that has not tripped after so long stays on, s
_STAYS_ON_S = 1500.0
#: what makes a machine trip: case -> fault and severities from mild to severe that may do it, of each of its faults
_TRIPS: dict[str, tuple[tuple[str, tuple[float, ...]], ...]] = {
    "condenser": (("dirty_condenser", (29.0, 28.0, 27.0, 26.0, 25.0)),),
    "overcharge": (("overcharge", (126.0, 130.0, 134.0, 138.0, 143.0)),),
    "overfull": (
        ("low_airflow", (50.0, 48.0, 46.0, 44.0, 42.0)),
        ("overcharge", (124.0, 125.0, 126.0, 127.0, 128.0)),
    ),
    "air": (("non_condensables", (4.2, 4.4, 4.6, 4.8, 5.0)),),
    "short": (("undercharge", (44.0, 43.0, 42.0, 41.0, 40.0)),),
    "airflow": (("low_airflow", (45.0, 40.0, 35.0, 30.0, 26.0)),),
}
#: a head that tripped it is seen on the gauge at so much of its limit: the gauge follows with a lag
_SEEN_AT = 0.95
#: machines on which a case trips in weather that is met
_TRIPS_ON = {
    "condenser": lambda m: True,
    "overcharge": lambda m: m.condenser == "microchannel",
    "overfull": lambda m: m.condenser == "microchannel",
    "air": lambda m: m.refrigerant == "R-22",
    "short": lambda m: m.metering == "fixed_orifice",
    "airflow": lambda m: True,
}
#: heat waves in which a case trips, degrees F
_HOT_F = {
    "condenser": (106.0, 118.0),
    "overcharge": (100.0, 114.0),
    "overfull": (108.0, 116.0),
    "air": (110.0, 120.0),
}
#: ice on a coil whose airflow is lost, as it stands when somebody comes (share of what closes it)
_ICE = 0.7
_HIGH, _LOW = ("condenser", "overcharge", "overfull", "air"), ("short", "airflow")


_LIMITS = {
    "high_pressure": "The high-pressure cutout",
    "low_pressure": "The low-pressure cutout",
    "overload": "The compressor's overload",
    "discharge_temperature": "The discharge thermostat",
}
_TRIP_NAMES = {
    "condenser": "Condenser air: dirt between the rows, or a fan that does not do its work",
    "overcharge": "Too much refrigerant",
    "overfull": "Low indoor airflow with an overcharge",
    "air": "Air in the system",
    "short": "Short of refrigerant",
    "restriction": "A restriction in the liquid line",
    "airflow": "Evaporator air lost, and ice on the coil by now",
}
_TRIP_STEPS = {
    "condenser": "Restore the condenser's air first, then let it run and read it",
    "overcharge": "Recover a little into a weighed cylinder so that it stays on, read, then trim by the target",
    "overfull": "Restore the indoor airflow, run it and read it again; trim the charge last",
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


def _faults(page: Page, case: str, severities: tuple[float, ...]) -> tuple[Fault, ...]:
    found = []
    for (fault_id, _), severity in zip(_TRIPS[case], severities, strict=True):
        kind = fault_kind(fault_id).on(page.machine)
        mildest, worst = sorted((kind.limit, kind.fault_free))
        found.append(Fault(id=fault_id, severity=min(max(severity, mildest), worst)))
    return tuple(found)


def _tripping(page: Page, case: str, faults: tuple[Fault, ...]) -> tuple[Site, list[Moment]]:
    site = arrive(on_site(page.machine, page.conditions, faults))
    if case == "airflow":
        return _until_it_trips(replace(site, ice_share=_ICE))
    if site.running and steady_state(site).trip is None:
        return site, []
    return _until_it_trips(site)


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
    faults = _faults(page, case, tuple(round(rng.uniform(min(s), max(s)), 1) for _, s in _TRIPS[case]))
    site, moments = _tripping(page, case, faults)
    if site.trip is None or len(moments) < 8:
        raise NotProvedError(f"{case} does not trip here")
    if len(faults) > 1 and any(_tripping(page, case, (one,))[0].trip is not None for one in faults):
        raise NotProvedError(f"{case}: one of them trips it by itself")
    begin, end = moments[0].time_s, moments[-1].time_s
    at = [moments[round(i * (len(moments) - 1) / 5)] for i in range(6)]
    rows = [(_clock(m.time_s - begin), page.of_moment(m)) for m in at]
    last, first = rows[-1][1], rows[0][1]
    limit_pa = page.machine.plate.high_cutout_gauge_pa + page.conditions.barometer_pa
    if case in _HIGH and last["head_pressure"].value < _SEEN_AT * page.shown("pressure", limit_pa):
        raise NotProvedError(f"{case}: it trips before the gauge has followed")
    page.complaint = rng.choice(
        (
            "It starts, runs a short while and stops; later it starts again by itself.",
            "It comes on and goes off all afternoon and the house stays warm.",
            "The breaker is fine. It quits before you can read anything.",
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
    page.strip_of_pressures("Recorder on both gauges", moments)
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
        per={"suction_saturation": -1.0},
        slips={"subtracted backward": low - last["suction_line"].value},
    )
    page.number(
        "evaporator_td",
        "Return air − suction saturation, last row",
        "difference",
        page.shown("temperature", page.conditions.return_k) - low,
        per={"suction_saturation": -1.0},
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
        because=("subcooling", "ctoa", "superheat", "evaporator_td"),
        why={
            "condenser": "With little condenser air the head climbs while subcooling stays about where it belongs.",
            "overcharge": "Too much refrigerant shows as high subcooling, at a usual TD over the evaporator.",
            "overfull": "Low indoor airflow opens the TD over the evaporator; too much charge shows as subcooling. It"
            " takes both.",
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
        for rival in zip(*(severities for _, severities in _TRIPS[other]), strict=True):
            _, there = _tripping(page, other, _faults(page, other, rival))
            if not there:
                continue
            away = max(page.away(last, page.of_moment(there[-1])), page.away(first, page.of_moment(there[0])))
            best = min(best, away)
        distances[other] = best
    page.apart("No other cause of this trip shows this standing pressure and this last row.", distances)
    told = [(fault_kind(f.id), f.severity) for f in faults]
    planted = "; ".join(f"{kind.name}, {kind.parameter} {severity:.3g} {kind.unit}" for kind, severity in told)
    alone = " Either of them alone stays on." if len(faults) > 1 else ""
    page.tell(f"{planted}; stopped after {_clock(end - begin)}.{alone}")


KINDS = {"trips": trips}
