"""What an honest look shows before any gauge is connected."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.field_tests.kind import FieldTest

if TYPE_CHECKING:
    from wolfsbane.cycle.field_tests.kind import Asked

#: check -> (name, word of a machine with nothing wrong, word -> sentence)
_LOOKS: dict[str, tuple[str, str | bool, dict[str | bool, str]]] = {
    "filter": ("Filters", "clean", {"clean": "All filters clean.", "dirty": "Gray with dust and bowed in."}),
    "condenser_coil": (
        "Condenser coil, front and between the rows",
        "clean",
        {"clean": "Clean, between the rows too.", "dirty": "Dirty between the rows or over the face."},
    ),
    "evaporator_coil": (
        "Evaporator coil",
        "clean",
        {"clean": "Clean on the entering side.", "dirty": "Matted with lint on the entering side."},
    ),
    "blower_wheel": ("Blower wheel", "clean", {"clean": "Blades clean.", "dirty": "Blades are packed with dust."}),
    "blower": (
        "Blower speed, belt and speed tap",
        "right",
        {"right": "Runs at full speed, correct speed tap.", "slow": "Runs too slow."},
    ),
    "duct": ("Ducts and registers", "open", {"open": "All open.", "blocked": "Dampers closed, a flex duct crushed."}),
    "oil_traces": ("Oil traces", False, {False: "No oil spots anywhere.", True: "Oil at a joint."}),
    "condenser_fan": (
        "Condenser fan",
        "right",
        {
            "right": "Correct blade, correct rotation, full speed.",
            "slow": "Turns slowly.",
            "wrong blade": "Not the original blade.",
            "backwards": "Turns backwards.",
        },
    ),
    "condenser_place": (
        "Condenser location and clearance",
        "free",
        {
            "free": "Clear on all sides.",
            "closed in": "Boxed in by a deck or a hedge.",
            "in hot exhaust": "Hot exhaust blows at it.",
        },
    ),
    "condenser_wet": ("Condenser wet or dry", False, {False: "Dry.", True: "Wet."}),
    "service_valve": (
        "Service valves",
        "open",
        {"open": "Both back-seated.", "part closed": "The liquid valve is not fully back-seated."},
    ),
    "liquid_line": ("Liquid line from end to end", "straight", {"straight": "No kink.", "kinked": "A crushed bend."}),
    "suction_line": (
        "Suction line from end to end",
        "even",
        {"even": "No kink, evenly cold.", "kinked": "Flattened.", "cold step": "Colder past one fitting."},
    ),
    "line_length": (
        "Line set length against the nameplate",
        "standard",
        {
            "standard": "Within the nameplate's standard length.",
            "longer than standard": "Much longer than the nameplate's standard length.",
        },
    ),
    "orifice": (
        "Fixed orifice (piston) or cap tube",
        "right",
        {
            "right": "The size the nameplate calls for.",
            "too large": "One size too large.",
            "too small": "One size too small.",
            "not seated": "Not seated.",
            "plugged": "Part plugged.",
            "bent": "Flattened at a bend.",
        },
    ),
    "coil_match": (
        "Indoor coil match to the outdoor unit",
        "matched",
        {"matched": "Rated together.", "too small": "The indoor coil is too small for this unit."},
    ),
    "house": (
        "House and any additions",
        "as designed",
        {"as designed": "Same as when the unit was sized.", "grew": "Rooms have been added."},
    ),
    "economizer": ("Economizer damper", "at minimum", {"at minimum": "At minimum position.", "open": "Wide open."}),
}
_WHERE = {
    "filter": lambda m: m.comfort,
    "blower": lambda m: m.comfort,
    "duct": lambda m: m.comfort,
    "house": lambda m: m.comfort,
    "blower_wheel": lambda m: m.comfort,
    "coil_match": lambda m: m.comfort,
    "condenser_coil": lambda m: m.condenser != "water_cooled",
    "condenser_fan": lambda m: m.condenser != "water_cooled",
    "condenser_place": lambda m: m.condenser != "water_cooled",
    "condenser_wet": lambda m: m.condenser != "water_cooled",
    "service_valve": lambda m: not m.sealed,
    "line_length": lambda m: m.application == "air_conditioner" or m.application.startswith("heat_pump"),
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
        return iced, "Frost on the fins, normal between defrosts." if iced else "No frost.", {}
    if a.machine.in_heating:
        return a.state.frosting, "White with frost." if a.state.frosting else "Wet, no frost.", {}
    iced = a.state.frosting
    return iced, "Ice on the coil and down the suction line." if iced else "No ice.", {}


def second_circuit(a: Asked) -> tuple[str, str, dict[Any, Any]]:
    """The other circuit of two: a free comparison."""
    twin = a.state.twin
    if twin is None or twin.equalized or twin.trip:
        return "off", "It does not run.", {}
    if twin.capacity_w < 0.7 * (a.state.capacity_w - twin.capacity_w):
        return "weak", "It runs, but its lines are hardly cold or hot.", {}
    return "runs", "It runs; lines are cold and hot, same as this circuit.", {}


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
            usual=row[1],
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
