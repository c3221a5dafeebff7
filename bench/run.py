"""Measures speed and prints ratios against a reference in the same run: `make bench`. Writes docs/bench.md."""

from __future__ import annotations

import gc
import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

import httpx
import numpy as np
from playwright.sync_api import sync_playwright
from pydantic import TypeAdapter

from bench.newton import plain_newton
from bench.plans import laid_plan, made_circuit, made_plan
from bench.shapes import bank_plan, chain_plan, ring_plan
from bench.waiting import waiting
from lucernis.core.bench.course import follow
from lucernis.core.bench.pairs import pairs
from lucernis.core.build.buying import buy_wires
from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.order import order_of_work
from lucernis.core.build.shopping import shopping
from lucernis.core.circuit.solver import Solver, solve_circuit
from lucernis.core.energy.forecast import forecast, year_ahead
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import study_faults
from lucernis.core.layout.edited import edited
from lucernis.core.layout.laid import laid_out
from lucernis.core.pictures.draw import draw
from lucernis.core.proposals.best_place import best_places
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.variants import compare_variants
from lucernis.core.proposals.wishes import Wishes
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.living import live
from lucernis.core.prove.next_reading import next_readings
from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.report import Report
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.core.school.mistakes import mistake_case
from lucernis.core.sizing.choice import size_plan
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.demo import JOBS, demo_plan, demo_prices, load_demo
from lucernis.exports.netlist import netlist
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits.operations import MeasureChannel
from lucernis.plan.model import Plan
from lucernis.plan.prices import Price
from lucernis.plan.rules import plan_rules
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from tests.core.proposals.test_propose import listed
from tests.outside.test_faults_software import fault_circuit, shorted
from tests.screen.conftest import FLAGS
from tests.serving import served

T = TypeVar("T")
DOC = Path(__file__).resolve().parents[1] / "docs" / "bench.md"


def best_s(work: Callable[[], object], times: int) -> float:
    """Shortest of several runs: the machine's other business only ever adds. [s]"""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def paired_s(works: Sequence[Callable[[], object]], times: int) -> list[float]:
    """Median of each of several works done in turn, so that the machine's moods meet them alike. [s]"""
    found: list[list[float]] = [[] for _ in works]
    for _ in range(times):
        for kept, work in zip(found, works, strict=True):
            start = time.perf_counter()
            work()
            kept.append(time.perf_counter() - start)
    return [statistics.median(one) for one in found]


def unseen(plan: Plan) -> Plan:
    """The plan as nobody has seen it: what is remembered of it is no measure."""
    return plan.model_copy()


_OPS = 60


def spice_analysis_s(text: str) -> float:
    """What ngspice itself says an analysis takes, without its start and the reading of the netlist. [s]"""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "circuit.cir"
        # Many times over, because its clock ticks in milliseconds.
        body = text.replace("\n.op\n", "\n").replace("\n.end\n", "\n")
        control = f".control\nrepeat {_OPS}\nop\nend\nrusage time\n.endc\n.end\n"
        file.write_text(body + control, encoding="utf-8")
        told = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, check=False).stdout
    found = re.search(r"Total analysis time \(seconds\) = ([0-9.]+)", told)
    return float(found[1]) / _OPS if found else float("nan")


def circuits() -> list[str]:
    """The solver against ngspice on the exported netlist and against a plain Newton."""
    lines = [
        "| runs | ours | plain Newton | ratio | ngspice, its analysis alone | ratio | ngspice, whole process | ratio "
        "| greatest difference |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for runs in (50, 500, 5000):
        circuit = made_circuit(runs)
        ours = solve_circuit(circuit)
        assert ours.converged
        assert ours.served.all()
        apart_v = float(np.abs(ours.node_v - plain_newton(circuit)).max())
        text = netlist(circuit, "bench")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "circuit.cir"
            file.write_text(text, encoding="utf-8")
            command = ["ngspice", "-b", str(file)]
            ours_s, newton_s, whole_s = paired_s(
                [
                    lambda circuit=circuit: solve_circuit(circuit),  # type: ignore[misc]
                    lambda circuit=circuit: plain_newton(circuit),  # type: ignore[misc]
                    lambda command=command: subprocess.run(command, capture_output=True, check=False),  # type: ignore[misc]
                ],
                9,
            )
        spice_s = statistics.median(spice_analysis_s(text) for _ in range(3))
        lines.append(
            f"| {runs} | {1e3 * ours_s:.1f} ms | {1e3 * newton_s:.1f} ms | {newton_s / ours_s:.1f} x | "
            f"{1e3 * spice_s:.2f} ms | {spice_s / ours_s:.1f} x | {1e3 * whole_s:.0f} ms | {whole_s / ours_s:.0f} x | "
            f"{1e6 * apart_v:.3f} µV |"
        )
    return lines


def edits() -> list[str]:
    """An edit of Heron over HTTP, from request to answered report, in turn with evaluating alone; reading it again."""
    patched: list[float] = []
    alone: list[float] = []
    read: list[float] = []
    with tempfile.TemporaryDirectory() as folder:
        database = Database(Path(folder) / "plans.sqlite3")
        database.open()
        store = PlanStore(database)
        load_demo(store)
        stored = store.list_plans()[0]
        plan = parse_plan(stored.document)
        index = next(k for k, part in enumerate(stored.document["parts"]) if part["id"] == "l6")
        with served(database) as base, httpx.Client(base_url=base) as client:
            for number in range(1, 101):
                # Never the same twice: an answer that is remembered would be no measure.
                patch = [{"op": "replace", "path": f"/parts/{index}/power_w", "value": 40.0 + number / 8}]
                start = time.perf_counter()
                answer = client.patch(f"/api/plans/{stored.plan_id}", json=patch, headers={"If-Match": f'"{number}"'})
                patched.append(time.perf_counter() - start)
                assert answer.status_code == 200
                start = time.perf_counter()
                evaluate(unseen(plan), with_working=False)
                alone.append(time.perf_counter() - start)
                start = time.perf_counter()
                assert client.get(f"/api/plans/{stored.plan_id}").status_code == 200
                read.append(time.perf_counter() - start)
    patched, alone, read = sorted(patched[10:]), sorted(alone[10:]), sorted(read[10:])
    rows = [("PATCH of Heron to its report", patched), ("evaluating alone", alone), ("GET of the plan after it", read)]
    lines = [
        "| edit of Heron, in turn | median | against evaluating | 95 % | against evaluating |",
        "|---|---|---|---|---|",
    ]
    whole, most = (statistics.median(alone), alone[int(0.95 * len(alone))])
    for name, times in rows:
        middle, high = statistics.median(times), times[int(0.95 * len(times))]
        lines.append(
            f"| {name} | {1e3 * middle:.1f} ms | {middle / whole:.2f} x | {1e3 * high:.1f} ms | {high / most:.2f} x |"
        )
    return lines


def shelf() -> list[str]:
    """The shelf of 500 jobs, known and after a change of the program, against one report."""
    heron = plan_document(demo_plan("plover_mended"))
    with tempfile.TemporaryDirectory() as folder:
        database = Database(Path(folder) / "plans.sqlite3")
        database.open()
        store = PlanStore(database)
        for number in range(500):
            store.create(heron | {"job": heron["job"] | {"name": f"Job {number}"}}, "begun")
        with served(database) as base, httpx.Client(base_url=base, timeout=600) as client:
            start = time.perf_counter()
            assert len(client.get("/api/plans").json()) == 500
            first_s = time.perf_counter() - start
            while any(card["behind"] for card in client.get("/api/plans").json()):
                time.sleep(0.5)
            all_s = time.perf_counter() - start
            plan = demo_plan("plover_mended")
            again_s, report_s = paired_s(
                [lambda: client.get("/api/plans"), lambda: evaluate(unseen(plan), with_working=False)], 5
            )
    return [
        "| shelf of 500 jobs | time | against one report |",
        "|---|---|---|",
        f"| known, as after any edit | {1e3 * again_s:.0f} ms | {again_s / report_s:.1f} x |",
        f"| after a new version of the program, shown with the figures of before | {first_s:.1f} s "
        f"| {first_s / report_s:.0f} x |",
        f"| and all of them made anew behind | {all_s:.1f} s | {all_s / report_s:.0f} x |",
    ]


def unlike() -> list[str]:
    """Reports of plans of unlike shapes against choosing their sizes alone."""
    lines = ["| report of | choosing sizes | whole report | ratio |", "|---|---|---|---|"]
    for name, plan in (
        ("500 runs, a bank of 8", bank_plan(500)),
        ("500 runs with one ring", ring_plan(500)),
        ("a chain of 1,000 loads", chain_plan(1000)),
        ("2,000 runs", made_plan(2000)),
    ):
        rules = plan_rules(plan)
        size_s, report_s = paired_s(
            [
                lambda plan=plan, rules=rules: size_plan(plan, rules),  # type: ignore[misc]
                lambda plan=plan: evaluate(unseen(plan), with_working=False),  # type: ignore[misc]
            ],
            3,
        )
        lines.append(f"| {name} | {size_s:.2f} s | {report_s:.2f} s | {report_s / size_s:.2f} x |")
    return lines


def command_line() -> list[str]:
    """One run sized on the command line, against starting Python with numpy alone."""
    size = [sys.executable, "-m", "lucernis.cli", "size", "--amps", "5", "--length", "3m"]
    bare = [sys.executable, "-c", "import numpy"]
    size_s, bare_s = paired_s(
        [lambda: subprocess.run(size, capture_output=True, check=False), lambda: subprocess.run(bare, check=True)], 7
    )
    return [
        "| command line | time | ratio |",
        "|---|---|---|",
        f"| `lucernis size` | {1e3 * size_s:.0f} ms | {size_s / bare_s:.1f} x |",
        f"| Python with numpy, nothing else | {1e3 * bare_s:.0f} ms | 1.0 x |",
    ]


def large() -> list[str]:
    """Report of a plan of 1,000 runs, against the part of it that chooses sizes."""
    plan = made_plan(1000)
    rules = plan_rules(plan)
    size_s = best_s(lambda: size_plan(plan, rules), 3)
    report_s = best_s(lambda: evaluate(unseen(plan)), 3)
    encode = TypeAdapter(Report)
    report = evaluate(plan)
    dump_s = best_s(lambda: encode.dump_json(report), 3)
    return [
        f"| plan of {len(plan.runs)} runs | time | against choosing sizes |",
        "|---|---|---|",
        f"| choosing sizes, solving | {1e3 * size_s:.0f} ms | 1.00 x |",
        f"| whole report | {1e3 * report_s:.0f} ms | {report_s / size_s:.2f} x |",
        f"| as JSON | {1e3 * dump_s:.0f} ms | {dump_s / size_s:.2f} x |",
    ]


def shorts() -> list[str]:
    """The fault study of a plan of 1,000 runs against solving each short anew, and against ngspice for a sample."""
    plan = made_plan(1000)
    sized = size_plan(plan, plan_rules(plan))
    study = study_faults(plan, sized)
    sites = len(study.of_point) + sum(len(one) for one in study.of_run.values())
    study_s = best_s(lambda: study_faults(plan, sized), 3)
    circuit, _ = fault_circuit(plan, sized)
    points = random.Random(1).sample([point for point in study.of_point if ":" not in point], 20)

    def anew(point: str) -> float:
        pos, neg = sized.wiring.pos[point], sized.wiring.neg_at(point)
        one, at = shorted(circuit, pos, neg)
        return float(abs(Solver(one).solve().conductor_a[at]))

    apart = max(abs(anew(point) / study.of_point[point].weakest_a - 1) for point in points)
    anew_s = best_s(lambda: [anew(point) for point in points], 2) / len(points)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "short.cir"
        one, _ = shorted(circuit, sized.wiring.pos[points[0]], sized.wiring.neg_at(points[0]))
        file.write_text(netlist(one, "bench"), encoding="utf-8")
        command = ["ngspice", "-b", str(file)]
        spice_s = best_s(lambda: subprocess.run(command, capture_output=True, check=False), 3)
    return [
        f"| {sites} shorts of a plan of {len(plan.runs)} runs, strongest and weakest | time | against the study |",
        "|---|---|---|",
        f"| study: two factorizations, openings, wire temperatures | {1e3 * study_s:.0f} ms | 1 x |",
        f"| solving each anew with the same solver, both currents ({1e3 * anew_s:.1f} ms each, from 20) "
        f"| {2 * anew_s * sites:.0f} s | {2 * anew_s * sites / study_s:.0f} x |",
        f"| ngspice for each, both currents ({1e3 * spice_s:.0f} ms each, whole process) "
        f"| {2 * spice_s * sites:.0f} s | {2 * spice_s * sites / study_s:.0f} x |",
        f"| greatest difference from solving anew | {1e6 * apart:.3f} ppm | |",
    ]


def demo_reports() -> list[str]:
    """Report of each demo job, against choosing its sizes."""
    lines = ["| report of | choosing sizes | whole report | ratio |", "|---|---|---|---|"]
    for name in JOBS:
        plan = demo_plan(name)
        rules = plan_rules(plan)
        size_s, report_s = paired_s(
            [
                lambda plan=plan, rules=rules: size_plan(plan, rules),  # type: ignore[misc]
                lambda plan=plan: evaluate(unseen(plan), with_working=False),  # type: ignore[misc]
            ],
            15,
        )
        lines.append(
            f"| {plan.job.name} | {1e3 * size_s:.0f} ms | {1e3 * report_s:.0f} ms | {report_s / size_s:.2f} x |"
        )
    return lines


PAINTED = """() => new Promise((done) => {
    const from = performance.now();
    const look = () => document.querySelectorAll('main svg[role=group] g[role=button]').length > 100
        ? requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - from)))
        : requestAnimationFrame(look);
    const tabs = [...document.querySelectorAll('[role=tablist][aria-label="Views of the circuit"] a')];
    tabs.find((tab) => tab.textContent === 'Map').click();
    look();
})"""


def browser_picture() -> list[str]:
    """The map of a plan of 150 runs in headless Chromium: from the click to the painted picture."""
    plan = made_plan(150)
    draw_s = best_s(lambda: draw(unseen(plan), "map"), 3)
    with tempfile.TemporaryDirectory() as folder:
        database = Database(Path(folder) / "plans.sqlite3")
        database.open()
        stored = PlanStore(database).create(plan_document(plan), "bench")
        with served(database) as base, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            first, again = [], []
            for _ in range(4):
                page.goto(f"{base}/plan/{stored.plan_id}/circuits/states")
                page.wait_for_load_state("networkidle")
                first.append(float(page.evaluate(PAINTED)))
                page.get_by_role("tab", name="States").click()
                page.wait_for_timeout(300)
                # The shapes are there now: what is left is React and the painting.
                again.append(float(page.evaluate(PAINTED)))
            browser.close()
    return [
        f"| map of a plan of {len(plan.runs)} runs | time | against the drawing alone |",
        "|---|---|---|",
        f"| drawing it on the server, report included | {1e3 * draw_s:.0f} ms | 1.00 x |",
        f"| click to painted picture, asked for anew | {min(first):.0f} ms | {min(first) / 1e3 / draw_s:.2f} x |",
        f"| click to painted picture, shapes at hand | {min(again):.0f} ms | {min(again) / 1e3 / draw_s:.2f} x |",
    ]


WATCHED = """() => {
    window.told = [];
    let from = 0;
    window.addEventListener('keydown', (event) => { if (event.key === 'Enter') from = performance.now(); }, true);
    const strip = document.querySelector('[aria-label="Meter strip"]');
    new MutationObserver(() => {
        if (!from) return;
        const started = from;
        from = 0;
        requestAnimationFrame(() => requestAnimationFrame(() => window.told.push(performance.now() - started)));
    }).observe(strip, { characterData: true, childList: true, subtree: true });
}"""


def browser_key() -> list[str]:
    """From the key that ends a figure typed into the loads of Heron to the painted figures, against evaluating."""
    plan = demo_plan("heron")
    with tempfile.TemporaryDirectory() as folder:
        database = Database(Path(folder) / "plans.sqlite3")
        database.open()
        stored = PlanStore(database).create(plan_document(plan), "bench")
        with served(database) as base, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{base}/plan/{stored.plan_id}/loads")
            page.wait_for_load_state("networkidle")
            page.evaluate(WATCHED)
            alone = []
            for number in range(45):
                field = page.get_by_label("Watts each, Water pump")
                field.fill(str(60 + 7 * (number % 9) + number))
                field.press("Enter")
                page.wait_for_function("count => window.told.length >= count", arg=number + 1)
                start = time.perf_counter()
                evaluate(unseen(plan), with_working=False)
                alone.append(time.perf_counter() - start)
            told = sorted(one / 1e3 for one in page.evaluate("window.told")[5:])
            browser.close()
    middle, high, own = statistics.median(told), told[int(0.95 * len(told))], statistics.median(alone)
    return [
        "| a key in Heron's loads to the painted figures | time | against evaluating |",
        "|---|---|---|",
        f"| median | {1e3 * middle:.0f} ms | {middle / own:.2f} x |",
        f"| 95 % | {1e3 * high:.0f} ms | {high / own:.2f} x |",
    ]


def days() -> list[str]:
    """Simulations of Heron against solving the whole circuit anew at every step."""
    plan = demo_plan("heron")
    sized = size_plan(plan, plan_rules(plan))
    wiring, index = sized.wiring, {run.id: at for at, run in enumerate(plan.runs)}
    ohm = wiring.resistances(leg_ohms(plan, sized.chosen))
    state = plan.states[0]
    on = np.array([one in sized.demand.on[state.id] for one in wiring.consumers], dtype=bool)

    def anew() -> None:
        solver = Solver(wiring.circuit, wiring.closed(sized.demand.switched[state.id], index))
        solver.solve(ohm, on)

    step_s = best_s(lambda: [anew() for _ in range(50)], 3) / 50
    fortnight_s = best_s(lambda: forecast(plan, sized, 14), 3)
    year_s = best_s(lambda: year_ahead(plan, sized), 2)
    steps, hours = 2 * 14 * 144, 2 * 8760
    return [
        "| simulation of Heron, a fair and a poor course | time | a step | solving anew at every step | ratio |",
        "|---|---|---|---|---|",
        f"| 14 days in steps of ten minutes | {1e3 * fortnight_s:.0f} ms | {1e6 * fortnight_s / steps:.0f} µs "
        f"| {steps * step_s:.1f} s | {steps * step_s / fortnight_s:.0f} x |",
        f"| a year by the hour | {1e3 * year_s:.0f} ms | {1e6 * year_s / hours:.0f} µs "
        f"| {hours * step_s:.1f} s | {hours * step_s / year_s:.0f} x |",
    ]


def proposals() -> list[str]:
    """A proposal for 20 loads, and four options of Heron, against one report of the outcome."""
    plan, heron = listed(), demo_plan("heron")
    outcome, _ = propose(plan, Wishes())
    report_s = best_s(lambda: evaluate(unseen(outcome), with_working=False), 3)
    propose_s = best_s(lambda: propose(unseen(plan), Wishes()), 3)
    own_s = best_s(lambda: evaluate(unseen(heron), with_working=False), 3)
    four = ["as_it_is", "volts_24", "lead", "two_cables"]
    options_s = best_s(lambda: compare_variants(unseen(heron), four, {}), 2)  # type: ignore[arg-type]
    return [
        "| judgement | time | against one report |",
        "|---|---|---|",
        f"| proposal for 20 loads | {1e3 * propose_s:.0f} ms | {propose_s / report_s:.1f} x |",
        f"| four options of Heron | {1e3 * options_s:.0f} ms | {options_s / own_s:.1f} x |",
    ]


OFF = {
    "warmest_c": 0, "drop_reserve_frac": 0, "feeder_share": 0, "growth_frac": 0, "size_worth_m": 0, "one_line": False,
    "taper": False, "roof_least_mm2": 0, "inverter_a_per_mm2": 0,
}  # fmt: skip


def choosing() -> list[str]:
    """Sizes with every rule of an installer on, against the bare minimum."""
    lines = [
        "| job | sizes with all rules | bare minimum | ratio | sizes in use | bare | copper | bare |",
        "|---|---|---|---|---|---|---|---|",
    ]
    for name in JOBS:
        plan = demo_plan(name)
        doc = plan_document(plan)
        doc["practice"]["overrides"] = [
            {"rule": rule, "value": value, "reason": "bench"} for rule, value in OFF.items()
        ]
        bare = parse_plan(doc)
        times = paired_s([lambda one=one: size_plan(one, plan_rules(one)) for one in (plan, bare)], 9)  # type: ignore[misc]
        full, least = (evaluate(one, with_working=False).summary for one in (plan, bare))
        lines.append(
            f"| {name} | {1000 * times[0]:.0f} ms | {1000 * times[1]:.0f} ms | {times[0] / times[1]:.2f} | "
            f"{len(full.sizes)} | {len(least.sizes)} | {full.copper_kg:.1f} kg | {least.copper_kg:.1f} kg |"
        )
    return ["## Choosing as an installer does", "", *lines]


def layout() -> list[str]:
    """A channel measured anew in a plan of 150 runs: the whole answer against the same plan with its lengths typed, and
    a block tried at 20 places against one report."""
    plan = laid_plan(150, 20)
    typed_doc = plan_document(laid_out(plan))
    for run in typed_doc["runs"]:
        run["way"] = None
    typed = parse_plan(typed_doc)
    turn = iter(range(10_000))

    def measured() -> None:
        text = f"{0.3 + 0.01 * (next(turn) % 50):.2f} m"
        evaluate(edited(plan, [MeasureChannel(op="measure_channel", channel="c0", text=text)]), with_working=False)

    edit_s, typed_s = paired_s([measured, lambda: evaluate(unseen(typed), with_working=False)], 9)
    began = time.perf_counter()
    found = best_places(plan, "f1")
    best_place_s = time.perf_counter() - began
    return [
        f"| {len(plan.runs)} runs along {len(plan.channels)} channels | time | against the same with typed lengths |",
        "|---|---|---|",
        f"| a channel measured: edit, ways, sizes, report | {1e3 * edit_s:.0f} ms | {edit_s / typed_s:.2f} x |",
        f"| report with typed lengths | {1e3 * typed_s:.0f} ms | 1.00 x |",
        f"| best place of a block, {found.tried} places | {best_place_s:.1f} s | {best_place_s / typed_s:.1f} x |",
    ]


def building() -> list[str]:
    """What a plan of 1,000 runs is built from, against its report; the purchase against its bound."""
    plan = made_plan(1000)
    report_s = best_s(lambda: evaluate(unseen(plan), with_working=False), 2)
    sized_plan(plan)
    prices = {one.key: one for one in demo_prices()}

    def timed(work: Callable[[], T]) -> tuple[float, T]:
        began = time.perf_counter()
        found = work()
        return time.perf_counter() - began, found

    cut_s, cut = timed(lambda: cut_list(plan))
    spools = {f"spool:{one.size}:{metres}": Price("", "", "", metres * (1.1 - metres / 500) * one.area_mm2 / 10)
              for one in cut.wires for metres in (10, 25, 50)}  # fmt: skip
    buy_s, wires = timed(lambda: buy_wires(cut, {**prices, **spools}, spare_frac=0.05))
    shop_s, lines = timed(lambda: shopping(plan, cut, prices))
    order_s, order = timed(lambda: order_of_work(plan))
    gap = max(one.gap_frac for one in wires)
    return [
        "| 1,000 runs, sized already | time | against one report |",
        "|---|---|---|",
        f"| cut list, {len(cut.pieces)} pieces | {1e3 * cut_s:.0f} ms | {cut_s / report_s:.2f} x |",
        f"| wire on spools of 10, 25 and 50 m, at most {100 * gap:.2f} % above its bound | {buy_s:.2f} s "
        f"| {buy_s / report_s:.2f} x |",
        f"| all else that is bought, {len(lines)} lines | {1e3 * shop_s:.0f} ms | {shop_s / report_s:.2f} x |",
        f"| order of work, {len(order.steps)} steps | {1e3 * order_s:.0f} ms | {order_s / report_s:.2f} x |",
        f"| one report | {report_s:.1f} s | 1.00 x |",
    ]


def proving_speed() -> list[str]:
    """Every reading of Heron in all its states with bands, and every single cause of a plan of 150 runs weighed by ten
    readings, against one report of the same plan."""
    heron, large = demo_plan("heron"), made_plan(150)

    def every_reading() -> int:
        made = frame(laid_out(unseen(heron)))
        some = [
            made.volts(f"+{part.id}", f"-{part.id}") for part in made.plan.parts if part.id in made.sized.wiring.pos
        ]
        for leg in made.on_leg.values():
            first = made.elements[leg[0]]
            letter = "p" if first.leg == "positive" else "n"
            if first.run:
                some += [
                    made.volts(f"{first.run}:{letter}:{k}", f"{first.run}:{letter}:{k + 1}") for k in range(len(leg))
                ]
        for situation in made.situations.values():
            foresee(live(made, situation), some)
        return len(some) * len(made.situations)

    count = every_reading()
    readings_s, report_s = paired_s([every_reading, lambda: evaluate(unseen(heron), with_working=False)], 5)
    made = frame(large)
    loads = [part.id for part in made.plan.parts if part.kind == "load"][:3]
    taken = [Taken("volts:+b1~-b1" if "b1" in made.sized.topology.parts else f"volts:+{loads[0]}~-{loads[0]}",
                   f"load:{loads[0]}", 13.0)]  # fmt: skip
    for load in loads:
        run = made.sized.topology.feeder_of[load]
        some = [made.volts(f"+{load}", f"-{load}"), made.amps(run), made.volts(f"{run}:p:0", f"{run}:p:1")]
        values = foresee(live(made, made.situations[f"load:{load}"]), some).value.tolist()
        taken += [Taken(one.id, f"load:{load}", volts) for one, volts in zip(some, values, strict=True)]
    case = weigh(made, taken)
    weigh_s, large_s = paired_s([lambda: weigh(made, taken), lambda: evaluate(unseen(large), with_working=False)], 5)
    next_s = best_s(lambda: next_readings(case), 3)
    return [
        "| proving | time | against one report |",
        "|---|---|---|",
        f"| Heron: {count} readings with bands in {len(frame(heron).situations)} states, sizes chosen anew "
        f"| {readings_s:.2f} s | {readings_s / report_s:.2f} x |",
        f"| 150 runs: {len(case.pairs)} causes in their sizes weighed by {len(taken)} readings "
        f"| {weigh_s:.2f} s | {weigh_s / large_s:.2f} x |",
        f"| and the readings that tell most next | {next_s:.2f} s | {next_s / large_s:.2f} x |",
    ]


def learning_speed() -> list[str]:
    """A course of the bench and cases of the school, against the report of a van they are made of."""
    pair = next(one for one in pairs() if one.id == "fuse")
    plan = parse_plan(good_van("dipper").doc)
    report_s = best_s(lambda: evaluate(unseen(plan), with_working=False), 5)
    course_s = best_s(lambda: [follow(one) for one in (pair.left, pair.right)], 5)
    for name in van_names():
        good_van(name)
    cases = 60
    begun = time.perf_counter()
    for seed in range(cases):
        mistake_case(seed, 1 + seed % 4)
    case_s = (time.perf_counter() - begun) / cases
    return [
        "| bench and school | time | against one report |",
        "|---|---|---|",
        f"| the courses of two set-ups, a minute of a dead short | {course_s:.2f} s | {course_s / report_s:.2f} x |",
        f"| a case to find mistakes in, of {cases} | {case_s:.3f} s | {case_s / report_s:.2f} x |",
        f"| 500 of them | {500 * case_s:.0f} s | {500 * case_s / report_s:.0f} x |",
    ]


def main() -> None:
    """Measure everything, print it, write it down."""
    # As the server does once it is up.
    gc.collect()
    gc.freeze()
    parts = [
        "# Speed",
        "",
        f"Written by `make bench` on a small virtual machine with {os.cpu_count()} cores and no graphics card.",
        "Times differ from machine to machine; the ratios, measured in one run, hold better.",
        "",
        "Circuit: a tree of two-leg runs with a constant-power load at every point. ngspice is timed twice: by the",
        "time it says its analysis took, and as a whole process, start and reading of the netlist included. What is",
        "compared in a row is done in turn, medians with medians.",
        "",
    ]
    for section in (
        circuits, edits, waiting, shelf, unlike, command_line, large, choosing, demo_reports, shorts, layout, building,
        proving_speed, learning_speed, days,
        proposals, browser_key, browser_picture,
    ):  # fmt: skip
        lines = section()
        print("\n".join(lines), flush=True)
        parts += [*lines, ""]
    DOC.write_text("\n".join(parts).rstrip() + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
