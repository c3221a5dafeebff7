"""One name for one quantity: the tables' columns and the glossary's keys are the same."""

from __future__ import annotations

import csv
import io

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.demo import demo_plan
from lucernis.exports import tables_csv
from lucernis.exports.reasons import HEADS as REASONS
from lucernis.exports.run_sheet import HEADS as RUN_SHEET
from lucernis.practice.labels import LABELS, QUANTITIES

PLAN = demo_plan("plover")
REPORT = evaluate(PLAN)


@pytest.mark.parametrize(
    "table", [tables_csv.runs_csv(REPORT), tables_csv.loads_csv(PLAN, REPORT), tables_csv.faults_csv(REPORT)]
)
def test_every_column_of_a_table_has_a_label(table: bytes) -> None:
    heads = next(csv.reader(io.StringIO(table.decode("utf-8-sig"))))
    assert [name for name in heads if name not in QUANTITIES] == []


def test_papers_take_their_heads_from_the_same_labels() -> None:
    labels = set(QUANTITIES.values())
    assert set(REASONS) <= labels
    assert {name.removesuffix(" / loop") for name in RUN_SHEET} - labels == {"Done"}


def test_labels_say_it_as_the_trade_does() -> None:
    for words in LABELS.values():
        for text in words.values():
            assert text.strip() == text != ""
            assert not set(text.lower().split()) & {"greatest", "least", "lasting"}
