"""A rig as it is entered: its file, its register map, its units, and what is refused about them."""

import pytest

from tests.rig.conftest import CHANNELS, DEVICES, rig_of
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.quantities import READINGS
from wolfsbane.rig import registers
from wolfsbane.rig.devices import DEVICE_KINDS
from wolfsbane.rig.points import ORDER, from_si, kind_of, label_of, to_si, units_of
from wolfsbane.rig.rig import RIG, TYPES


def test_a_rig_is_read_back_to_the_same():
    rig = rig_of(limits={"head_psig": 420}, address="127.0.0.1:5020", clock=900, place="Bay 2")
    assert RIG.read(RIG.write(rig)) == rig
    assert rig.device("liquid_valve").unit == "turns" and rig.channel("head_pressure").register == 2


@pytest.mark.parametrize(
    ("changed", "field", "allowed"),
    [
        ({"name": ""}, "name", "1 to 80"),
        ({"machine": "chest-r12"}, "machine", "split-3t-r410a-txv"),
        ({"channels": [{"point": "suction_line", "register": 1, "unit": "psig"}]}, "channels", "°F, °C, K"),
        ({"channels": [{"point": "suction", "register": 1, "unit": "psig"}]}, "channels", "suction_pressure"),
        ({"channels": [{"point": "head_pressure", "register": -1, "unit": "psig"}]}, "channels", "0 to 65535"),
        ({"channels": [{"point": "head_pressure", "unit": "psig"}]}, "channels", "required"),
        ({"channels": [{"point": "head_pressure", "register": n, "unit": "psig"} for n in (1, 3)]}, "channels", "once"),
        ({"devices": [{"kind": "hammer"}]}, "devices", "liquid_valve"),
        ({"limits": {"head_psig": 4200}}, "limits", "50 to 800"),
        ({"color": "red"}, "color", "name"),
    ],
)
def test_what_is_wrong_is_named_with_what_is_allowed(changed, field, allowed):
    with pytest.raises(BadInputError) as told:
        RIG.read({**RIG.write(rig_of()), **changed})
    assert told.value.field.startswith(field) and allowed in str(told.value)


def test_the_order_of_stored_samples_never_changes():
    """Stored rows hold values by place: a new point goes to the end."""
    assert ORDER[:10] == (
        "suction_pressure",
        "head_pressure",
        "suction_line",
        "liquid_line",
        "drier_out",
        "discharge_line",
        "return_db",
        "return_wb",
        "supply_db",
        "outdoor_db",
    )
    assert ORDER[23:28] == ("compressor_amps", "airflow", "static", "return_rh", "weight")
    assert set(READINGS) <= set(ORDER) and len(set(ORDER)) == len(ORDER)


@pytest.mark.parametrize("point", ORDER)
def test_units_lead_there_and_back(point):
    for unit in units_of(point):
        assert from_si(point, unit, to_si(point, unit, 37.5)) == pytest.approx(37.5)
    assert label_of(point) and kind_of(point)
    with pytest.raises(BadInputError, match="one of"):
        to_si(point, "furlong", 1.0)


def test_units_against_published_factors():
    """NIST SP 811: 1 psi = 6.894 757 kPa, 1 oz (av.) = 28.349 52 g, t/°C = (t/°F − 32)/1.8."""
    assert to_si("head_pressure", "psig", 1.0) == pytest.approx(6894.757, rel=1e-6)
    assert to_si("weight", "oz", 1.0) == pytest.approx(0.02834952, rel=1e-6)
    assert to_si("suction_line", "°F", 212.0) == pytest.approx(373.15)


def test_devices_name_faults_that_exist_and_say_how_they_are_undone():
    for kind in DEVICE_KINDS.values():
        assert set(kind.faults) <= set(FAULTS) and kind.set and kind.undo and kind.limits and kind.most > 0
    assert "non_condensables" not in {f for k in DEVICE_KINDS.values() for f in k.faults}


def test_a_map_leads_there_and_back_with_commas_and_with_decimal_commas():
    rig = rig_of(clock=900)
    text = registers.written(rig)
    assert text.splitlines()[0] == ",".join(registers.COLUMNS)
    assert len(text.splitlines()) == 2 + len(CHANNELS) + len(DEVICES)
    assert registers.read(rig, text) == rig
    semicolons = text.replace(",", ";").replace("1.0", "1,0").replace("0.0", "0,0")
    assert registers.read(rig, "\ufeff" + semicolons) == rig


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "a header"),
        ("point,register\nx,1", "columns what"),
        ("what,name,register\nvalve,liquid_valve,1", "line 2, what"),
        ("what,name,register\nchannel,pressure,1", "line 2, name"),
        ("what,name,register,unit\nchannel,head_pressure,two,psig", "line 2, register"),
        ("what,name,register,unit,scale\nchannel,head_pressure,2,psig,ten", "line 2, scale"),
        ("what,name,register,unit\nchannel,head_pressure,2,°F", "one of psig"),
        ("what,name,register\ndevice,crowbar,2", "line 2, name"),
    ],
)
def test_a_wrong_map_names_its_line(text, said):
    with pytest.raises(BadInputError, match=said):
        registers.read(rig_of(), text)


@pytest.mark.parametrize("kind", [t for t in TYPES if t != "bit"])
def test_registers_hold_their_numbers(kind):
    for value in (0.0, 1.0, 118.25 if kind == "float32" else 118.0):
        assert registers.number_of(kind, registers.words_of(kind, value)) == value
    if kind.startswith(("int", "float")):
        assert registers.number_of(kind, registers.words_of(kind, -12.0)) == -12.0


def test_floats_stand_high_word_first():
    """IEEE 754: 123.456 is 0x42F6E979 in single precision."""
    assert registers.words_of("float32", 123.456) == [0x42F6, 0xE979]
    with pytest.raises(BadInputError, match="2 for a float32"):
        registers.number_of("float32", [1])


def test_channels_are_fetched_in_few_reads():
    assert registers.spans(rig_of().channels) == [("input", 0, 22)]
    far = rig_of(
        channels=[{"point": p, "register": r, "unit": "°F"} for p, r in (("suction_line", 0), ("return_db", 900))]
    )
    assert registers.spans(far.channels) == [("input", 0, 2), ("input", 900, 2)]


def test_what_no_sensor_can_show_is_no_reading():
    rig = rig_of()
    line, head = rig.channel("suction_line"), rig.channel("head_pressure")
    assert registers.shown(line, 55.0) == pytest.approx(285.93, abs=0.01)
    for raw in (float("nan"), float("inf"), -459.0, 9999.0):
        assert registers.shown(line, raw) is None
    assert registers.shown(head, 65_535.0) is None
