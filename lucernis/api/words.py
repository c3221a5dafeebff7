"""Terms and codes over HTTP."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter

from lucernis.core.pictures.drawing import Drawing
from lucernis.core.school.words import Word, word, word_picture, words

router = APIRouter(prefix="/api/words", tags=["words"])


@dataclass(slots=True)
class WordShown:
    """A term or code with its picture."""

    word: Word
    picture: Drawing | None


@router.get("", operation_id="listWords")
def list_words() -> list[Word]:
    """Every term of the trade the program uses, and every code of its checks."""
    return list(words())


@router.get("/{name}", operation_id="getWord")
def get_word(name: str) -> WordShown:
    """One of them."""
    found = word(name)
    return WordShown(found, word_picture(found.name))
