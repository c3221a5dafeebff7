"""What a meter should say: bands hold the truth, slopes are slopes, floating points float, values by other means."""

from __future__ import annotations

import numpy as np
import pytest

from lucernis.core.prove.expect import foresee, noise_sd
from lucernis.core.prove.frame import Frame, Reading, frame
from lucernis.core.prove.living import live
from lucernis.demo import demo_plan
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from tests.core.prove.shop import built, ready, sound
from tests.helpers import small_document


def readings(made: Frame) -> list[Reading]:
    """Volts at every part, across every piece, amps in every leg."""
    found = []
    for part in made.plan.parts:
        if part.id in made.sized.wiring.pos and part.kind in ("battery", "busbar", "fuse_block", "load", "charger"):
            found.append(made.volts(f"+{part.id}", f"-{part.id}", part=part.id))
    for leg in made.on_leg.values():
        first = made.elements[leg[0]]
        if first.run:
            letter = "p" if first.leg == "positive" else "n"
            found.append(made.amps(first.run, "p" if letter == "p" else "n"))
            for k in range(len(leg)):
                found.append(made.volts(f"{first.run}:{letter}:{k}", f"{first.run}:{letter}:{k + 1}"))
    return found


@pytest.mark.parametrize(
    ("name", "situation", "draws"),
    [
        ("heron", "state:all_on", 400),
        ("heron", "engine", 200),
        ("tern", "state:all_on", 700),
        ("plover", "state:evening", 700),
    ],
)
def test_bands_hold_the_truth_in_95_of_100(name: str, situation: str, draws: int) -> None:
    """2,000 vehicles in all, each drawn by the spreads of reading_spread.csv and solved whole (loads by their kind, not
    to first order), read by a meter with its own error."""
    made, living = ready(name), sound(name, situation)
    some = readings(made)
    foreseen = foresee(living, some)
    noise = noise_sd(some, foreseen.value)
    rng = np.random.default_rng(20261127)
    held = np.zeros(len(some))
    for _ in range(draws):
        one = built(made, rng, living)
        there = live(
            made, made.situations[situation], element_ohm=one.ohm, source_v=one.source_v, inside_factor=one.inside,
            draw_factor=one.draw,
        )  # fmt: skip
        read = foresee(there, some).value + noise * rng.standard_normal(len(some))
        held += (read >= foreseen.low) & (read <= foreseen.high)
    share = held / draws
    assert 0.93 <= share.mean() <= 0.985
    # No reading by itself is far off, as far as so many draws can tell.
    assert share.min() >= 0.85
    # And they say something: at a device within a twentieth of the volts.
    loads = [k for k, one in enumerate(some) if one.part and made.sized.topology.parts[one.part].kind == "load"]
    wide = (foreseen.high - foreseen.low)[loads] / made.plan.nominal_v
    assert np.median(wide) < 0.1


@pytest.mark.parametrize(("name", "situation"), [("heron", "load:l7"), ("tern", "state:all_on"), ("plover", "load:l3")])
def test_slopes_are_what_a_small_change_makes(name: str, situation: str) -> None:
    made, living = ready(name), sound(name, situation)
    some = readings(made)
    foreseen = foresee(living, some)
    # What moves most, so that settled directions and turned-down chargers stay as they are.
    most = np.argsort(-np.abs(foreseen.slope[:, : len(made.ohm)]).sum(axis=0))[:6]
    for at in most.tolist():
        ohm = made.ohm.copy()
        ohm[at] *= np.exp(1e-3 * made.spread_ln[at])
        moved = (foresee(live(made, made.situations[situation], element_ohm=ohm), some).value - foreseen.value) / 1e-3
        assert moved == pytest.approx(foreseen.slope[:, at], rel=0.05, abs=2e-4 + 0.02 * float(np.abs(moved).max()))


def test_a_measured_battery_narrows_every_volt_behind_it() -> None:
    plan = demo_plan("tern")
    wide, narrow = frame(plan), frame(plan, measured_v={"b1": 12.31})
    bands = []
    for made in (wide, narrow):
        one = foresee(live(made, made.situations["rest"]), [made.volts("+u1", "-u1", part="u1")])
        bands.append((float(one.low[0]), float(one.high[0])))
    assert bands[0][1] - bands[0][0] > 3 * (bands[1][1] - bands[1][0])
    assert bands[1][0] < 12.31 < bands[1][1]


@pytest.mark.parametrize(("charge", "volts"), [(0.5, 12.25), (0.75, 12.55), (1.0, 12.85), (0.625, 12.40)])
def test_state_of_charge_sets_the_rest_by_chemistry(charge: float, volts: float) -> None:
    """Resting volts of AGM by battery_chemistry.csv (practice), between its rows on a line."""
    doc = small_document()
    next(one for one in doc["parts"] if one["kind"] == "battery")["chemistry"] = "agm"
    made = frame(parse_plan(doc), charge_frac={"b1": charge})
    assert float(made.rest_v[0]) == pytest.approx(volts)


def test_engine_off_each_post_at_its_own_rest_engine_on_both_within_the_drop_of_the_link() -> None:
    """Common practice, no source: if only one rises, the link does nothing."""
    made = ready("tern")
    posts = [made.volts(f"+{one}", f"-{one}", part=one) for one in ("b0", "b1")]
    off, on = (foresee(sound("tern", one), posts).value for one in ("rest", "engine"))
    assert off == pytest.approx([12.55, 12.55], abs=0.02)
    assert (on > 13.6).all()
    across = foresee(sound("tern", "engine"), [made.volts("+i1", "+i1:out")])
    assert 0 < float(across.value[0]) < 0.1
    assert 0 < on[0] - on[1] < 0.5


def test_a_point_nothing_holds_floats_and_one_a_lamp_ties_down_is_dead() -> None:
    made = ready("heron")
    point = made.volts("+f5", "-f5", part="f5")
    floats = foresee(sound("heron", "rest"), [point])
    assert floats.floating[0]
    assert floats.low[0] < 0 < floats.value[0] < floats.high[0]
    alive = foresee(sound("heron", "key"), [point])
    assert not alive.floating[0]
    assert alive.value[0] > 13


def test_every_volt_lost_on_the_way_adds_up() -> None:
    """Battery to device and back: the pieces' volts sum to what the device sees less than the posts."""
    made, living = ready("heron"), sound("heron", "load:l7")
    topology = made.sized.topology
    index = {run.id: k for k, run in enumerate(made.plan.runs)}
    way = [run_id for run_id in topology.order if "l7" in topology.behind[run_id]]
    ends = foresee(living, [made.volts("+b1", "-b1"), made.volts("+l7", "-l7")]).value
    some = []
    for run_id in [*way, "r24", "r25"]:
        for letter in ("p", "n"):
            leg = made.on_leg.get(2 * index[run_id] + (letter == "n"), ())
            if leg:
                some.append(made.volts(f"{run_id}:{letter}:0", f"{run_id}:{letter}:{len(leg)}"))
    lost = np.abs(foresee(living, some).value).sum()
    contacts = np.abs(foresee(living, [made.volts("+s1", "+s1:out"), made.volts("-h1", "-h1:out")]).value).sum()
    assert lost + contacts == pytest.approx(ends[0] - ends[1], rel=1e-3)


def test_ohms_of_a_return_are_those_of_its_pieces() -> None:
    made = ready("tern")
    found = foresee(sound("tern", "dead"), [made.ohms("-l1", "-b1"), made.ohms("+u1", "-u1")])
    back = sum(
        made.elements[piece].ohm
        for run_id in ("r2", "r1", "r10", "r9")
        for piece in made.on_leg[2 * next(k for k, run in enumerate(made.plan.runs) if run.id == run_id) + 1]
    )
    assert float(found.value[0]) == pytest.approx(back, rel=0.02)
    assert float(found.value[1]) > 1e6


@pytest.mark.parametrize(
    "bad", ["volts:+zz~-zz", "amps:zz:p", "amps:r24:p", "watts:+b1~-b1", "volts:r1:p:99~r1:p:0", "ohms:+b1"]
)
def test_a_spot_that_is_not_there_is_named(bad: str) -> None:
    with pytest.raises(UnknownRow) as caught:
        ready("heron").reading(bad)
    assert caught.value.allowed


def test_an_empty_plan_has_nothing_to_read() -> None:
    doc = small_document()
    doc["parts"], doc["runs"] = [], []
    made = frame(parse_plan(doc))
    assert made.elements == ()
    assert foresee(live(made, made.situations["rest"]), []).value.shape == (0,)
