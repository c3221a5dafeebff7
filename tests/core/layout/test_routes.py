"""Ways along channels: shortest against networkx on random graphs, lengths by their parts, what lies together."""

from __future__ import annotations

from itertools import pairwise, permutations
from typing import Any

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.channels import Measured, drawn_m
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.core.layout.routes import Roads
from lucernis.core.sizing.sized import sized_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.layout import Channel, Place, Way
from tests.core.checks.test_layout_findings import laid
from tests.helpers import part, run

Doc = dict[str, Any]


def roads_of(size: int, edges: list[tuple[int, int, float]]) -> tuple[Roads, nx.MultiGraph]:
    graph = nx.MultiGraph()
    graph.add_nodes_from(f"p{one}" for one in range(size))
    measured = {}
    for at, (a, b, length_m) in enumerate(edges):
        channel = Channel(id=f"c{at}", name=f"c{at}", start=f"p{a}", finish=f"p{b}", length_m=length_m)
        measured[channel.id] = Measured(channel, length_m, guessed=False)
        graph.add_edge(channel.start, channel.finish, key=channel.id, weight=length_m)
    return Roads(list(graph), measured), graph


@pytest.mark.parametrize("seed", range(12))
def test_shortest_ways_are_those_of_networkx_for_all_pairs(seed: int) -> None:
    """Reference: networkx, all pairs by Dijkstra, on random multigraphs with islands and parallel channels."""
    rng = np.random.default_rng(seed)
    size = int(rng.integers(4, 14))
    edges = [
        (int(a), int(b), round(float(length_m), 3))
        for a, b, length_m in zip(
            rng.integers(0, size, 2 * size), rng.integers(0, size, 2 * size), rng.uniform(0.1, 5, 2 * size), strict=True
        )
        if a != b
    ]
    roads, graph = roads_of(size, edges)
    reference = dict(nx.all_pairs_dijkstra_path_length(graph))
    by_id = {f"c{at}": edge for at, edge in enumerate(edges)}
    for start in graph:
        for finish in graph:
            found = roads.shortest(start, finish)
            if finish not in reference[start]:
                assert found is None
                continue
            assert found is not None
            assert roads.metres(found) == pytest.approx(reference[start][finish], abs=1e-9)
            here = start
            for name in found:
                a, b, _ = by_id[name]
                assert here in (f"p{a}", f"p{b}")
                here = f"p{b}" if here == f"p{a}" else f"p{a}"
            assert here == finish


@pytest.mark.parametrize("seed", range(8))
def test_ways_bent_by_a_person_are_the_shortest_of_all_that_do_as_told(seed: int) -> None:
    """Reference: networkx, every simple order of walking the named channels from either end."""
    rng = np.random.default_rng(100 + seed)
    size = 7
    drawn = zip(rng.integers(0, size, 14), rng.integers(0, size, 14), rng.uniform(0.2, 4, 14), strict=True)
    edges = [(int(a), int(b), round(float(m), 2)) for a, b, m in drawn if a != b]
    roads, graph = roads_of(size, edges)
    names = [f"c{at}" for at in range(len(edges))]
    use = [str(one) for one in rng.choice(names, 2, replace=False)]
    rest = [one for one in names if one not in use]
    avoid = str(rng.choice(rest))
    cut = graph.copy()
    a, b, _ = edges[names.index(avoid)]
    cut.remove_edge(f"p{a}", f"p{b}", key=avoid)
    far = dict(nx.all_pairs_dijkstra_path_length(cut))
    ends = {name: (f"p{edges[names.index(name)][0]}", f"p{edges[names.index(name)][1]}") for name in use}
    for start, finish in permutations(sorted(graph), 2):
        best = None
        for first in (ends[use[0]], ends[use[0]][::-1]):
            for second in (ends[use[1]], ends[use[1]][::-1]):
                legs = [(start, first[0]), (first[1], second[0]), (second[1], finish)]
                if all(there in far[here] for here, there in legs):
                    total = sum(far[here][there] for here, there in legs)
                    total += sum(edges[names.index(name)][2] for name in use)
                    best = total if best is None else min(best, total)
        found = roads.along(start, finish, Way(use=tuple(use), avoid=(avoid,)))
        assert (found is None) is (best is None)
        if found is not None and best is not None:
            assert roads.metres(found) == pytest.approx(best)
            assert avoid not in found
            steps = iter(found)
            assert all(one in steps for one in use)


def test_of_two_ways_equally_long_the_one_through_fewer_channels_is_taken() -> None:
    roads, _ = roads_of(3, [(0, 1, 1.0), (1, 2, 1.0), (0, 2, 2.0)])
    assert roads.shortest("p0", "p2") == ("c2",)


def test_length_is_channels_tails_and_slack_to_the_next_centimetre() -> None:
    """Common practice, no source: 0.2 m at an end, 0.3 m at a battery, a twentieth of slack."""
    doc = laid()
    run(doc, "r1")["way"] = {}
    part(doc, "s1")["place"] = "p2"
    runs = {one.id: one for one in laid_out(parse_plan(doc)).runs}
    # (1.00 + 2.00 + 0.2 + 0.2) · 1.05 = 3.57
    assert runs["r3"].length_m == pytest.approx(3.57)
    # (1.00 + 0.3 + 0.2) · 1.05 = 1.575, cut to 1.58
    assert runs["r1"].length_m == pytest.approx(1.58)
    # (2.00 + 0.4) · 1.05 = 2.52
    assert runs["r4"].length_m == pytest.approx(2.52)


def test_rules_of_tails_and_slack_decide() -> None:
    doc = laid()
    run(doc, "r1")["way"] = {}
    lengths = []
    for rule, value in ((None, 0.0), ("tail_m", 0.5), ("tail_battery_m", 0.8), ("slack_frac", 0.2)):
        doc["practice"]["overrides"] = [{"rule": rule, "value": value}] if rule else []
        runs = {one.id: one.length_m for one in laid_out(parse_plan(doc)).runs}
        lengths.append((runs["r1"], runs["r3"]))
    # Both ends of r1 at one place: (0.3 + 0.2) · 1.05; each rule changes what it names.
    assert lengths == [(0.53, 3.57), (0.84, 4.2), (1.05, 3.57), (0.6, 4.08)]


def test_a_pinned_length_stays_and_heat_and_neighbours_follow() -> None:
    doc = laid()
    run(doc, "r3")["way"] = {"length_pinned": True}
    plan = laid_out(parse_plan(doc))
    found = next(one for one in plan.runs if one.id == "r3")
    assert found.length_m == 4.0
    assert layout_of(plan).routes["r3"].channels == ("c1", "c2")
    assert found.bundle_count == 4


def test_laid_out_again_a_plan_is_the_very_same_even_when_it_was_forgotten() -> None:
    for name in JOBS:
        once = laid_out(demo_plan(name))
        assert laid_out(once) is once
        again = laid_out(parse_plan(plan_document(once)))
        assert again == once


@pytest.mark.parametrize("name", JOBS)
def test_a_plan_and_the_plan_laid_out_get_the_same_report(name: str) -> None:
    plan = demo_plan(name)
    typed = parse_plan(plan_document(laid_out(plan)))
    assert evaluate(plan, with_working=False) == evaluate(typed, with_working=False)
    assert sized_plan(plan).chosen == sized_plan(laid_out(plan)).chosen


def test_conductors_count_that_can_be_loaded_together() -> None:
    """Lamp and pump lie in the first channel: four; never on together: two. A bond carries nothing."""
    doc = laid()
    assert layout_of(parse_plan(doc)).counts == {"c1": 4, "c2": 4, "c3": 0}
    doc["states"] = [
        {"id": "light", "name": "Light", "off": ["l2"]},
        {"id": "pump", "name": "Pump", "off": ["l1", "l3"]},
    ]
    assert layout_of(parse_plan(doc)).counts["c1"] == 2
    doc["states"] = [{"id": "out", "name": "Fuse of the pump out", "open": ["r3"]}]
    assert layout_of(parse_plan(doc)).counts == {"c1": 2, "c2": 2, "c3": 0}
    doc["parts"] += [{"kind": "chassis_point", "id": "g1", "name": "Bond", "tag": "G01", "place": "p2"}]
    bond = {
        "id": "r9",
        "tag": "C09",
        "start": {"part": "b1"},
        "finish": {"part": "g1"},
        "legs": "negative",
        "length_m": 1,
    }
    doc["runs"].append(bond | {"way": {}})
    layout = layout_of(parse_plan(doc))
    assert [one.id for one in layout.lying["c1"]] == ["r2", "r3", "r9"]
    assert layout.counts["c1"] == 2


def test_wires_of_coils_are_no_neighbours_and_the_relay_s_contact_is_one() -> None:
    doc = laid()
    doc["parts"] += [
        {"kind": "relay", "id": "y1", "name": "Relay", "tag": "Y01", "place": "p2", "contact_a": 30.0},
        {"kind": "switch", "id": "s2", "name": "Switch", "tag": "S02", "place": "p1"},
    ]
    coil = {"part": "y1", "terminal": "coil"}
    doc["runs"] += [
        {
            "id": "r20",
            "tag": "C20",
            "start": {"part": "f1", "way": 5},
            "finish": {"part": "s2"},
            "length_m": 1,
            "way": {},
        },
        {"id": "r21", "tag": "C21", "start": {"part": "s2"}, "finish": coil, "length_m": 1, "way": {}},
    ]
    layout = layout_of(parse_plan(doc))
    assert [one.id for one in layout.lying["c1"]] == ["r2", "r3", "r21"]
    assert layout.counts["c1"] == 4
    run(doc, "r3")["finish"] = {"part": "y1"}
    doc["runs"].append(
        {"id": "r22", "tag": "C22", "start": {"part": "y1"}, "finish": {"part": "l2"}, "length_m": 1, "way": {}}
    )
    # The pump's current passes the relay on its way.
    assert layout_of(parse_plan(doc)).counts == {"c1": 4, "c2": 4, "c3": 0}


def test_parallel_conductors_and_single_legs_count_as_they_are() -> None:
    doc = laid()
    run(doc, "r3").update(parallel=3)
    assert layout_of(parse_plan(doc)).counts["c1"] == 8
    run(doc, "r3").update(parallel=1, legs="positive")
    assert layout_of(parse_plan(doc)).counts["c1"] == 3


def test_the_worst_stretch_decides_and_is_named() -> None:
    """A hot stretch with few neighbours against a cool one with many; the small-craft table's factors decide."""
    doc = laid()
    doc["channels"][1]["zone"] = "z2"
    plan = parse_plan(doc)
    worst = layout_of(plan).worst["r3"]
    assert (worst.name, worst.around.ambient_c, worst.around.engine_space) == ("Left rib", 50, True)
    report = next(one for one in evaluate(plan).runs if one.id == "r3")
    assert (report.ambient_c, report.engine_space, report.bundle_count) == (50, True, 4)
    assert report.way is not None
    assert report.way.worst == "Left rib"
    # Without the engine space the tail at a hot place is the worst, with its own two conductors alone.
    doc["channels"][1]["zone"] = "z1"
    doc["zones"].append({"id": "oven", "name": "Oven", "ambient_c": 70})
    doc["places"][2]["zone"] = "oven"
    assert layout_of(parse_plan(doc)).worst["r3"].name == "at Far end"
    assert layout_of(parse_plan(doc)).worst["r3"].around.bundle_count == 2


def test_a_stretch_that_is_too_warm_for_its_current_is_the_worst_even_with_fewer_neighbours() -> None:
    """Warm, not hot: 75 °C leave less room in 60 °C than the table's factor says; the rule off, neighbours decide."""
    doc = laid()
    doc["zones"].append({"id": "warm", "name": "Warm", "ambient_c": 60})
    doc["places"][2]["zone"] = "warm"
    doc["channels"][1]["zone"] = "z1"
    run(doc, "r2")["parallel"] = 2
    assert layout_of(parse_plan(doc)).worst["r3"].name == "at Far end"
    doc["practice"]["overrides"] = [{"rule": "warmest_c", "value": 0}]
    # Sill and rib are alike then, six and four conductors in one row of the table: the longer is named.
    assert layout_of(parse_plan(doc)).worst["r3"].name == "Left rib"


def test_drawn_lengths_go_along_walls_and_need_both_ends() -> None:
    here = Place(id="a", name="A", zone="z", x_m=0.5, y_m=0.2, z_m=0.4)
    there = Place(id="b", name="B", zone="z", x_m=2.0, y_m=1.0)
    assert drawn_m(here, there) == pytest.approx(1.5 + 0.8 + 0.4)
    assert drawn_m(here, Place(id="c", name="C", zone="z", x_m=1.0)) is None


@given(st.floats(0.1, 20), st.floats(0.1, 20))
def test_a_longer_channel_never_makes_its_runs_shorter(first_m: float, second_m: float) -> None:
    lengths = []
    for length_m in sorted((round(first_m, 3), round(second_m, 3))):
        doc = laid()
        doc["channels"][1]["length_m"] = length_m
        lengths.append([one.length_m for one in laid_out(parse_plan(doc)).runs])
    assert all(a <= b for pair in pairwise(lengths) for a, b in zip(*pair, strict=True))


def test_without_any_channel_runs_in_one_place_have_a_way_and_others_say_so() -> None:
    doc = laid()
    doc["channels"] = []
    part(doc, "l3")["place"] = "p2"
    routes = layout_of(parse_plan(doc)).routes
    assert (routes["r4"].missing, routes["r4"].length_m) == ("", pytest.approx(0.42))
    assert routes["r3"].missing == "no channel joins Bench and Far end"
    doc["places"] = []
    for one in doc["parts"]:
        one["place"] = None
    assert all("at no place yet" in route.missing for route in layout_of(parse_plan(doc)).routes.values())


@pytest.mark.parametrize("table", ["e11", "iso_small_craft", "inverter_guide"])
def test_every_table_tells_the_worst_stretch_by_its_factors(table: str) -> None:
    doc = laid()
    doc["practice"]["overrides"] = [{"rule": "ampacity_table", "value": table}]
    doc["channels"][0]["zone"] = "z2"
    layout = layout_of(parse_plan(doc))
    assert all(piece.share > 0 for pieces in layout.pieces.values() for piece in pieces)
    # The longer stretch is cooler: the factors decide, not the metres.
    assert layout.worst["r3"].name == "Left sill"


@pytest.mark.parametrize(("lengths_m", "free_m", "count"), [
    ((0.3, 0.3), 0.6, 2), ((0.3, 0.31), 0.6, 4), ((0.1, 0.6), 0.6, 4), ((0.3, 0.3), 0.0, 4)])  # fmt: skip
def test_a_short_bundle_does_not_count(lengths_m: tuple[float, float], free_m: float, count: int) -> None:
    """NFPA 70 310.15(C)(1), from memory: conductors together for no more than 600 mm in one go are not reduced.

    The pump's run has the lamp's beside it in the first channel and the far lamp's in the second.
    """
    doc = laid()
    run(doc, "r2")["way"] = {}
    for channel, length_m in zip(doc["channels"], lengths_m, strict=False):
        channel["length_m"] = length_m
    doc["practice"]["overrides"] = [{"rule": "bundle_free_m", "value": free_m}]
    layout = layout_of(parse_plan(doc))
    assert [len(layout.lying[name]) for name in ("c1", "c2")] == [2, 2]
    assert {run.id: run.bundle_count for run in layout.plan.runs}["r3"] == count


def test_what_hangs_behind_a_switch_is_no_neighbour_while_it_is_open() -> None:
    """The pump's wire goes over a switch in the locker: off, what leaves the switch carries nothing."""
    doc = laid()
    doc["parts"].append({"kind": "switch", "id": "s2", "name": "Pump switch", "tag": "S02", "place": "p1"})
    run(doc, "r3")["finish"] = {"part": "s2"}
    doc["runs"].append(
        {"id": "r21", "tag": "C21", "start": {"part": "s2"}, "finish": {"part": "l2"}, "length_m": 1, "way": {}}
    )
    doc["states"] = [{"id": "on", "name": "On"}]
    assert layout_of(parse_plan(doc)).counts["c1"] == 4
    doc["states"] = [{"id": "off", "name": "Pump switched off", "open": ["s2"]}]
    assert layout_of(parse_plan(doc)).counts["c1"] == 2


@pytest.mark.parametrize("hot", ["p1", "p2"])
def test_a_channel_without_a_zone_is_as_hot_as_the_hotter_of_its_places(hot: str) -> None:
    doc = laid()
    doc["zones"] = [{"id": "z1", "name": "Inside"}, {"id": "z2", "name": "Engine", "ambient_c": 50.0}]
    for place in doc["places"]:
        place["zone"] = "z2" if place["id"] == hot else "z1"
    for channel in doc["channels"]:
        channel["zone"] = None
    plan = parse_plan(doc)
    layout, report = layout_of(plan), evaluate(plan, with_working=False)
    for channel in plan.channels:
        wanted = 50.0 if hot in (channel.start, channel.finish) else 30.0
        pieces = [one for run_pieces in layout.pieces.values() for one in run_pieces if one.channel == channel.id]
        assert {one.around.ambient_c for one in pieces} <= {wanted}
        assert next(one for one in report.channels if one.id == channel.id).ambient_c == wanted
    assert layout.worst["r3"].around.ambient_c == 50.0
