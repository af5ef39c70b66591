"""The ``wolfsbane`` command: machines, faults, pt, solve, bench. Needs no database and no server."""

import argparse
import json
import sys

from wolfsbane.cycle import units
from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault, fault_kind
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.properties import refrigerant


class _Parser(argparse.ArgumentParser):
    def error(self, message):
        print(f"wolfsbane: {message}", file=sys.stderr)
        raise SystemExit(2)


def _gauge_psi(pressure_pa, barometer_pa=units.STANDARD_ATMOSPHERE_PA):
    return units.to_display("pressure", pressure_pa, "us", barometer_pa)


def machine_rows():
    """Every profile with its plate, as the contract lists it."""
    rows = []
    for m in MACHINES.values():
        subcooling = m.plate.target_subcooling_dk
        rows.append({
            "id": m.id, "name": m.name, "refrigerant": m.refrigerant, "metering": m.metering,
            "application": m.application, "condenser": m.condenser, "receiver": m.receiver,
            "capacity_btuh": round(m.plate.capacity_w / units.W_PER_BTUH),
            "factory_charge_oz": round(m.plate.factory_charge_kg / units.KG_PER_OZ, 1),
            "plate_subcooling_df": None if subcooling is None else round(subcooling * 1.8, 1),
            "plate_superheat_df": None})
    return rows


def fault_rows():
    """Every fault with its parameter, unit, named levels and causes; ``none`` first."""
    rows = [{"id": NONE, "parameter": None, "unit": None, "mild": None, "moderate": None, "severe": None, "causes": []}]
    for k in FAULTS.values():
        rows.append({"id": k.id, "parameter": k.parameter, "unit": k.unit, "mild": k.mild, "moderate": k.moderate,
                     "severe": k.severe, "causes": list(k.causes)})
    return rows


def pressure_temperature(name, *, psig=None, f=None, c=None):
    """Dew and bubble temperature at a gauge pressure, or the gauge pressures at a temperature. Sea level."""
    fluid = refrigerant(name)
    if psig is not None:
        pressure = units.from_display("pressure", psig, "us")
        low, high = (_gauge_psi(p) for p in (fluid.min_pa, fluid.max_pa))
        if not low <= psig <= high:
            raise BadInputError("psig", psig, f"{low:.1f} to {high:.1f} psig for {name}")
        dew, bubble = fluid.saturation_k(pressure, "dew"), fluid.saturation_k(pressure, "bubble")
        return {"dew_f": round(units.k_to_f(dew), 2), "bubble_f": round(units.k_to_f(bubble), 2),
                "dew_c": round(units.k_to_c(dew), 2), "bubble_c": round(units.k_to_c(bubble), 2)}
    temperature = units.f_to_k(f) if f is not None else units.c_to_k(c)
    low = max(fluid.saturation_k(fluid.min_pa * 1.0001, p) for p in ("dew", "bubble"))
    high = min(fluid.saturation_k(fluid.max_pa * 0.9999, p) for p in ("dew", "bubble"))
    if not low <= temperature <= high:
        field, value, show = ("f", f, units.k_to_f) if f is not None else ("c", c, units.k_to_c)
        raise BadInputError(field, value, f"{show(low):.1f} to {show(high):.1f} °{field.upper()} for {name}")
    dew, bubble = fluid.saturation_pa(temperature, "dew"), fluid.saturation_pa(temperature, "bubble")
    return {"dew_psig": round(_gauge_psi(dew), 2), "bubble_psig": round(_gauge_psi(bubble), 2),
            "dew_kpa_gauge": round(units.to_display("pressure", dew, "si"), 1),
            "bubble_kpa_gauge": round(units.to_display("pressure", bubble, "si"), 1)}


def parse_fault(text):
    """``ID`` or ``ID:LEVEL`` to a :class:`Fault`, or None for ``none``. Raises BadInputError."""
    fault_id, _, level = text.partition(":")
    if fault_id == NONE:
        return None
    kind = fault_kind(fault_id)
    return Fault(id=fault_id, severity=kind.level(level or "moderate"))


def solved_row(state):
    """The solved state in contract units; readings are null when the machine cut out."""
    f, df = units.k_to_f, lambda value: value * 1.8
    row = {
        "suction_psig": _gauge_psi(state.suction_pa, state.barometer_pa),
        "head_psig": _gauge_psi(state.head_pa, state.barometer_pa),
        "suction_saturation_f": f(state.suction_saturation_k), "liquid_saturation_f": f(state.liquid_saturation_k),
        "suction_line_f": f(state.suction_line_k), "evaporator_outlet_f": f(state.evaporator_outlet_k),
        "liquid_line_f": f(state.liquid_line_k), "discharge_line_f": f(state.discharge_line_k),
        "drier_out_f": f(state.after_drier_k), "supply_db_f": f(state.supply_air.dry_bulb_k),
        "superheat_df": df(state.superheat_dk), "evaporator_superheat_df": df(state.evaporator_superheat_dk),
        "subcooling_df": df(state.subcooling_dk), "evaporator_td_df": df(state.evaporator_td_dk),
        "ctoa_df": df(state.ctoa_dk), "air_delta_t_df": df(state.air_delta_t_dk),
        "drier_drop_df": df(state.drier_drop_dk), "capacity_btuh": state.capacity_w / units.W_PER_BTUH,
        "power_w": state.power_w, "compressor_a": state.compressor_amps,
    }
    row = {key: None if state.trip else round(value, 2) + 0.0 for key, value in row.items()}
    row |= {"charge_oz": round(state.charge_kg / units.KG_PER_OZ, 1), "frosting": state.frosting and not state.trip,
            "flood_back": state.flood_back and not state.trip, "converged": abs(state.mass_residual) < 1e-3,
            "energy_residual": state.energy_residual, "mass_residual": state.mass_residual}
    if state.trip:
        row["tripped"] = {"cutout": state.trip.cutout, "after_s": round(state.trip.after_s)}
    return row


def _solve(args):
    from wolfsbane.cycle.solver import solve

    if args.heating:
        raise BadInputError("heating", True, "cooling only: no heat-pump profile in heating yet")
    for name, value in (("box_f", args.box_f), ("water_in_f", args.water_in_f)):
        if value is not None:
            raise BadInputError(name, value, "not used: no machine here has a refrigerated box or a water condenser")
    weather = conditions(outdoor_db_f=args.outdoor_db_f, return_db_f=args.return_db_f, return_wb_f=args.return_wb_f,
                         altitude_ft=args.altitude_ft)
    faults = tuple(x for x in map(parse_fault, args.fault) if x is not None)
    return solved_row(solve(machine(args.machine), weather, faults))


def _print_table(data):
    rows = data if isinstance(data, list) else [{"figure": k, "value": v} for k, v in data.items()]
    columns = list(rows[0])
    text = [[_cell(row[c]) for c in columns] for row in rows]
    widths = [max(len(c), *(len(r[i]) for r in text)) for i, c in enumerate(columns)]
    for line in [columns, *text]:
        print("  ".join(cell.ljust(w) for cell, w in zip(line, widths, strict=True)).rstrip())


def _cell(value):
    if value is None:
        return "-"
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if isinstance(value, dict):
        return ", ".join(f"{k} {v}" for k, v in value.items())
    return f"{value:.6g}" if isinstance(value, float) else str(value)


def _parser():
    parser = _Parser(prog="wolfsbane", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    shared = argparse.ArgumentParser(add_help=False)
    shared.add_argument("--json", action="store_true", help="print JSON")
    commands.add_parser("machines", parents=[shared], help="the machine profiles")
    commands.add_parser("faults", parents=[shared], help="the faults and their levels")
    pt = commands.add_parser("pt", parents=[shared], help="pressure and saturation temperature")
    pt.add_argument("refrigerant")
    which = pt.add_mutually_exclusive_group(required=True)
    for unit in ("psig", "f", "c"):
        which.add_argument(f"--{unit}", type=float)
    solve = commands.add_parser("solve", parents=[shared], help="solve one machine")
    solve.add_argument("machine")
    for name in ("outdoor-db-f", "return-db-f", "return-wb-f"):
        solve.add_argument(f"--{name}", type=float, required=True)
    solve.add_argument("--fault", action="append", default=[], metavar="ID:LEVEL")
    solve.add_argument("--altitude-ft", type=float, default=0.0)
    solve.add_argument("--box-f", type=float)
    solve.add_argument("--water-in-f", type=float)
    solve.add_argument("--heating", action="store_true")
    bench = commands.add_parser("bench", parents=[shared], help="speed of the solver and the generator, as ratios")
    bench.add_argument("--repeat", type=int, default=200)
    mark = commands.add_parser("mark", parents=[shared], help="mark one answered call from files")
    mark.add_argument("call")
    mark.add_argument("answers")
    call = commands.add_parser("call", parents=[shared], help="make one call with its key from a scenario file")
    call.add_argument("scenario")
    call.add_argument("--seed", type=int, default=1)
    return parser


def _run(args):
    if args.command == "machines":
        return machine_rows()
    if args.command == "faults":
        return fault_rows()
    if args.command == "pt":
        return pressure_temperature(args.refrigerant, psig=args.psig, f=args.f, c=args.c)
    if args.command == "solve":
        return _solve(args)
    if args.command == "bench":
        from wolfsbane.speed import run

        return run(args.repeat)
    from wolfsbane import files

    return files.make_call(args.scenario, args.seed) if args.command == "call" else files.mark(args.call, args.answers)


def main(argv=None):
    """Run the command line; returns the exit code (0, or 2 on bad input)."""
    args = _parser().parse_args(argv)
    try:
        result = _run(args)
    except (BadInputError, NoConvergenceError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2
    if args.json:
        print(json.dumps(result, indent=2, ensure_ascii=False))
    else:
        _print_table(result)
    return 0


if __name__ == "__main__":
    sys.exit(main())
