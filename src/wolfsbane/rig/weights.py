"""Weights of refrigerant as a shop writes and types them."""

from __future__ import annotations

from wolfsbane.cycle.entered import entered
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import KG_PER_OZ

_LB_KG = 16.0 * KG_PER_OZ


def weight(kg: float, system: str) -> str:
    """A weight as a shop writes it: 24 lb 11.0 oz, 8.5 oz; 12.345 kg, 120 g."""
    sign, size = ("−" if kg < 0.0 else ""), abs(kg)
    if system == "si":
        return f"{sign}{size:.3f} kg" if size >= 1.0 else f"{sign}{1000.0 * size:.0f} g"
    ounces = round(size / KG_PER_OZ, 1)
    pounds = int(ounces // 16)
    return f"{sign}{pounds} lb {ounces - 16 * pounds:.1f} oz" if pounds else f"{sign}{ounces:.1f} oz"


def typed_kg(text: str, system: str, field: str) -> float:
    """A weight as typed: 24 lb 11 oz, 120 oz, 3.4 kg; a bare number is pounds, or kilograms in SI.

    Raises BadInputError naming ``field``.
    """
    bare = text.strip().replace(",", ".")
    try:
        return float(bare) * (_LB_KG if system == "us" else 1.0)
    except ValueError:
        grams = entered(text, "g", field)
    if grams is None:
        raise BadInputError(field, text, "a weight: 24 lb 11 oz, 120 oz or 3.4 kg")
    return grams / 1000.0


def moved_kg(text: str, system: str, field: str = "log") -> float:
    """A weight that was moved, as typed: a bare number is ounces, or grams in SI. Raises BadInputError."""
    bare = text.strip().replace(",", ".").replace(".", "", 1).isdigit()
    return typed_kg(f"{text} {'oz' if system == 'us' else 'g'}" if bare else text, system, field)
