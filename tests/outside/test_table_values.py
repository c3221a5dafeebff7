"""Reference tests: cells of the shipped tables as they are commonly printed, written down a second time (memory)."""

from __future__ import annotations

import pytest

from lucernis.core.wire.ampacity import Surroundings, ambient_factor, ampacity
from lucernis.core.wire.copper import wire_size
from lucernis.practice.names import made_ratings_a
from tests.helpers import as_printed

CABIN = Surroundings(30.0, engine_space=False, bundle_count=2)
ENGINE = Surroundings(50.0, engine_space=True, bundle_count=2)


@pytest.mark.parametrize(
    ("size", "insulation_c", "amps"),
    [
        ("18", 105, 20), ("16", 105, 25), ("14", 105, 35), ("12", 105, 45), ("10", 105, 60), ("8", 105, 80),
        ("6", 105, 120), ("4", 105, 160), ("2", 105, 210), ("1", 105, 245), ("1/0", 105, 285), ("2/0", 105, 330),
        ("3/0", 105, 385), ("4/0", 105, 445), ("16", 60, 15), ("10", 75, 40), ("8", 90, 70), ("4/0", 200, 510),
    ],
)  # fmt: skip
def test_small_craft_awg_table(size: str, insulation_c: int, amps: float) -> None:
    """ABYC E-11, allowable amperage outside engine spaces (memory)."""
    assert ampacity("e11", wire_size("awg", size), insulation_c, CABIN).ampacity_a == amps


@pytest.mark.parametrize(("size", "amps"), [("16", 21.25), ("10", 51.0), ("1", 208.25)])
def test_small_craft_awg_in_engine_space(size: str, amps: float) -> None:
    """ABYC E-11, factor 0.85 at 105 °C (memory)."""
    assert ampacity("e11", wire_size("awg", size), 105, ENGINE).ampacity_a == pytest.approx(amps)


@pytest.mark.parametrize(
    ("size", "insulation_c", "amps"),
    [("1.5", 70, 18), ("2.5", 70, 25), ("4", 70, 35), ("6", 70, 45), ("10", 70, 65), ("16", 70, 90), ("25", 70, 120),
     ("35", 90, 185), ("50", 90, 230), ("70", 105, 330), ("120", 125, 480)],
)  # fmt: skip
def test_small_craft_metric_table(size: str, insulation_c: int, amps: float) -> None:
    """ISO 10133 / ISO 13297 Annex A (memory)."""
    assert ampacity("iso_small_craft", wire_size("mm2", size), insulation_c, CABIN).ampacity_a == amps


@pytest.mark.parametrize(
    ("ambient_c", "insulation_c", "factor"),
    [(40.0, 60.0, "0.82"), (50.0, 60.0, "0.58"), (40.0, 75.0, "0.88"), (50.0, 75.0, "0.75"), (50.0, 90.0, "0.82")],
)
def test_ambient_factor_matches_printed_corrections(ambient_c: float, insulation_c: float, factor: str) -> None:
    """NFPA 70 (2020) table 310.15(B)(1), correction factors for 30 °C tables (memory): computed by the same root."""
    assert as_printed(factor) == ambient_factor(ambient_c, insulation_c)


@pytest.mark.parametrize(
    ("family", "has", "has_not"),
    [
        ("blade_mini", (2, 7.5, 30), (1, 40)),
        ("blade_regular", (1, 7.5, 40), (6, 50)),
        ("blade_maxi", (20, 80, 100), (15, 120)),
        ("bolt_m5", (30, 100, 200), (20, 250)),
        ("bolt_m8", (40, 250, 500), (30, 600)),
        ("class_t", (110, 200, 400), (100, 500)),
    ],
)
def test_made_ratings(family: str, has: tuple[float, ...], has_not: tuple[float, ...]) -> None:
    """ISO 8820 and UL 248-15 rows as usually offered (memory)."""
    made = made_ratings_a(family)  # type: ignore[arg-type]
    assert set(has) <= set(made)
    assert not set(has_not) & set(made)


@pytest.mark.parametrize(
    ("awg", "mm2"), [("16", "1.5"), ("14", "2.5"), ("12", "4"), ("10", "6"), ("6", "16"), ("2", "35")]
)
def test_usual_pairs_of_awg_and_metric(awg: str, mm2: str) -> None:
    """Common practice, no source: the metric size sold in place of an AWG size holds no less than 0.9 of its copper."""
    assert 0.9 <= wire_size("mm2", mm2).area_mm2 / wire_size("awg", awg).area_mm2 <= 1.35
