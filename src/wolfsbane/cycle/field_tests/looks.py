"""What an honest look shows before any gauge is connected."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.field_tests.kind import FieldTest

if TYPE_CHECKING:
    from wolfsbane.cycle.field_tests.kind import Asked

#: check -> (name, word of a machine with nothing wrong, word -> sentence)
_LOOKS: dict[str, tuple[str, str | bool, dict[str | bool, str]]] = {
    "filter": ("Filters", "clean", {"clean": "All filters clean.", "dirty": "Gray and bowed in."}),
    "condenser_coil": (
        "Condenser coil, front and between the rows",
        "clean",
        {"clean": "Clean, also between the rows.", "dirty": "Dirt between the rows or over the face."},
    ),
    "evaporator_coil": (
        "Evaporator coil",
        "clean",
        {"clean": "Clean on the entering side.", "dirty": "Felt on the entering side."},
    ),
    "blower_wheel": ("Blower wheel", "clean", {"clean": "Blades clean.", "dirty": "Dust fills the blades."}),
    "blower": (
        "Blower speed, belt and tap",
        "right",
        {"right": "Turns at its speed, tap as wired.", "slow": "Turns too slowly."},
    ),
    "duct": ("Ducts and registers", "open", {"open": "All open.", "blocked": "Dampers shut, a flex duct crushed."}),
    "oil_traces": ("Oil traces", False, {False: "No oil anywhere.", True: "Oil at a joint."}),
    "condenser_fan": (
        "Condenser fan",
        "right",
        {
            "right": "Right blade, right way round, full speed.",
            "slow": "Turns slowly.",
            "wrong blade": "Not the original blade.",
            "backwards": "Turns backwards.",
        },
    ),
    "condenser_place": (
        "Where the condenser stands",
        "free",
        {
            "free": "Free on all sides.",
            "closed in": "A deck or hedge closes it in.",
            "in hot exhaust": "Hot exhaust blows at it.",
        },
    ),
    "condenser_wet": ("Condenser wet or dry", False, {False: "Dry.", True: "Wet."}),
    "service_valve": (
        "Service valves",
        "open",
        {"open": "Both backed out.", "part closed": "The liquid valve is not backed out."},
    ),
    "liquid_line": ("Liquid line along its way", "straight", {"straight": "No kink.", "kinked": "A crushed bend."}),
    "suction_line": (
        "Suction line along its way",
        "even",
        {"even": "No kink, evenly cold.", "kinked": "Flattened.", "cold step": "Colder from one fitting on."},
    ),
    "line_length": (
        "Line length against the plate",
        "standard",
        {
            "standard": "Within the plate's standard length.",
            "longer than standard": "Much longer than the plate's standard length.",
        },
    ),
    "orifice": (
        "Orifice or capillary",
        "right",
        {
            "right": "As the plate asks.",
            "too large": "A size too large.",
            "too small": "A size too small.",
            "not seated": "Not seated.",
            "plugged": "Part plugged.",
            "bent": "Flattened at a bend.",
        },
    ),
    "coil_match": (
        "Indoor coil against the outdoor unit",
        "matched",
        {"matched": "Rated together.", "too small": "The indoor coil is too small for this unit."},
    ),
    "house": (
        "House and its history",
        "as designed",
        {"as designed": "As when the unit was chosen.", "grew": "Rooms were added."},
    ),
    "economizer": ("Economizer damper", "at minimum", {"at minimum": "At its minimum stop.", "open": "Wide open."}),
}
_WHERE = {
    "filter": lambda m: m.comfort,
    "blower": lambda m: m.comfort,
    "duct": lambda m: m.comfort,
    "house": lambda m: m.comfort,
    "blower_wheel": lambda m: m.comfort,
    "coil_match": lambda m: m.comfort,
    "condenser_fan": lambda m: m.condenser != "water_cooled",
    "condenser_place": lambda m: m.condenser != "water_cooled",
    "condenser_wet": lambda m: m.condenser != "water_cooled",
    "service_valve": lambda m: not m.sealed,
    "line_length": lambda m: m.application in ("air_conditioner", "heat_pump_cooling"),
    "orifice": lambda m: m.metering in ("fixed_orifice", "capillary"),
    "economizer": lambda m: m.application == "package_unit",
}


def _answer(check: Any) -> Any:
    _, fault_free, sentences = _LOOKS[check]

    def answer(a: Any) -> Any:
        word = a.seen(check, fault_free)
        return word, sentences[word], {}

    return answer


def evaporator_ice(a: Asked) -> tuple[bool, str, dict[Any, Any]]:
    """Ice on the coil or the suction line, from the solved surface temperature."""
    if a.machine.refrigeration:
        iced = a.state.frosting
        return iced, "Frost on the fins, as between defrosts." if iced else "No frost.", {}
    iced = a.state.frosting
    return iced, "Ice on the coil and down the suction line." if iced else "No ice.", {}


def second_circuit(a: Asked) -> tuple[str, str, dict[Any, Any]]:
    """The other circuit of two: a free comparison."""
    twin = a.state.twin
    if twin is None or twin.equalized or twin.trip:
        return "off", "It does not run.", {}
    if twin.capacity_w < 0.7 * (a.state.capacity_w - twin.capacity_w):
        return "weak", "It runs, but its pipes are hardly cold and hot.", {}
    return "runs", "It runs; pipes cold and hot as on this one.", {}


TESTS = (
    *(
        FieldTest(
            id=check,
            name=row[0],
            minutes=3,
            caution="",
            answer=_answer(check),
            running=False,
            suits=_WHERE.get(check, lambda m: True),
        )
        for check, row in _LOOKS.items()
    ),
    FieldTest(
        id="evaporator_ice", name="Ice on the coil or the suction line", minutes=3, caution="", answer=evaporator_ice
    ),
    FieldTest(
        id="second_circuit",
        name="The other circuit",
        minutes=3,
        caution="",
        answer=second_circuit,
        suits=lambda m: m.circuits == 2,
    ),
)
