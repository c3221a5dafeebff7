"""Text on paper: every sign from a face that has it."""

from __future__ import annotations

import pytest

from lucernis.core.pictures.drawing import Stroke
from lucernis.exports.drawings_pdf import _path
from lucernis.exports.glyphs import face_of, markup, pieces_of, text_width


@pytest.mark.parametrize(
    ("sign", "face"), [("a", "Text"), ("−", "Text"), ("→", "Behind"), ("Ω", "Behind"), ("Ж", "Behind")]
)
def test_a_sign_comes_from_the_first_face_that_has_it(sign: str, face: str) -> None:
    assert face_of(sign, "Text") == face


def test_a_text_is_cut_where_the_face_changes_and_nothing_is_lost() -> None:
    found = pieces_of("to → Кухня, 2 Ω", "TextBold")
    assert "".join(text for _, text in found) == "to → Кухня, 2 Ω"
    assert {face for face, _ in found} == {"TextBold", "BehindBold"}
    assert text_width("→→", "Text", 10) == pytest.approx(2 * text_width("→", "Text", 10))


def test_what_no_face_has_is_a_question_mark() -> None:
    assert pieces_of("中", "Text") == [("Text", "?")]


def test_markup_is_escaped_and_names_the_other_face() -> None:
    assert markup("a < b → c", "Text") == 'a &lt; b <font name="Behind">→</font> c'


def test_a_filled_outline_is_closed_because_an_open_one_is_not_filled() -> None:
    corners = [(0.0, 0.0), (9.0, 0.0), (9.0, 9.0), (0.0, 0.0)]
    closed = _path(Stroke(corners, fill="sheet"), 20.0)
    assert closed.operators[-1] == 3, "the library's number for closing a path"
    assert _path(Stroke(corners), 20.0).operators[-1] != 3
