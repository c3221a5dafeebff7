"""Causes and what they do: the quick reckoning against a whole solve, symptoms, odds that learn, pairs, bad input."""

from __future__ import annotations

import numpy as np
import pytest

from lucernis.core.prove.cause import Change
from lucernis.core.prove.causes import causes_of
from lucernis.core.prove.effect import effect
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.living import live
from lucernis.core.prove.next_reading import minutes, next_readings
from lucernis.core.prove.planted import planted
from lucernis.core.prove.suspects import Taken, learned_weight, live_with, weigh
from lucernis.core.prove.symptoms import Symptom, SymptomKind, check_symptom
from lucernis.core.prove.vehicle import Vehicle
from lucernis.core.prove.verdicts import explains, suspects, two_at_once
from lucernis.demo import demo_plan
from lucernis.errors import NotUnderstood, UnknownRow
from tests.core.prove.shop import every_cause, ready, sound


@pytest.mark.parametrize(
    ("name", "load", "causes"),
    [
        ("heron", "l7", ["joint:r11:p:start", "fuse_contact:r11:p:fuse-start", "wire_chafed:r11:n:wire",
                         "wire_thin:r11:p:wire",
                         "contact_bad:s1:main:0", "battery_weak:b1", "load_heavy:l7", "joint:r3:n:finish"]),
        ("tern", "l6", ["joint:r7:p:start", "joint:r1:n:start", "wire_thin:r7:p:wire", "battery_weak:b1",
                        "load_heavy:l6"]),
        ("plover", "l3", ["joint:r4:p:start", "wire_chafed:r4:n:wire", "battery_weak:b1", "load_heavy:l3"]),
    ],
)  # fmt: skip
def test_the_quick_reckoning_of_a_cause_is_that_of_a_whole_solve(name: str, load: str, causes: list[str]) -> None:
    """Woodbury with one load taken as electronics, against the whole solve: within 1 % of the volts for what is not yet
    collapsing."""
    made, living = ready(name), sound(name, f"load:{load}")
    some = [made.volts(f"+{load}", f"-{load}", part=load), made.volts("+b1", "-b1", part="b1")]
    for cause in causes:
        for change in every_cause(name)[cause].changes:
            if change.open or change.series_ohm > 0.4 or change.draw > 1.6:
                continue
            quick = effect(living, some, [change]).value[0]
            whole = foresee(live_with(made, f"load:{load}", change), some).value
            # At twice the current the wire itself is warmer too.
            near = 0.025 if cause.startswith("load_heavy") else 0.012
            assert quick == pytest.approx(whole, abs=near * made.plan.nominal_v), (cause, change.in_words)


@pytest.mark.parametrize("cause", ["joint_off:r11:p:start", "fuse_blown:r11:p:fuse-start", "wire_open:r11:n:wire"])
def test_what_is_open_takes_all_the_volts_across_it_and_leaves_none(cause: str) -> None:
    """Common practice, no source: across a blown fuse, with the device on, a meter shows the battery."""
    made, living = ready("heron"), sound("heron", "load:l7")
    (change,) = every_cause("heron")[cause].changes
    piece = made.elements[change.element]
    letter = "p" if piece.leg == "positive" else "n"
    leg = made.on_leg[piece.conductor]
    k = leg.index(change.element)
    ends = (k, k + 1) if letter == "p" else (k + 1, k)
    some = [made.volts("+l7", "-l7", part="l7"), made.volts(f"r11:{letter}:{ends[0]}", f"r11:{letter}:{ends[1]}")]
    value = effect(living, some, [change]).value[0]
    assert abs(value[0]) < 0.05
    assert abs(value[1]) == pytest.approx(13.32, abs=0.1)


def test_a_short_blows_the_fuse_and_shows_in_ohms_behind_it() -> None:
    made = ready("heron")
    to_negative, to_body = every_cause("heron")["wire_short:r11"].changes
    volts = effect(sound("heron", "load:l7"), [made.volts("+l7", "-l7", part="l7")], [to_negative, to_body]).value
    ohms = effect(sound("heron", "dead"), [made.ohms("+l7", "-l7", part="l7")], [to_negative, to_body, Change()]).value[
        :, 0
    ]
    assert (abs(volts) < 0.05).all()
    assert ohms[0] < 0.1
    # By the body it goes home through the bond.
    assert ohms[1] < 0.2 < 1e6 < ohms[2]


def test_a_dead_charger_neither_gives_nor_draws() -> None:
    made, living = ready("heron"), sound("heron", "engine")
    (change,) = every_cause("heron")["charger_dead:q1:out"].changes
    some = [made.amps("r34"), made.volts("+b1", "-b1", part="b1"), made.volts("+q1", "-q1", part="q1")]
    dead, well = effect(living, some, [change, Change()]).value
    assert well[0] == pytest.approx(40, abs=0.5)
    assert dead[0] == pytest.approx(0, abs=0.5)
    assert dead[1] < well[1] - 0.1
    assert dead[2] > well[2] + 0.2


def test_crossed_wires_read_the_other_way_round() -> None:
    made = ready("heron")
    (change,) = every_cause("heron")["crossed:l8"].changes
    some = [made.volts("+l8", "-l8", part="l8"), made.volts("+f3", "-f3", part="f3")]
    crossed, well = effect(sound("heron", "rest"), some, [change, Change()]).value
    assert crossed[0] == pytest.approx(-well[0])
    assert crossed[1] == pytest.approx(well[1])


def test_a_welded_contact_keeps_alive_what_it_should_stop() -> None:
    made = ready("heron")
    (change,) = every_cause("heron")["contact_welded:s1:main:0"].changes
    value = effect(sound("heron", "isolated"), [made.volts("+u1", "-u1", part="u1")], [change, Change()]).value[:, 0]
    assert value[0] == pytest.approx(13.32, abs=0.05)
    assert value[1] < 2


@pytest.mark.parametrize("fault", ["c30 off start", "c30 broken +", "c30 off start -"])
def test_a_relay_whose_coil_has_no_volts_does_not_close(fault: str) -> None:
    """Coil and contact are one thing: what it feeds is dead, in the vehicle as in the quick reckoning. A camera stood
    at 13.25 V before, with 0.00 V at its coil."""
    made = ready("heron")
    change = planted(made, fault).change
    vehicle = Vehicle(made.plan, (fault,), noise=False)
    camera = next(part.id for part in made.plan.parts if part.name == "Reversing camera")
    block = next(part.id for part in made.plan.parts if part.name == "Keyed block")
    for name in ("key", "engine"):
        some = [made.volts(f"+{one}", f"-{one}", part=one) for one in (camera, block)]
        quick, well = effect(sound("heron", name), some, [change, Change()]).value
        assert all(abs(one) < 2 for one in quick)
        assert all(one > 12.5 for one in well)
        assert all(abs(vehicle.truth(one, name)[0]) < 2 for one in some)


def test_a_flat_starter_battery_shows_at_rest_and_is_held_up_while_the_engine_runs() -> None:
    """The alternator holds its post, so that the running engine says nothing of the battery."""
    for job in ("heron", "tern"):
        made = ready(job)
        starter = next(part for part in made.plan.parts if part.kind == "battery" and part.use == "starter")
        reading = made.volts(f"+{starter.id}", f"-{starter.id}", part=starter.id)
        change = planted(made, f"{starter.tag} flat").change
        rest, well = effect(sound(job, "rest"), [reading], [change, Change()]).value[:, 0]
        assert rest < well - 0.3
        running, held = effect(sound(job, "engine"), [reading], [change, Change()]).value[:, 0]
        assert running == pytest.approx(held)


@pytest.mark.parametrize(
    ("fault", "low_v", "high_v"), [("a01 alternator-dead", 11.8, 12.9), ("a01 alternator-low", 12.6, 14.0)]
)
def test_an_alternator_that_gives_little_or_nothing(fault: str, low_v: float, high_v: float) -> None:
    """With the engine running its battery stands at its own volts or a little above; at rest nothing is to be seen."""
    for job in ("heron", "tern"):
        made = ready(job)
        starter = next(part.id for part in made.plan.parts if part.kind == "battery" and part.use == "starter")
        reading = made.volts(f"+{starter}", f"-{starter}", part=starter)
        change = planted(made, fault).change
        running, well = effect(sound(job, "engine"), [reading], [change, Change()]).value[:, 0]
        assert low_v < running < high_v < well
        whole = foresee(live_with(made, "engine", change), [reading]).value[0]
        assert running == pytest.approx(whole, abs=0.1)
        rest = effect(sound(job, "rest"), [reading], [change, Change()]).value[:, 0]
        assert rest[0] == pytest.approx(rest[1])
        seen = [Taken(reading.id, "rest", float(rest[1])), Taken(reading.id, "engine", float(running))]
        assert suspects(weigh(made, seen))[0].kind in ("alternator_dead", "alternator_low")


def test_a_shunt_that_is_gone_past_reads_too_little() -> None:
    made, living = ready("heron"), sound("heron", "state:all_on")
    (change,) = every_cause("heron")["shunt_bypassed:h1:shunt"].changes
    reading = made.volts("-h1", "-h1:out", part="h1")
    past, well = effect(living, [reading], [change, Change()]).value[:, 0]
    assert abs(past) == pytest.approx(0.3 / 1.3 * abs(well), rel=0.02)


def test_one_of_two_conductors_side_by_side_that_is_off_doubles_the_wire() -> None:
    made, living = ready("tern"), sound("tern", "state:all_on")
    (change,) = every_cause("tern")["parallel_off:r1:p:wire"].changes
    assert change.times == 2
    leg = made.on_leg[made.elements[change.element].conductor]
    k = leg.index(change.element)
    reading = made.volts(f"r1:p:{k}", f"r1:p:{k + 1}")
    off, well = effect(living, [reading], [change, Change()]).value[:, 0]
    assert off == pytest.approx(2 * well, rel=0.02)


READ = [
    Taken("volts:+b1~-b1", "load:l7", 13.28), Taken("volts:+l7~-l7", "load:l7", 12.1),
    Taken("amps:r11:p", "load:l7", 6.6), Taken("volts:r11:p:0~r11:p:1", "load:l7", 0.55),
]  # fmt: skip


def test_the_joint_that_takes_half_a_volt_is_found_with_its_ohms_and_readings_beside() -> None:
    case = weigh(ready("heron"), READ)
    first = suspects(case)[0]
    assert (first.id, first.share > 0.99, explains(case)) == ("joint:r11:p:start", True, True)
    # 0.55 V at 6.6 A.
    assert float(first.size.removesuffix(" mΩ")) == pytest.approx(83, abs=4)
    assert [one.fits for one in first.beside] == [True] * 4
    drop = first.beside[3]
    assert (drop.taken_text, drop.unit) == ("0.55 V", "V")
    assert drop.expected == pytest.approx(0.55, abs=0.02)
    assert drop.sound < 0.01
    # A clamp is put on either way round.
    turned = weigh(ready("heron"), [*READ[:2], Taken("amps:r11:p", "load:l7", -6.6), READ[3]])
    assert suspects(turned)[0].share == pytest.approx(first.share)


def test_readings_of_a_sound_vehicle_accuse_nothing() -> None:
    made = ready("heron")
    some = ["volts:+b1~-b1", "volts:+l7~-l7", "amps:r11:p", "volts:r11:p:0~r11:p:1", "volts:r11:n:0~r11:n:3"]
    value = foresee(sound("heron", "load:l7"), [made.reading(one) for one in some]).value.tolist()
    case = weigh(made, [Taken(one, "load:l7", volts) for one, volts in zip(some, value, strict=True)])
    found = suspects(case)
    assert found[0].kind == "sound"
    assert explains(case)
    assert all(one.share < 0.1 for one in found[1:])


def test_two_faults_are_told_when_one_does_not_explain() -> None:
    made = ready("heron")
    ohm = made.ohm.copy()
    ids = [one.id for one in made.elements]
    ohm[ids.index("r11:p:start")] += 0.1
    ohm[ids.index("r3:n:start")] += 0.02
    some = [
        "volts:+b1~-b1",
        "volts:+l7~-l7",
        "volts:+f3~-f3",
        "volts:r11:p:0~r11:p:1",
        "volts:r3:n:0~r3:n:1",
        "amps:r11:p",
    ]
    there = live(made, made.situations["load:l7"], element_ohm=ohm)
    value = foresee(there, [made.reading(one) for one in some]).value.tolist()
    case = weigh(made, [Taken(one, "load:l7", volts) for one, volts in zip(some, value, strict=True)])
    assert not explains(case)
    best = two_at_once(case)[0]
    assert {best.first.id, best.second.id} == {"joint:r11:p:start", "joint:r3:n:start"}
    assert best.share > 0.9


@pytest.mark.parametrize(
    ("kind", "subject", "kinds"),
    [
        ("weak", "l7", {"load_heavy", "battery_flat", "battery_weak", "wire_thin", "joint", "fuse_contact"}),
        ("dead", "l7", {"fuse_blown", "joint_off", "load_dead", "wire_short", "contact_open"}),
        ("glows", "l8", {"load_stuck", "backfeed", "contact_welded"}),
        ("blows", "r11", {"wire_short", "load_heavy", "fuse_small"}),
        ("flat", "b1", {"load_stuck", "battery_flat", "charger_dead", "charger_weak", "battery_weak", "battery_cell",
                        "battery_off", "wire_leak", "contact_welded", "fuse_blown"}),
        ("warm", "f3", {"joint", "fuse_contact", "load_heavy"}),
    ],
)  # fmt: skip
def test_what_is_said_points_to_the_kinds_a_tradesman_thinks_of(
    kind: SymptomKind, subject: str, kinds: set[str]
) -> None:
    """Common practice, no source."""
    found = suspects(weigh(ready("heron"), [], [Symptom(kind, subject)]), 6)
    assert found[0].kind in kinds
    assert len([one for one in found if one.kind in kinds]) >= 3


def test_a_fuse_that_blows_is_told_by_what_is_behind_it() -> None:
    """A short of its own run, of the device on it; not of its neighbours'."""
    found = suspects(weigh(ready("heron"), [], [Symptom("blows", "r11")]), 8)
    own = [one for one in found if one.kind in ("wire_short", "load_heavy", "fuse_small")]
    assert {one.run or one.part for one in own} <= {"r11", "l7"}
    assert own


@pytest.mark.parametrize(
    ("kind", "subject"), [("weak", "b1"), ("blows", "l7"), ("flat", "l7"), ("dead", "zz"), ("warm", "zz")]
)  # fmt: skip
def test_a_symptom_of_something_it_cannot_be_of_is_refused_by_name(kind: SymptomKind, subject: str) -> None:
    with pytest.raises(UnknownRow) as caught:
        check_symptom(ready("heron"), Symptom(kind, subject))
    assert caught.value.field == "subject"


def test_odds_learn_what_the_workshop_finds_and_say_so() -> None:
    assert learned_weight("joint", 3.0, {}) == 3.0
    often = learned_weight("joint_off", 2.0, {"joint_off": 10})
    rarely = learned_weight("joint", 3.0, {"joint_off": 10})
    assert often > 2.0
    assert rarely < 3.0
    plain = suspects(weigh(ready("heron"), [], [Symptom("dead", "l7")]), 12)
    learned = suspects(weigh(ready("heron"), [], [Symptom("dead", "l7")], finds={"joint_off": 10}), 12)
    share = {True: sum(one.share for one in learned if one.kind == "joint_off"),
             False: sum(one.share for one in plain if one.kind == "joint_off")}  # fmt: skip
    assert share[True] > 1.5 * share[False]
    assert "10 of this workshop's 10 finds" in next(one.prior for one in learned if one.kind == "joint_off")


def test_the_next_reading_costs_what_it_takes_and_is_never_one_that_was_taken() -> None:
    made = ready("heron")
    case = weigh(made, READ[:2])
    found = next_readings(case, 5)
    assert found
    assert all((one.reading, one.situation) not in {(t.reading, t.situation) for t in READ[:2]} for one in found)
    assert all(one.bits > 0 and one.minutes >= 1 for one in found)
    rates = [one.bits / (one.minutes + 0.5) for one in found]
    assert rates == sorted(rates, reverse=True)
    at_hand, dead = made.volts("+l7", "-l7", part="l7"), made.ohms("+l7", "-l7", part="l7")
    same, other = minutes(made, at_hand, "load:l7", "load:l7"), minutes(made, at_hand, "load:l6", "load:l7")
    assert same < other < minutes(made, dead, "dead", "load:l7")
    assert minutes(made, at_hand, "load:l7", "rest") < minutes(made, at_hand, "engine", "rest")
    # Once it is found no reading tells more.
    assert next_readings(weigh(made, READ)) == []


@pytest.mark.parametrize(
    ("text", "cause"),
    [
        ("C11 joint 40 mohm", "joint:r11:p:start"), ("C11 joint - finish 1.5 ohm", "joint:r11:n:finish"),
        ("C11 blown", "fuse_blown:r11:p:fuse-start"), ("C03 fuse 20 mΩ", "fuse_contact:r3:p:fuse-start"),
        ("C11 broken negative", "wire_open:r11:n:wire"), ("C11 short", "wire_short:r11"),
        ("L07 draws 2 times", "load_heavy:l7"),
        ("L08 stuck 0.4 A", "load_stuck:l8"), ("L08 crossed", "crossed:l8"), ("B01 flat", "battery_flat:b1"),
        ("Q01 gives-nothing", "charger_dead:q1:out"), ("S01 welded", "contact_welded:s1:main:0"),
        ("C11 thin 3 times", "wire_thin:r11:p:wire"), ("C11 leak 200 ohm", "wire_leak:r11"),
        ("G01 joint 0.5 ohm", "earth:g1:body"),
    ],
)  # fmt: skip
def test_a_fault_in_words_is_read(text: str, cause: str) -> None:
    found = planted(ready("heron"), text)
    assert found.cause.id == cause
    if "40 mohm" in text:
        assert found.change.series_ohm == pytest.approx(0.04)


@pytest.mark.parametrize(
    "text",
    ["", "C11", "C11 sings", "C99 joint", "C11 joint 40 lemons", "C11 joint 0 ohm", "L07 blown", "L08 stuck 3 ohm"],
)
def test_a_fault_that_is_none_is_refused_with_what_is_allowed(text: str) -> None:
    with pytest.raises(NotUnderstood) as caught:
        planted(ready("heron"), text)
    assert caught.value.field == "fault"
    assert "joint" in caught.value.allowed


def test_belief_is_a_share_and_ties_stay_ties() -> None:
    case = weigh(ready("heron"), READ[:2])
    assert case.belief.sum() == pytest.approx(1)
    assert (case.belief >= 0).all()
    shares = {one.id: share for one, share in zip(case.causes, case.by_cause().tolist(), strict=True)}
    # Both ends of one leg cannot be told apart by what is read outside of it.
    assert shares["joint:r11:p:start"] == pytest.approx(shares["joint:r11:p:finish"], rel=0.05)
    assert np.isfinite(case.left).all()


def test_swapped_wires_are_found_whichever_way_a_run_is_drawn() -> None:
    """The fuse stands in the block: its volts show the other device's amps, drawn from the block or towards it."""
    plan = demo_plan("heron")
    turned = [
        run.model_copy(update={"start": run.finish, "finish": run.start, "fuse_at_start": None,
                               "fuse_at_finish": run.fuse_at_start})
        if run.id == "r11" else run
        for run in plan.runs
    ]  # fmt: skip
    read = []
    for made in (frame(plan), frame(plan.model_copy(update={"runs": tuple(turned)}))):
        change = next(one.changes[0] for one in causes_of(made) if one.id in ("exchanged:r10:r11", "exchanged:r11:r10"))
        leg = made.on_leg[2 * next(k for k, run in enumerate(made.plan.runs) if run.id == "r11")]
        at = next(k for k, piece in enumerate(leg) if made.elements[piece].sort == "fuse")
        across = made.volts(f"r11:p:{at}", f"r11:p:{at + 1}")
        living = live(made, made.situations["load:l7"])
        read.append(tuple(abs(float(one)) for one in effect(living, [across], [Change(), change]).value[:, 0]))
    for well, swapped in read:
        assert well > 0.01 > 0.001 > swapped
    assert read[0] == pytest.approx(read[1], rel=0.02, abs=1e-6)
