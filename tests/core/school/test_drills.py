"""Drills: answers against formulas written out here, every question answerable, every mistake wrong."""

from __future__ import annotations

import math
import re

import pytest

from lucernis.core.school.drills.ask import by_every_school, drill
from lucernis.core.school.drills.drill import LEVELS, answer_text, judge_answer, number_in, skills
from lucernis.core.school.mistakes import good_van, van_names
from lucernis.errors import NotUnderstood, UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.practice.rules import load_sets
from tests.law.test_live import by_hand

SETS = sorted(load_sets())
SKILLS = [one.id for one in skills()]


def numbers(text: str) -> list[float]:
    return [float(one) for one in re.findall(r"\d+(?:\.\d+)?", text)]


@pytest.mark.parametrize("practice", SETS)
@pytest.mark.parametrize("level", LEVELS)
@pytest.mark.parametrize("skill", SKILLS)
def test_every_question_can_be_answered_and_its_mistakes_are_wrong(skill: str, level: int, practice: str) -> None:
    for seed in range(3):
        made = drill(skill, level, seed, practice)
        assert made.question
        assert made.working
        assert answer_text(made)
        assert judge_answer(made, list(made.right)).right
        offered = {name for name, _ in made.choices}
        assert set(made.right) <= offered or made.kind == "number"
        assert len(offered) == len(made.choices)
        for wrong in made.mistakes:
            if made.kind == "number" or (made.kind == "one" and wrong.answer in offered):
                judged = judge_answer(made, [wrong.answer])
                assert not judged.right, (made.question, wrong)
                assert judged.mistake


@pytest.mark.parametrize("skill", SKILLS)
def test_questions_are_many_and_the_same_seed_is_the_same(skill: str) -> None:
    made = [drill(skill, 3, seed, "metric_caravan") for seed in range(30)]
    assert len({(one.question, one.picture, tuple(sorted(one.choices))) for one in made}) >= 4
    assert drill(skill, 2, 9, "overland_bs").right == drill(skill, 2, 9, "overland_bs").right


@pytest.mark.parametrize("seed", range(25))
def test_drop_by_ohms_law(seed: int) -> None:
    """U = 2·L·R'·I with the resistance a metre as the question gives it."""
    made = drill("drop", 1, seed, "metric_caravan")
    amps, length_m, *_ = numbers(made.question)
    milliohm = float(re.search(r"\(([\d.]+) mΩ", made.question).group(1))  # type: ignore[union-attr]
    assert float(made.right[0]) == pytest.approx(2 * length_m * milliohm / 1000 * amps, rel=0.02)


@pytest.mark.parametrize("seed", range(25))
def test_inverter_by_power(seed: int) -> None:
    """I = P/(η·V)."""
    made = drill("inverter", 2, seed, "metric_caravan")
    percent, watts, volts = numbers(made.question)
    assert float(made.right[0]) == pytest.approx(watts / (percent / 100 * volts), rel=0.006)


@pytest.mark.parametrize("seed", range(25))
def test_bank_by_division(seed: int) -> None:
    """Ah a day times days by the share that is used."""
    made = drill("bank", 2, seed, "metric_caravan")
    a_day, days, percent = numbers(made.question)[:3]
    assert float(made.right[0]) == pytest.approx(a_day * days / (percent / 100), rel=0.006)


@pytest.mark.parametrize("seed", range(25))
def test_length_there_and_back_is_twice(seed: int) -> None:
    made = drill("read_length", 2, seed, "small_craft_us")
    way, slack = numbers(made.question)[:2]
    assert float(made.right[0]) == 2 * (way + 2 * slack)


@pytest.mark.parametrize("seed", range(25))
def test_units_by_their_definitions(seed: int) -> None:
    """1 ft = 0.3048 m exactly (international foot, 1959); P = U·I."""
    made = drill("units", 1, seed, "metric_caravan")
    first, *rest = numbers(made.question)
    wanted = first * 0.3048 if "ft in metres" in made.question else first / rest[0]
    assert float(made.right[0]) == pytest.approx(wanted, rel=0.006)


@pytest.mark.parametrize(
    ("one", "other", "thicker"),
    [
        ("4 AWG", "4/0 AWG", "4/0 AWG"),
        ("2 AWG", "2/0 AWG", "2/0 AWG"),
        ("10 AWG", "10 SAE", "10 AWG"),
        ("6 mm²", "6 mm auto", "6 mm²"),
    ],
)
def test_look_alikes_by_the_trade(one: str, other: str, thicker: str) -> None:
    """Common practice, no source: 4/0 is far thicker than 4, SAE and outer mm hold less than the number says."""
    for seed in range(120):
        made = drill("look_alike", 3, seed, "metric_caravan")
        labels = dict(made.choices)
        if {one, other} <= set(labels.values()):
            assert answer_text(made) == thicker
            return
    pytest.fail(f"{one} against {other} never came up")


@pytest.mark.parametrize("seed", range(20))
def test_picked_fuse_stands_between_load_and_wire(seed: int) -> None:
    made = drill("pick_fuse", 2, seed, "metric_caravan")
    amps, carries = numbers(made.question)[:2]
    fuse = float(made.right[0])
    assert amps < fuse <= carries


@pytest.mark.parametrize("seed", range(20))
def test_picked_wire_keeps_the_drop_and_the_next_thinner_does_not(seed: int) -> None:
    made = drill("pick_wire", 1, seed, "metric_caravan")
    lost = [float(one) for line in made.working for one in re.findall(r"= ([\d.]+) % \(at most", line)]
    limit = float(re.search(r"At most ([\d.]+) %", made.question).group(1))  # type: ignore[union-attr]
    assert lost[0] <= limit
    ids = [name for name, _ in made.choices]
    at = ids.index(made.right[0])
    assert at == 0 or any("too thin" in line for line in made.working)


@pytest.mark.parametrize("practice", SETS)
def test_what_stops_on_low_volts_is_never_given_the_wide_drop(practice: str) -> None:
    """Common practice, no source: 3 % for a fridge or a radio, whatever others take."""
    for seed in range(40):
        question = drill("pick_wire", 1 + seed % 4, seed, practice).question
        if question.startswith(("A fridge", "A radio", "A router", "A laptop")):
            assert "At most 3 %" in question


def test_schools_are_told_where_they_disagree() -> None:
    seed = next(k for k in range(60) if "how far" in drill("where_fuse", 2, k, "metric_caravan").question)
    answers = {one.label: one.answer for one in by_every_school("where_fuse", 2, seed, "metric_caravan")}
    # 300 mm, 7 in, 18 in: fuse_distance of the four sets.
    assert answers["Metric caravan"] == "300 mm"
    assert answers["Small craft, US"] == "7 in"
    assert answers["Vehicle accessory"] == "18 in"


def test_schools_that_agree_are_not_told() -> None:
    assert by_every_school("look_alike", 1, 3, "metric_caravan") == []


def test_an_answer_is_read_with_comma_unit_and_sign() -> None:
    assert number_in("  12,5 V") == 12.5
    assert number_in("−3") == -3.0
    with pytest.raises(NotUnderstood, match="not a number"):
        number_in("some")


@pytest.mark.parametrize(("share", "right"), [(0.979, False), (0.981, True), (1.019, True), (1.021, False)])
def test_a_number_is_right_just_inside_two_per_cent(share: float, right: bool) -> None:
    made = next(
        one for one in (drill("inverter", 2, seed, "metric_caravan") for seed in range(40)) if float(one.right[0]) > 150
    )
    assert judge_answer(made, [str(float(made.right[0]) * share)]).right is right


def test_choices_not_offered_and_two_of_one_are_refused() -> None:
    made = drill("pick_wire", 1, 1, "metric_caravan")
    ids = [name for name, _ in made.choices]
    for given in (["gold"], ids[:2], []):
        with pytest.raises(NotUnderstood, match="not one of the answers"):
            judge_answer(made, given)


def test_live_follows_the_key() -> None:
    """A keyed camera is dead with the key off and live on the road; what nothing keys is live in both."""
    seen: set[tuple[str, bool]] = set()
    for seed in range(60):
        made = drill("live", 1, seed, "metric_caravan")
        if "Dipper" not in made.question:
            continue
        labels = dict(made.choices)
        camera = next((name for name, label in labels.items() if label == "Rear camera"), None)
        if camera is not None:
            seen.add(("key on" if "key on" in made.question else "key off", camera in made.right))
    assert seen == {("key on", True), ("key off", False)}


@pytest.mark.parametrize(
    ("skill", "level", "practice", "field"),
    [
        ("cooking", 1, "metric_caravan", "skill"),
        ("drop", 5, "metric_caravan", "level"),
        ("drop", 1, "none", "practice"),
    ],
)
def test_what_is_not_there_is_refused_by_field(skill: str, level: int, practice: str, field: str) -> None:
    with pytest.raises(UnknownRow) as refused:
        drill(skill, level, 1, practice)
    assert refused.value.field == field


def test_tolerance_never_lets_a_usual_mistake_pass_for_right() -> None:
    for seed in range(60):
        made = drill("drop", 3, seed, "metric_caravan")
        for wrong in made.mistakes:
            assert not math.isclose(float(wrong.answer), float(made.right[0]), rel_tol=made.close_frac)


def test_live_knows_what_chargers_hold_behind_an_open_switch() -> None:
    """Every question with the isolating switch off, chargers there or not, against a graph of another library."""
    asked = 0
    for seed in range(120):
        made = drill("live", 3, seed, "metric_caravan")
        van = next(
            name for name in van_names() if parse_plan(good_van(name).doc).job.name == made.question.split(",")[0]
        )
        plan = parse_plan(good_van(van).doc)
        state = next(one for one in plan.states if made.question.startswith(f"{plan.job.name}, {one.name},"))
        isolators = [part for part in plan.parts if part.kind == "switch" and part.use == "isolator"]
        off = bool(isolators) and f"{isolators[0].name.lower()} off" in made.question
        if off:
            state = state.model_copy(update={"open": (*state.open, *(one.id for one in isolators))})
        reached = by_hand(plan, state)
        assert set(made.right) == {one for one, _ in made.choices if one in reached}, made.question
        asked += off and any(one in reached for one, _ in made.choices)
    assert asked > 5


@pytest.mark.parametrize("practice", sorted(load_sets()))
def test_the_wire_that_is_right_has_room_for_a_fuse(practice: str) -> None:
    """21 A on a wire that carries 21 A leaves none: by each school's own share over the load there is a made rating the
    wire stands, half above it where that school allows it."""
    values = load_sets()[practice].values
    share = 1.25 if values.fuse_over_load == "125" else 1.0
    over = 1.5 if values.fuse_under_wire == "150_when_none_fits" else 1.0
    for seed in range(60):
        made = drill("pick_wire", 2 + seed % 2, seed, practice)
        amps = float(re.search(r": (\d+) A, ", made.question).group(1))  # type: ignore[union-attr]
        carries = float(re.search(r" may ([\d.]+) A", made.working[0]).group(1))  # type: ignore[union-attr]
        fuse = float(re.search(r"a fuse of ([\d.]+) A", made.working[0]).group(1))  # type: ignore[union-attr]
        if made.choices[-1][0] != made.right[0]:
            # The thickest of the shelf is the answer too where nothing of it does.
            assert amps * share - 1e-9 <= fuse <= carries * over * 1.005, made.question
