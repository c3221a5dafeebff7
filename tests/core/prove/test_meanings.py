"""A reading out of its band is never answered with what it would mean inside, and says what to do next."""

from __future__ import annotations

import pytest

from lucernis.core.prove.judge import judge_line
from lucernis.core.prove.proving import proving
from lucernis.core.prove.proving_line import Line
from lucernis.demo import JOBS, demo_plan


def lines(name: str) -> list[Line]:
    return list(proving(demo_plan(name)).lines)


def typed(line: Line, value: float) -> str:
    return f"{value:.6f} {line.unit}"


@pytest.mark.parametrize("name", JOBS)
def test_no_line_answers_a_bad_reading_with_its_good_meaning(name: str) -> None:
    for line in lines(name):
        span = (line.high if line.high is not None else 2 * line.low) - line.low
        away = [line.low - 0.02 * span - 0.01, line.low - 3 * span - 0.2]
        away += [line.high + 0.02 * span + 0.01, line.high + 3 * span + 0.2] if line.high is not None else []
        for value in away:
            if line.unit in ("Ω", "K") and value < 0:
                continue
            if line.unit == "A" and line.low <= -value <= (line.high or 0):
                continue
            found = judge_line(line, typed(line, value))
            assert found.verdict != "in", (line.label, value, found.text)
            assert line.means.good not in found.text
            if found.verdict == "out":
                told = {line.means.low, line.means.high, line.means.turned}
                assert any(one in found.text for one in told), (line.label, found.text)
        inside = judge_line(line, typed(line, line.value))
        assert inside.verdict in ("in", "unit"), (line.label, inside.text)


@pytest.mark.parametrize(
    ("line", "said", "told"),
    [
        ("ohms:-g1~-u1@dead", "1.7", "Resistance in the bond"),
        ("ohms:-g1~-u1@dead", "OL", "The bond is open"),
        ("ohms:+u1~-u1@dead", "0.3", "Joined: something bridges"),
        ("ohms:+u1~-g1@dead", "4", "Joined to the body"),
        ("volts:+u1~-u1@isolated", "13.2", "Not dead."),
        ("volts:+b1~-b1@rest", "-13.2", "The wrong way round"),
        ("volts:+b1~-b1@rest", "11.1", "Below its rest"),
        ("volts:+b1~-b1@rest", "14.3", "Above its rest"),
        ("volts:+l7~-l7@load:l7", "9.1", "Too little while it runs"),
        ("held:u1@isolated_shore", "0", "or dead now"),
        ("standing:b1@rest", "0.8 A", "Something draws with everything off"),
        ("standing:b1@rest", "90 mA", "as expected"),
    ],
)
def test_what_a_bad_reading_means(line: str, said: str, told: str) -> None:
    found = next(one for one in lines("heron") if one.id == line)
    assert told in judge_line(found, said).text


def test_a_point_left_out_is_asked_for() -> None:
    bank = next(one for one in lines("heron") if one.id == "volts:+b1~-b1@rest")
    found = judge_line(bank, "1331")
    assert (found.verdict, found.meant) == ("unit", "13.31 V")
    assert judge_line(bank, "banana").verdict == "unread"
    assert judge_line(bank, "13.31").verdict == "in"
    assert judge_line(bank, "9900").verdict == "unread"


def test_a_temperature_is_no_rise_until_the_air_is_said() -> None:
    warm = next(one for one in lines("heron") if one.quantity == "warmth")
    asked = judge_line(warm, "45 °C")
    assert asked.verdict == "unread"
    assert "How warm is the air" in asked.text
    assert judge_line(warm, "45 °C at 20 °C").value == pytest.approx(25)
    assert judge_line(warm, "45 at 38").value == pytest.approx(7)
    assert judge_line(warm, "7").value == pytest.approx(7)
