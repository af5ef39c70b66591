"""Every reading and figure once: id, what it is called, kind of quantity, where a solved state holds it, which tool
reads it.

Whoever shows a label takes it from here; the browser gets it from the API.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Quantity:
    """A quantity: ``label`` as it stands at the head of a row, ``said`` as it stands inside a sentence.

    ``attribute`` of :class:`~wolfsbane.cycle.state.CircuitState` holds it in SI, None where it is taken from an air or
    worked out otherwise. ``tool`` is the id of the instrument that reads it (``low`` and ``high`` are the gauges of the
    kit), None for what is worked out.
    """

    id: str
    label: str
    kind: str
    said: str = ""
    attribute: str | None = None
    tool: str | None = None

    @property
    def in_sentence(self) -> str:
        """The label as it stands inside a sentence."""
        return self.said or self.label[0].lower() + self.label[1:]


def _pressure(id_: str, label: str, attribute: str, tool: str) -> Quantity:
    return Quantity(id=id_, label=label, kind="pressure", attribute=attribute, tool=tool)


def _pipe(id_: str, label: str, attribute: str) -> Quantity:
    return Quantity(id=id_, label=label, kind="temperature", attribute=attribute, tool="clamp_thermometer")


def _air(id_: str, label: str) -> Quantity:
    return Quantity(id=id_, label=label, kind="temperature", tool="psychrometer")


def _by_id(*quantities: Quantity) -> dict[str, Quantity]:
    return {q.id: q for q in quantities}


#: readings in the order a technician takes them
USUAL_READINGS = _by_id(
    _pressure("suction_pressure", "Suction pressure", "suction_pa", "low"),
    _pressure("head_pressure", "Head pressure", "head_pa", "high"),
    _pipe("suction_line", "Suction line, outdoors", "suction_line_k"),
    _pipe("liquid_line", "Liquid line, outdoors", "liquid_line_k"),
    _pipe("drier_out", "After the drier", "after_drier_k"),
    _pipe("discharge_line", "Discharge line", "discharge_line_k"),
    _air("return_db", "Return air, dry bulb"),
    _air("return_wb", "Return air, wet bulb"),
    _air("supply_db", "Supply air, dry bulb"),
    _pipe("outdoor_db", "Outdoor air, dry bulb", "outdoor_k"),
)
#: readings taken where they help
MORE_READINGS = _by_id(
    _pipe("evaporator_inlet", "Evaporator inlet pipe", "evaporator_inlet_k"),
    _pipe("evaporator_outlet", "Suction line, at the coil", "evaporator_outlet_k"),
    _pipe("condenser_inlet", "Condenser inlet pipe", "discharge_line_k"),
    _pipe("condenser_bend", "Condenser, return bend halfway", "condenser_bend_k"),
    _pipe("condenser_outlet", "Condenser outlet pipe", "condenser_outlet_k"),
    _pipe("suction_before_valve", "Suction before the reversing valve", "suction_before_valve_k"),
    _air("mixed_air", "Mixed air before the coil"),
    _air("supply_high", "Supply air, top of the duct"),
    _air("supply_low", "Supply air, bottom of the duct"),
    _pipe("condenser_entering_air", "Air entering the condenser", "condenser_entering_k"),
    _pipe("condenser_leaving_air", "Air leaving the condenser", "condenser_air_out_k"),
    _pipe("water_in", "Condenser water in", "condenser_entering_k"),
    _pipe("water_out", "Condenser water out", "condenser_air_out_k"),
    Quantity(
        id="compressor_amps", label="Compressor amps", kind="current", attribute="compressor_amps", tool="amp_clamp"
    ),
    Quantity(id="airflow", label="Supply airflow", kind="flow", tool="flow_hood"),
    Quantity(id="static", label="Total external static pressure", kind="static", tool="manometer"),
)


def _saturation(id_: str, label: str, attribute: str) -> Quantity:
    return Quantity(id=id_, label=label, kind="temperature", attribute=attribute)


def _difference(id_: str, label: str, attribute: str, said: str = "") -> Quantity:
    return Quantity(id=id_, label=label, kind="difference", attribute=attribute, said=said)


#: what is read off the PT scale
SATURATION_TEMPERATURES = _by_id(
    _saturation("suction_saturation", "Suction saturation temperature", "suction_saturation_k"),
    _saturation("liquid_saturation", "Condensing temperature (saturated)", "liquid_saturation_k"),
)
#: what is worked out from readings
WORKED_OUT = _by_id(
    _difference("superheat", "Superheat", "superheat_dk"),
    _difference("evaporator_superheat", "Superheat at the coil", "evaporator_superheat_dk"),
    _difference("subcooling", "Subcooling", "subcooling_dk"),
    _difference("evaporator_td", "Evaporator TD", "evaporator_td_dk", said="evaporator TD"),
    _difference("ctoa", "CTOA", "ctoa_dk", said="CTOA"),
    _difference("drier_drop", "Temperature drop across the drier", "drier_drop_dk"),
    _difference("air_delta_t", "Air delta-T", "air_delta_t_dk"),
)
READINGS = USUAL_READINGS | MORE_READINGS
QUANTITIES = READINGS | SATURATION_TEMPERATURES | WORKED_OUT


def name_of(quantity_id: str) -> str:
    """The label of a reading or figure."""
    return QUANTITIES[quantity_id].label


#: figures that are about other air where the evaporator stands outdoors
_IN_HEATING = {"evaporator_td": "Outdoor coil TD", "ctoa": "Condensing over return air"}


def figure_name(quantity_id: str, in_heating: bool) -> str:
    """The label of a figure on a machine that cools, or on one that heats."""
    return _IN_HEATING.get(quantity_id, name_of(quantity_id)) if in_heating else name_of(quantity_id)


def said_of(quantity_id: str) -> str:
    """A reading or figure as it is named inside a sentence."""
    return QUANTITIES[quantity_id].in_sentence
