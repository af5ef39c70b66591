"""The ``wolfsbane`` command: machines, faults, pt, solve, ask, diagnose, prove, generate, act, plan, tune, sweep,
bench, brief, call, mark, gaming, audit.

Needs no database and no server.
"""

from __future__ import annotations

import argparse
import json
import sys
from typing import Any, NoReturn

from wolfsbane.cli.contract import (
    fault_card,
    fault_rows,
    heating_row,
    machine_rows,
    parse_fault,
    parted,
    pressure_temperature,
    read_sentence,
    solved_row,
)
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError, require_range
from wolfsbane.cycle.profiles import machine


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"wolfsbane: {message}", file=sys.stderr)
        raise SystemExit(2)


def _situation(args: Any) -> Any:
    """(machine, conditions, machine faults, instrument faults) of a command that solves."""
    m = machine(args.machine)
    found = parted(tuple(x for x in (parse_fault(text, m) for text in args.fault) if x is not None))
    if args.heating and not m.in_heating:
        from wolfsbane.cycle.heating import heating

        m = heating(m)
    weather = for_machine(
        m,
        outdoor_db_f=args.outdoor_db_f,
        return_db_f=args.return_db_f,
        return_wb_f=args.return_wb_f,
        box_f=args.box_f,
        water_in_f=args.water_in_f,
        altitude_ft=args.altitude_ft,
    )
    return m, weather, *found


def _solve(args: Any) -> Any:
    from wolfsbane.cycle.solver import solve

    m, weather, faults, instrument_faults = _situation(args)
    if m.in_heating:
        if args.frost_hours is not None:
            raise BadInputError(
                "frost_hours", args.frost_hours, "nothing in heating: frost is named there, and not grown"
            )
        return heating_row(solve(m, weather, faults), m, faults, instrument_faults)
    if args.frost_hours is None:
        return solved_row(solve(m, weather, faults), m, faults, instrument_faults)
    from wolfsbane.cycle.frost import grow

    growth = grow(m, weather, faults, require_range("frost_hours", args.frost_hours, 0, 48, "hours"))
    last = growth.stages[-1]
    return solved_row(last.state, m, faults, instrument_faults) | {
        "frost": {"end": growth.end, "hours": round(last.hours, 2), "face_blocked_pct": round(100 * last.blocked)}
    }


def _ask(args: Any) -> Any:
    from wolfsbane.cycle.field_tests import ask, tests_for

    m, weather, faults, _ = _situation(args)
    if args.test is None:
        return [{"id": t.id, "name": t.name, "minutes": t.minutes, "caution": t.caution} for t in tests_for(m)]
    answer = ask(m, weather, faults, args.test)
    return {"test": answer.test, "answer": answer.word, "text": answer.text, **answer.values}


def _print_diagnosis(data: Any) -> None:
    """The likeliest answers with their reasons, as text."""
    for row in data["ranked"][:6]:
        if row["weight"] >= 0.005:
            print(f"{100 * row['weight']:5.1f} %  {row['fault']}")
            for sign, sentences in (("+", row["reasons"]), ("-", row["against"])):
                for sentence in sentences:
                    print(f"         {sign} {sentence}")
    print("left open: " + (", ".join(data["left_open"]) or "nothing"))
    print("next: " + (data["next_test"] or "nothing"))


def _print_set(data: Any) -> None:
    """The ladder, and for every apprentice the machines and the readings that tell calls apart."""
    _print_table(data["ladder"])
    print(f"{data['calls']} calls, {data['unique']} proved unique, {data['shared_readings']} shared readings")
    for made in data["sheets"]:
        print(
            f"apprentice {made['apprentice']}: "
            + "; ".join(
                f"{row['call']['machine']['id']} {'/'.join(f'{v:g}' for v in row['fingerprint'])}"
                for row in made["calls"]
            )
        )


def _print_acts(data: Any) -> None:
    """What each step said, then the trace, then where every gram is."""
    for step in data["steps"]:
        given = ", ".join(f"{k} {v}" for k, v in step["arguments"].items())
        print(
            f"{step['at_s'] / 60:7.1f} min  {step['do']}"
            + (f" ({given})" if given else "")
            + ("  REFUSED" if step["refused"] else "")
        )
        for sentence in step["said"]:
            print(f"             {sentence}")
    print()
    _print_table(data["trace"])
    print()
    _print_table(
        {
            **data["end"],
            **{k: v for k, v in data["weights"].items() if k != "cylinders"},
            **data["weights"]["cylinders"],
        }
    )


def _print_plan(data: Any) -> None:
    """The right plan, its proof, and what wrong plans lead to."""
    for i, step in enumerate(data["steps"], 1):
        print(f"{i:3d}  {step['text']}" + (f"  [{', '.join(step['needs'])}]" if step["needs"] else ""))
    print(f"first: {data['first']['text']}")
    print("proof: " + ", ".join(f"{k} {v}" for k, v in data["proof"]["figures"].items()))
    for row in data["wrong"]:
        print(f"  x  {row['text']}")


def _print_tuned(data: Any) -> None:
    """The tuner's report: each figure asked and met, contradictions, the machine."""
    print(data["verdict"])
    _print_table(data["report"])
    for row in data["contradictions"]:
        print(f"contradiction: {row['text']}")
    for text in data["notes"]:
        print(f"note: {text}")


def _print_gaming(data: Any) -> None:
    """What guessing earns, strategy by strategy."""
    print(f"{data['calls']} calls; without reading a number guessing earns {100 * data['guessing']:.0f} % at most")
    _print_table([{k: v for k, v in row.items() if k != "text"} for row in data["strategies"]])


def _print_request(data: Any) -> None:
    """What was made of a sentence, words beside fields."""
    _print_table([{k: row[k] for k in ("words", "field", "text")} for row in data["understood"]] or [{"words": ""}])
    for row in data["impossible"]:
        nearest = f"; the nearest that can be had: {row['nearest']}" if row["nearest"] else ""
        print(f"cannot be had: {row['words']} ({row['why']}{nearest})")
    for words in data["not_understood"]:
        nearest = data["nearest"].get(words)
        print(f"not understood: {words}" + (f" (did you mean {nearest}?)" if nearest else ""))
    for text in data["notes"]:
        print(f"note: {text}")


def _told_row(row: Any) -> None:
    """One searched call on standard error, as it comes: the whole search may take an hour."""
    if row is not None:
        broken = [claim for claim, holds in row["claims"].items() if holds and row["against"].get(claim)]
        hidden = "+".join(row["hidden"]) or "none"
        print(f"seed {row['seed']}, {hidden}: {'; '.join(broken) or 'holds'}", file=sys.stderr, flush=True)


def _print_audit(data: Any) -> None:
    """One of the tables about what is issued, part by part."""
    for name, part in data.items():
        if not isinstance(part, dict):
            print(f"{name}: {_cell(part)}")
            continue
        rows = [{name: key, **row} for key, row in part.items() if isinstance(row, dict)]
        if rows:
            _print_table(rows)
        for key, value in part.items():
            if not isinstance(value, dict):
                print(f"{name} {key}: {_cell(value)}")


def _print_table(data: Any) -> None:
    rows = data if isinstance(data, list) else [{"figure": k, "value": v} for k, v in data.items()]
    columns = list({key: None for row in rows for key in row})
    text = [[_cell(row.get(c)) for c in columns] for row in rows]
    widths = [max(len(c), *(len(r[i]) for r in text)) for i, c in enumerate(columns)]
    for line in [columns, *text]:
        print("  ".join(cell.ljust(w) for cell, w in zip(line, widths, strict=True)).rstrip())


def _cell(value: Any) -> Any:
    if value is None:
        return "-"
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if isinstance(value, dict):
        return ", ".join(f"{k} {v}" for k, v in value.items())
    return f"{value:.6g}" if isinstance(value, float) else str(value)


def _parser() -> _Parser:
    parser = _Parser(prog="wolfsbane", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    shared = _Parser(add_help=False)
    shared.add_argument("--json", action="store_true", help="print JSON")
    commands.add_parser("machines", parents=[shared], help="the machine profiles")
    faults = commands.add_parser("faults", parents=[shared], help="the faults and their levels, or all about one")
    faults.add_argument("fault", nargs="?", help="id of one fault")
    pt = commands.add_parser("pt", parents=[shared], help="pressure and saturation temperature")
    pt.add_argument("refrigerant")
    which = pt.add_mutually_exclusive_group(required=True)
    for unit in ("psig", "f", "c"):
        which.add_argument(f"--{unit}", type=float)
    weather = _Parser(add_help=False)
    weather.add_argument("machine")
    weather.add_argument("--outdoor-db-f", type=float, required=True, help="air entering the condensing unit")
    for name, text in (
        ("return-db-f", "return air, dry bulb"),
        ("return-wb-f", "return air, wet bulb"),
        ("box-f", "box temperature of a refrigeration machine"),
        ("water-in-f", "entering water of a water-cooled condenser"),
    ):
        weather.add_argument(f"--{name}", type=float, help=text)
    weather.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="ID:LEVEL[:CAUSE]",
        help="any number of them; instrument faults only change the readings",
    )
    weather.add_argument("--altitude-ft", type=float, default=0.0)
    weather.add_argument("--heating", action="store_true")
    solve = commands.add_parser("solve", parents=[shared, weather], help="solve one machine")
    solve.add_argument("--frost-hours", type=float, help="let ice grow for so many hours of running")
    ask = commands.add_parser("ask", parents=[shared, weather], help="a test on one machine, answered by the model")
    ask.add_argument("--test", help="which test; without it, the list of those this machine allows")
    sweep = commands.add_parser(
        "sweep", parents=[shared], help="random machines, weather and faults: does everything balance?"
    )
    sweep.add_argument("--cases", type=int, default=20_000)
    sweep.add_argument("--seed", type=int, default=1)
    sweep.add_argument(
        "--signs", action="store_true", help="does every fault move what it should, in all weathers, on every machine?"
    )
    bench = commands.add_parser("bench", parents=[shared], help="speed of the solver and the generator, as ratios")
    bench.add_argument("--repeat", type=int, default=200)
    mark = commands.add_parser("mark", parents=[shared], help="mark one answered call from files")
    mark.add_argument("call")
    mark.add_argument("answers")
    diagnose = commands.add_parser("diagnose", parents=[shared], help="ranked faults from a file of readings")
    diagnose.add_argument("readings")
    diagnose.add_argument(
        "--practice", "--school", dest="practice_id", default="plate_and_formula", help="practice (target set)"
    )
    prove = commands.add_parser(
        "prove", parents=[shared], help="does a scenario have one answer, and what would tell it from look-alikes"
    )
    prove.add_argument("scenario")
    generate = commands.add_parser(
        "generate", parents=[shared], help="a class set from a request: easy to hard, equal variants, drills"
    )
    generate.add_argument("brief")
    generate.add_argument("--workers", type=int, help="processes that share the work (default: one for each core)")
    brief = commands.add_parser(
        "brief", parents=[shared], help="a request in a sentence, read into a file for generate"
    )
    brief.add_argument("sentence", help='such as "six calls on walk-ins, level 2 to 4, no dirty condensers"')
    audit = commands.add_parser(
        "audit",
        parents=[shared],
        help="what is issued, judged from outside: is the answer the only one, can it be reached, is it as hard as"
        " said, can it be had without reading",
    )
    audit.add_argument("table", choices=("proof", "technician", "levels", "copying"), help="which of the tables")
    audit.add_argument("--seed", type=int, default=1, help="another seed draws other calls (default 1)")
    audit.add_argument("--count", type=int, default=30, help="calls, or classes for copying (default 30)")
    audit.add_argument("--workers", type=int, help="processes that share the work (default: one for each core)")
    gaming = commands.add_parser(
        "gaming", parents=[shared], help="what guessing would earn on the calls of a request or a file of calls"
    )
    gaming.add_argument("file", help="a request, a class set, one call or a list of calls")
    gaming.add_argument("--workers", type=int, help="processes that share the work (default: one for each core)")
    units = _Parser(add_help=False)
    units.add_argument("--units", choices=("us", "si"), default="us")
    act = commands.add_parser("act", parents=[shared, units], help="actions on a scenario's machine: the trace")
    act.add_argument("scenario")
    act.add_argument("actions", help="JSON list of {do, arguments}")
    plan = commands.add_parser(
        "plan", parents=[shared, units], help="the correction key of a scenario, wrong plans solved"
    )
    plan.add_argument("scenario")
    actions = commands.add_parser("actions", parents=[shared], help="the actions: what they cost, need and risk")
    actions.add_argument("machine", nargs="?")
    tune = commands.add_parser(
        "tune", parents=[shared], help="a machine of your own from its nameplate and known ratings"
    )
    tune.add_argument("plate")
    call = commands.add_parser("call", parents=[shared], help="make one call with its key from a scenario file")
    call.add_argument("scenario")
    call.add_argument("--seed", type=int, default=1)
    return parser


def _run(args: Any) -> Any:
    if args.command == "machines":
        return machine_rows()
    if args.command == "faults":
        return fault_rows() if args.fault is None else fault_card(args.fault)
    if args.command == "pt":
        return pressure_temperature(args.refrigerant, psig=args.psig, f=args.f, c=args.c)
    if args.command == "solve":
        return _solve(args)
    if args.command == "ask":
        return _ask(args)
    if args.command == "sweep":
        cases = int(require_range("cases", args.cases, 1, 1_000_000, "cases"))
        if args.signs:
            from wolfsbane.devtools.signs import run as signs

            return signs(cases, args.seed)
        from wolfsbane.devtools.sweep import run as sweep

        return sweep(cases, args.seed)
    if args.command == "bench":
        from wolfsbane.devtools.speed import run

        return run(int(require_range("repeat", args.repeat, 1, 100_000, "times")))
    if args.command == "actions":
        from wolfsbane.acting.actions import action_rows

        rows = action_rows(None if args.machine is None else machine(args.machine))
        return rows if args.json else [{**r, "parameters": ", ".join(p["name"] for p in r["parameters"])} for r in rows]
    if args.command == "brief":
        return read_sentence(args.sentence)
    from wolfsbane.cli import files

    if args.command == "act":
        return files.act_file(args.scenario, args.actions, args.units)
    if args.command == "plan":
        return files.plan_file(args.scenario, args.units)
    if args.command == "tune":
        return files.tune_file(args.plate)
    if args.command in ("generate", "gaming"):
        workers = None if args.workers is None else int(require_range("workers", args.workers, 1, 64, "processes"))
        if args.command == "gaming":
            return files.gaming_file(args.file, workers)
        return files.generate_file(args.brief, workers)
    if args.command == "audit":
        from wolfsbane.devtools.audit import audit

        workers = None if args.workers is None else int(require_range("workers", args.workers, 1, 64, "processes"))
        seed = int(require_range("seed", args.seed, 0, 10**9, ""))
        count = int(require_range("count", args.count, 1, 5000, "calls or classes"))
        return audit(args.table, seed, count, workers, _told_row)
    if args.command == "prove":
        return files.prove_file(args.scenario)
    if args.command == "diagnose":
        return files.diagnose_file(args.readings, args.practice_id)
    return files.make_call(args.scenario, args.seed) if args.command == "call" else files.mark(args.call, args.answers)


def main(argv: Any = None) -> Any:
    """Run the command line; returns the exit code (0, or 2 on bad input)."""
    args = _parser().parse_args(argv)
    try:
        result = _run(args)
    except (BadInputError, NoConvergenceError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2
    own = {
        "diagnose": _print_diagnosis,
        "generate": _print_set,
        "act": _print_acts,
        "plan": _print_plan,
        "tune": _print_tuned,
        "gaming": _print_gaming,
        "brief": _print_request,
        "audit": _print_audit,
    }
    if args.command in own and not args.json:
        own[args.command](result)
    elif args.json:
        print(json.dumps(result, indent=2, ensure_ascii=False))
    else:
        _print_table(result)
    return 0


if __name__ == "__main__":
    sys.exit(main())
