"""Numbers as they stand on a nameplate or a gauge."""

import pytest

from wolfsbane.cycle.entered import BLANK, entered, entered_range
from wolfsbane.cycle.errors import BadInputError


@pytest.mark.parametrize(
    ("typed", "unit", "value"),
    [
        ("3 tons", "Btu/h", 36_000),
        ("3 ton", "kW", 10.5506),
        ("36k", "Btu/h", 36_000),
        ("36 k btu", "Btu/h", 36_000),
        ("36,000", "Btu/h", 36_000),
        ("36 000 Btu/h", "Btu/h", 36_000),
        ("36 MBH", "Btu/h", 36_000),
        ("10.55 kW", "Btu/h", 35_998),
        ("2½ tons", "Btu/h", 30_000),
        ("2 1/2 tons", "Btu/h", 30_000),
        ("1/2 hp", "W", 372.85),
        ("3.2 kW", "W", 3200),
        ("7 lb 8 oz", "oz", 120),
        ("7lbs 8oz", "oz", 120),
        ("7# 8 oz", "oz", 120),
        ("7.5 lb", "oz", 120),
        ("7 lb 8 oz", "g", 3401.9),
        ("3.4 kg", "g", 3400),
        ("120 g", "oz", 4.2328),
        ("1 kg 200 g", "g", 1200),
        ("120", "oz", 120),
        ("208/230", "V", 230),
        ("208-230 V", "V", 230),
        ("208/230-1-60", "V", 230),
        ("460V", "V", 460),
        ("14.1 A", "A", 14.1),
        ("14,1", "A", 14.1),
        ("78°", "°F", 78),
        ("78 F", "°F", 78),
        ("78 °F", "°C", 25.556),
        ("25 °C", "°F", 77),
        ("-10", "°F", -10),
        ("−10°", "°F", -10),
        ("118 psig", "psig", 118),
        ("8.1 bar", "psig", 117.48),
        ("820 kPa", "psig", 118.93),
        ("118 psi", "kPa", 813.58),
        ("5 inHg", "psig", -2.4558),
        ("1200 cfm", "L/s", 566.34),
        ("1.2k", "cfm", 1200),
        ("0.6 oz/ft", "g/m", 55.805),
        (".6", "oz/ft", 0.6),
        ("15'", "ft", 15),
        ("4.5 m", "ft", 14.764),
        ("about 95", "°F", 95),
        ("3 tons", "tons", 3),
        ("36k btuh", "tons", 3),
    ],
)
def test_a_number_is_read_into_the_unit_of_its_field(typed, unit, value):
    """Sizes of units: NIST Special Publication 811, from memory; a ton of cooling is 12,000 Btu/h."""
    assert entered(typed, unit, "Field") == pytest.approx(value, rel=2e-4)


@pytest.mark.parametrize(
    ("typed", "unit", "value"), [("6 K", "°F", 10.8), ("11°", "°F", 11), ("18 °F", "K", 10), ("6", "K", 6)]
)
def test_a_difference_converts_as_one(typed, unit, value):
    assert entered(typed, unit, "Superheat", difference=True) == pytest.approx(value)


@pytest.mark.parametrize("typed", [*BLANK, "  - ", "N/A"])
def test_what_was_not_read_is_nothing(typed):
    assert entered(typed, "psig", "Suction") is None


@pytest.mark.parametrize(
    ("typed", "unit"),
    [
        ("abc", "psig"),
        ("12 x", "psig"),
        ("9 tons", "psig"),
        ("1.2.3", "A"),
        ("7 lb 8", "oz"),
        ("12 oz", "°F"),
        ("36kk", "Btu/h"),
        ("5 k", "°F"),
        ("230 and up", "V"),
    ],
)
def test_what_is_no_number_is_refused_with_what_would_do(typed, unit):
    with pytest.raises(BadInputError) as refused:
        entered(typed, unit, "Suction pressure")
    assert refused.value.field == "Suction pressure" and typed in str(refused.value)
    assert "leave it blank if unknown" in refused.value.allowed


@pytest.mark.parametrize(
    ("typed", "unit", "value"),
    [
        ("92 to 98", "psig", [92, 98]),
        ("98-92", "psig", [92, 98]),
        ("92 – 98 psig", "psig", [92, 98]),
        ("6.3 to 6.8 bar", "psig", [91.37, 98.63]),
        ("-5 to 5", "°F", [-5, 5]),
        ("118", "psig", 118),
        ("-3", "psig", -3),
        ("1/2", "psig", 0.5),
        ("-", "psig", None),
    ],
)
def test_a_reading_that_swings_is_a_range(typed, unit, value):
    found = entered_range(typed, unit, "Suction pressure")
    assert found == (value if value is None else pytest.approx(value, rel=2e-4))
