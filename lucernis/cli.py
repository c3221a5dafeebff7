"""The command line: serve, demo, report, size, export, import, backup, meter. Thin over store, core and exports."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import sys
import threading
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from lucernis import __version__
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeAnswer, SizeRequest, size_run
from lucernis.core.report import CAUTION, Report, Working
from lucernis.errors import LucernisError, NotFound
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from lucernis.plan.sizes import parse_size
from lucernis.plan.units import parse_length_m
from lucernis.practice.rules import load_sets
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from lucernis.store.revisions import StoredPlan

STOP_STATUS = 1
BAD_INPUT_STATUS = 2


def default_data() -> Path:
    """Where plans are kept unless told otherwise."""
    home = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(home) / "lucernis" / "lucernis.sqlite3"


def say(text: str) -> None:
    """Write a line to standard output."""
    sys.stdout.write(text + "\n")


def _store(path: Path) -> PlanStore:
    database = Database(path)
    database.open()
    return PlanStore(database)


def _find(store: PlanStore, wanted: str) -> StoredPlan:
    """A plan by its id, or by its name if only one has it."""
    plans = store.list_plans()
    named = [one for one in plans if one.plan_id == wanted] or [
        one for one in plans if one.document["job"]["name"].casefold() == wanted.casefold()
    ]
    if len(named) != 1:
        known = ", ".join(f"{one.document['job']['name']} ({one.plan_id})" for one in plans) or "none yet"
        raise NotFound(f"{'no' if not named else 'more than one'} plan {wanted!r}", field="plan", allowed=known)
    return named[0]


def _read_plan(path: str) -> Plan:
    text = sys.stdin.read() if path == "-" else Path(path).read_text(encoding="utf-8-sig")
    try:
        document = json.loads(text)
    except json.JSONDecodeError as error:
        raise LucernisError(f"{path} is not JSON: {error}", field="plan", allowed="a plan as JSON") from error
    return parse_plan(document)


def _serve(options: argparse.Namespace) -> int:
    from lucernis.serve import ServeOptions, serve

    if not options.share and (options.tls or options.passcode):
        raise LucernisError(
            "only a shared program has a passcode or a certificate", field="share", allowed="--share with them"
        )
    if not options.share and options.bind:
        raise LucernisError("only a shared program has an address of a network", field="bind", allowed="--share --bind")
    asked = ServeOptions(
        options.data, options.port, options.demo, options.share, options.tls, options.passcode or "", options.bind
    )
    return serve(asked, say)


def _demo(options: argparse.Namespace) -> int:
    options.demo, options.share, options.tls, options.passcode, options.bind = True, False, False, "", ""
    return _serve(options)


def _report_text(report: Report) -> str:
    summary = report.summary
    lines = [
        f"{report.job} · {report.nominal_v} V · {report.practice_label}",
        f"{summary.ah_per_day:.1f} Ah a day · {summary.battery_current_a:.1f} A at most · "
        f"worst drop {100 * summary.worst_drop_frac.value:.1f} % {summary.worst_drop_frac.tag} · "
        f"copper {summary.copper_kg:.1f} kg",
        "",
        f"{'tag':<8}{'to':<28}{'A':>7}{'m':>7}  {'wire':<11}{'fuse':<26}{'to end':>8}  verdict",
    ]
    for run in report.runs:
        fuse = "by " + (run.protected_by or "nothing")
        if run.fuse is not None:
            fuse = f"{run.fuse.rating_a:g} A {run.fuse.family_label}" if run.fuse.rating_a is not None else "none made"
        lines.append(
            f"{run.tag:<8}{run.finish_label[:27]:<28}{run.design_current_a:>7.1f}{run.length_m:>7.2f}  "
            f"{run.wire.label:<11}{fuse[:25]:<26}{100 * run.worst.conductor_drop_to_end_frac:>6.1f} %  {run.verdict}"
        )
    for one in report.findings:
        state = f"waived ({one.waived})" if one.waived is not None else one.severity
        lines += ["", f"{state} {one.code} {one.tag}", f"  {one.what}", f"  {one.why}", f"  {one.mend}"]
        lines += [f"  follows: {other.code} {other.tag}: {other.what}" for other in one.consequences]
    return "\n".join([*lines, "", CAUTION])


def _report(options: argparse.Namespace) -> int:
    report = evaluate(_read_plan(options.plan))
    say(TypeAdapter(Report).dump_json(report, indent=2).decode() if options.json else _report_text(report))
    return STOP_STATUS if report.summary.open_stop else 0


def _working_lines(working: dict[str, Working]) -> list[str]:
    lines = []
    for one in working.values():
        if one.subject == "plan":
            continue
        put_in = ", ".join(
            f"{item.symbol} = {item.value:.4g} {item.unit}".strip()
            if isinstance(item.value, float)
            else f"{item.symbol} = {item.value} {item.unit}".strip()
            for item in one.inputs
        )
        value = f"{one.value:.4g}" if isinstance(one.value, float) else str(one.value)
        lines += [f"  {one.title}: {value} {one.unit}".rstrip(), f"    {one.formula}", f"    {put_in}"]
        lines += [f"    {row.table}: row {row.row}, {row.column} = {row.value} ({row.certainty})" for row in one.rows]
    return lines


def _size_text(answer: SizeAnswer, *, working: bool) -> str:
    fuse = f"{answer.fuse_a:g} A {answer.fuse_label}" if answer.fuse_a is not None else "no fuse is made"
    carries = f"{answer.ampacity_a:.1f} A" if answer.ampacity_a is not None else "no figure"
    pinned = f" (pinned; computed {answer.computed_size})" if answer.pinned else ""
    lines = [
        f"{answer.size} · {fuse} · {100 * answer.conductor_drop_frac:.1f} %{pinned}",
        f"  copper          {answer.area_mm2:.2f} mm²",
        f"  ampacity        {carries}",
        f"  design current  {answer.design_current_a:.2f} A",
        f"  length          {answer.length_m:.2f} m one way, {answer.loop_length_m:.2f} m there and back",
        f"  drop            {answer.conductor_drop_v:.3f} V in the conductors, "
        f"{100 * answer.conductor_drop_frac:.2f} % of at most {100 * answer.limit_frac:g} %",
        f"                  {answer.drop_v:.3f} V, {100 * answer.drop_frac:.2f} % with fuse and joints",
        f"  conductor       {answer.conductor_c:.0f} °C",
        f"  practice        {answer.practice_label}",
    ]
    for one in answer.findings:
        lines += [f"{one.severity} {one.code}", f"  {one.what}", f"  {one.why}", f"  {one.mend}"]
    if working:
        lines += ["working", *_working_lines(answer.working)]
    return "\n".join([*lines, answer.caution])


def _size(options: argparse.Namespace) -> int:
    reading = "loop" if options.loop else "one_way"
    length_m, _ = parse_length_m(options.loop or options.length, field="length", preference="metric")
    known = load_sets().get(options.practice)
    pinned = None
    if options.pin:
        system, size = parse_size(options.pin, default_system=known.values.size_system if known else "awg", field="pin")
        pinned = {"system": system, "size": size}
    wanted: dict[str, Any] = {
        "amps": options.amps,
        "watts": options.watts,
        "behaviour": options.behaviour.replace("-", "_") if options.behaviour else None,
        "rated_v": options.volts,
        "length_m": length_m,
        "length_reading": reading,
        "length_confirmed": options.yes_long,
        "nominal_v": options.nominal,
        "insulation_c": options.insulation,
        "ambient_c": options.ambient if options.ambient is not None else (50.0 if options.zone == "engine" else 30.0),
        "engine_space": options.zone == "engine",
        "bundle_count": options.bundle,
        "limit_pct": options.limit,
        "family": options.family,
        "margin_frac": options.margin / 100 if options.margin is not None else None,
        "practice_set": options.practice,
        "pinned_size": pinned,
    }
    answer = size_run(SizeRequest.model_validate(wanted))
    if options.json:
        say(TypeAdapter(SizeAnswer).dump_json(answer, indent=2).decode())
    else:
        say(_size_text(answer, working=options.working))
    return STOP_STATUS if any(one.severity == "stop" for one in answer.findings) else 0


def _export(options: argparse.Namespace) -> int:
    from lucernis.exports.files import FILES, make_file

    stored = _find(_store(options.data), options.plan)
    plan = parse_plan(stored.document)
    # A person knows the tag on the wire, not the id in the document.
    by_tag = {one.tag: one.id for one in (*plan.parts, *plan.runs)}
    body = make_file(
        options.what,
        plan,
        revision=stored.revision,
        date=stored.made_at[:10],
        paper=options.paper,
        state=options.state,
        subject=by_tag.get(options.subject, options.subject),
    )
    target = Path(options.out) if options.out else Path(FILES[options.what].file_name(plan))
    target.write_bytes(body)
    say(f"{target}: {len(body)} bytes")
    return 0


def _import(options: argparse.Namespace) -> int:
    plan = _read_plan(options.plan)
    stored = _store(options.data).create(plan_document(plan), f"{plan.job.name} imported")
    say(f"{plan.job.name}: {stored.plan_id}")
    return 0


def _backup(options: argparse.Namespace) -> int:
    from lucernis.store.backups import Backups

    database = Database(options.data)
    if options.salvage:
        return _salvage(options.data)
    if options.list:
        found = Backups(database).list_backups()
        for one in found:
            state = f"{one.plans} plans" if not one.problem else f"not sound: {one.problem}"
            say(f"{Backups(database).folder / one.name}  {one.size_bytes} bytes, {one.why}, {state}")
        say("" if found else f"no backups in {Backups(database).folder}")
        return 0
    if options.restore:
        kept = database.restore_from(Path(options.restore))
        database.close()
        say(f"{options.data} is back from {options.restore}" + (f"; what was there is {kept}" if kept else ""))
        return 0
    if not options.data.is_file():
        raise LucernisError(
            f"there is no data file at {options.data}", field="data", allowed="a file plans are kept in: --data"
        )
    database.open()
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    target = Path(options.out) if options.out else options.data.with_name(f"lucernis-{stamp}.sqlite3")
    database.backup_to(target)
    database.close()
    say(f"{target}: {target.stat().st_size} bytes, opened and checked")
    return 0


def _salvage(path: Path) -> int:
    from lucernis.store.salvage import salvage

    if not path.is_file():
        raise LucernisError(f"there is no data file at {path}", field="data", allowed="a damaged data file: --data")
    folder = path.with_name(path.name + ".saved")
    found = salvage(path, folder)
    for one in found:
        say(f"{one.path}" + ("" if one.sound else "  (it may not be whole: look through it)"))
    if not found:
        say(f"nothing in {path} can be read any more")
        return STOP_STATUS
    say(f"{len(found)} plans saved. Move {path} away, start anew, and take them in: lucernis import FILE")
    return 0


def _meter(options: argparse.Namespace) -> int:
    from lucernis.core.prove.vehicle import Vehicle
    from lucernis.meters.monitor import MonitorServer
    from lucernis.meters.simulated import MeterServer

    if Path(options.plan).is_file() or options.plan == "-":
        plan = _read_plan(options.plan)
    else:
        plan = parse_plan(_find(_store(options.data), options.plan).document)
    vehicle = Vehicle(plan, tuple(options.fault), seed=options.seed, noise=not options.no_noise)
    with MeterServer(vehicle, options.port) as meter, MonitorServer(vehicle, options.state, options.monitor) as monitor:
        threading.Thread(target=monitor.serve_forever, daemon=True).start()
        say(f"{plan.job.name}: simulated meter at 127.0.0.1:{meter.server_address[1]} (SCPI over TCP)")
        say(f"battery monitor at 127.0.0.1:{monitor.server_address[1]} (lines of JSON), state {options.state}")
        for one in vehicle.faults:
            say(f"with {one.text}")
        with contextlib.suppress(KeyboardInterrupt):
            meter.serve_forever()
    return 0


def _passcode_source(text: str) -> str:
    if text in ("prompt", "env") or (text.startswith("file:") and len(text) > len("file:")):
        return text
    # A passcode on the command line would stand in the list of processes for everybody to read.
    raise argparse.ArgumentTypeError("prompt, env or file:PATH, never the passcode itself")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="lucernis", description="Plans the 12 V system of a vehicle.", epilog=CAUTION)
    parser.add_argument("--version", action="version", version=f"lucernis {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)

    def command(name: str, text: str, do: Callable[[argparse.Namespace], int]) -> argparse.ArgumentParser:
        one = commands.add_parser(name, help=text, description=text)
        one.set_defaults(do=do)
        return one

    def data(one: argparse.ArgumentParser) -> None:
        one.add_argument("--data", type=Path, default=default_data(), help="the file plans are kept in")

    serve = command("serve", "serve the application on this machine", _serve)
    serve.add_argument("--port", type=int, default=8765)
    serve.add_argument("--share", action="store_true", help="let devices of the network in that know the pairing code")
    serve.add_argument(
        "--bind",
        metavar="ADDRESS",
        default="",
        help="share by this one address of the machine only, beside the machine itself; by all otherwise",
    )
    serve.add_argument("--tls", action="store_true", help="share by HTTPS with a certificate of its own")
    serve.add_argument(
        "--passcode",
        metavar="prompt|env|file:PATH",
        type=_passcode_source,
        help="where the pairing code comes from (the variable is LUCERNIS_PASSCODE); one is made up otherwise",
    )
    serve.set_defaults(demo=False)
    demo = command("demo", "serve with the demo jobs on the shelf", _demo)
    demo.add_argument("--port", type=int, default=8765)
    report = command("report", "report of a plan file; exit status 1 when there is a stop", _report)
    report.add_argument("plan", help="a plan as JSON, or - for standard input")
    report.add_argument("--json", action="store_true")
    size = command("size", "size one run; exit status 1 when there is a stop", _size)
    draw = size.add_mutually_exclusive_group(required=True)
    draw.add_argument("--amps", type=float)
    draw.add_argument("--watts", type=float)
    way = size.add_mutually_exclusive_group(required=True)
    way.add_argument("--length", help="one way, like 3m or 10ft")
    way.add_argument("--loop", help="there and back, like 6m or 20ft")
    size.add_argument("--yes-long", action="store_true", help="a length over 100 m is meant as it stands")
    size.add_argument("--behaviour", choices=["constant-power", "constant-current", "resistive"])
    size.add_argument("--volts", type=float, help="volts the watts or amps are stated at")
    size.add_argument("--nominal", type=int, choices=[6, 12, 24], default=12)
    size.add_argument("--insulation", type=int, help="insulation temperature rating, °C")
    size.add_argument("--zone", choices=["cabin", "engine"], default="cabin")
    size.add_argument("--ambient", type=float, help="°C around the wire; 30, or 50 in an engine space")
    size.add_argument("--bundle", type=int, default=2, help="current-carrying conductors together")
    size.add_argument("--limit", type=float, help="max drop in %%")
    size.add_argument("--family", help="fuse family")
    size.add_argument("--margin", type=float, help="wire carries this %% more than the load")
    size.add_argument("--practice", default="small_craft_us", help=", ".join(load_sets()))
    size.add_argument("--pin", help="insist on a size, like '10 AWG' or '2.5 mm2'")
    size.add_argument("--working", action="store_true", help="show how each figure came about")
    size.add_argument("--json", action="store_true")
    export = command("export", "write a file of a stored plan", _export)
    export.add_argument("plan", help="id or name")
    export.add_argument("what", help="run-sheet.pdf, drawings.pdf, map.svg, runs.csv; a wrong name lists all")
    export.add_argument("--out")
    export.add_argument("--paper", choices=["a4", "a3", "letter"], default="a4")
    export.add_argument("--state", help="operating state of a netlist or a picture, by its id")
    export.add_argument("--subject", help="run of a fuse window or load of a pinch chart, by tag or id")
    bring = command("import", "take a plan file in", _import)
    bring.add_argument("plan", help="a plan as JSON, or - for standard input")
    backup = command("backup", "copy all plans while the server runs, or bring a copy back", _backup)
    backup.add_argument("--out")
    backup.add_argument("--restore", help="a backup to put in place; a copy of the present file is kept beside it")
    backup.add_argument("--list", action="store_true", help="show the backups the program made by itself")
    backup.add_argument("--salvage", action="store_true", help="save what can be read of a damaged file, plan by plan")
    meter = command("meter", "a simulated meter and battery monitor in a vehicle that has faults", _meter)
    meter.add_argument("--plan", required=True, help="id or name of a stored plan, or a plan as JSON")
    meter.add_argument("--fault", action="append", default=[], help="such as 'C07 joint 40 mohm'; may come again")
    meter.add_argument("--port", type=int, default=5025)
    meter.add_argument("--monitor", type=int, default=5026, help="port of the battery monitor")
    meter.add_argument("--state", default="rest", help="state the battery monitor shows")
    meter.add_argument("--seed", type=int, default=1, help="which of all vehicles that are built so")
    meter.add_argument("--no-noise", action="store_true", help="a meter without error")
    for one in (serve, demo, export, bring, backup, meter):
        data(one)
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command.

    Parameters
    ----------
    arguments : sequence of str, optional
        Those of the process by default.

    Returns
    -------
    int
        0, 1 when there is a stop, 2 on bad input.
    """
    options = _parser().parse_args(arguments)
    try:
        status: int = options.do(options)
    except LucernisError as error:
        allowed = f"\n  allowed: {error.allowed}" if error.allowed else ""
        sys.stderr.write(f"lucernis: {error}{allowed}\n")
        for problem in getattr(error, "problems", [])[:20]:
            sys.stderr.write(f"  {problem.pointer}: {problem.detail}\n")
        return BAD_INPUT_STATUS
    except ValidationError as error:
        for one in error.errors():
            field = ".".join(str(step) for step in one["loc"])
            sys.stderr.write(f"lucernis: {field}: {one['msg'].removeprefix('Value error, ')}\n")
        return BAD_INPUT_STATUS
    except (OSError, UnicodeDecodeError) as error:
        sys.stderr.write(f"lucernis: {error}\n")
        return BAD_INPUT_STATUS
    return status


if __name__ == "__main__":
    sys.exit(main())
