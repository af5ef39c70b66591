"""What plates have in common: cutouts of a refrigerant, charge for longer lines."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.machine import Plate
from wolfsbane.cycle.units import KG_PER_OZ, M_PER_FT, PA_PER_PSI, W_PER_BTUH, f_to_k

#: refrigerant -> high and low-pressure cutout of a comfort machine, psig (typical settings; common practice, no source)
CUTOUTS_PSIG = {
    "R-410A": (610.0, 50.0),
    "R-22": (400.0, 25.0),
    "R-32": (630.0, 50.0),
    "R-454B": (590.0, 45.0),
    "R-407C": (425.0, 22.0),
}
_CFM = M_PER_FT**3 / 60
PA_PER_INWC = 249.089

#: liquid at 100 degF, kg/m3 (from our tables; a test compares)
LIQUID_KG_M3 = {"R-410A": 989, "R-22": 1138, "R-32": 904, "R-454B": 928, "R-407C": 1079}
#: liquid line per foot on a machine of 0.064 kg/s, liters, and what the suction line adds, oz (assumed)
_LITRES_PER_FT, _SUCTION_OZ = 0.0155, 0.04


def oz_per_ft(mass_flow_kg_s: Any, refrigerant: Any) -> Any:
    """Charge for each foot of line beyond the standard length, oz to a tenth:
    the liquid line's volume follows the flow.
    """
    liquid_kg = _LITRES_PER_FT * 1e-3 * mass_flow_kg_s / 0.064 * LIQUID_KG_M3[refrigerant]
    return round(liquid_kg / KG_PER_OZ + _SUCTION_OZ, 1)


def plate(
    *,
    model: Any,
    tons: Any = None,
    btuh: Any = None,
    charge_kg: Any,
    refrigerant: Any,
    subcooling_df: Any = None,
    superheat_df: Any = None,
    amps: Any,
    cfm: Any,
    oz_per_ft: float = 0.6,
    line_ft: float = 15.0,
    cutouts_psig: Any = None,
    static_inwc: Any = None,
) -> Plate:
    """A plate from trade units; ``amps`` is the rated load, the overload opens at 1.4 times that (assumed)."""
    high, low = cutouts_psig or CUTOUTS_PSIG[refrigerant]
    window = None if superheat_df is None else tuple(v / 1.8 for v in superheat_df)
    return Plate(
        model=model,
        capacity_w=(btuh or tons * 12_000) * W_PER_BTUH,
        factory_charge_kg=round(charge_kg / KG_PER_OZ) * KG_PER_OZ,
        charge_per_line_kg_m=oz_per_ft * KG_PER_OZ / M_PER_FT,
        standard_line_m=line_ft * M_PER_FT,
        target_subcooling_dk=None if subcooling_df is None else subcooling_df / 1.8,
        target_superheat_dk=window,
        rated_amps=amps,
        overload_amps=round(1.4 * amps, 1),
        high_cutout_gauge_pa=high * PA_PER_PSI,
        low_cutout_gauge_pa=low * PA_PER_PSI,
        discharge_cutout_k=f_to_k(275.0),
        design_airflow_m3_s=cfm * _CFM,
        max_static_pa=None if static_inwc is None else static_inwc * PA_PER_INWC,
    )
