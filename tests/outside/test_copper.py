"""Reference tests: resistance of copper against published tables."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from lucernis.core.wire.copper import awg_area_mm2, resistance_ohm_per_m, stranded_resistance_20_ohm_per_m, wire_size
from lucernis.practice.tables import load_table
from tests.helpers import as_printed

DATA = Path(__file__).parent / "data"


def _rows(name: str) -> list[dict[str, str]]:
    lines = [line for line in (DATA / name).read_text(encoding="utf-8").splitlines() if not line.startswith("#")]
    return list(csv.DictReader(lines))


@pytest.mark.parametrize("row", _rows("check_awg_resistance.csv"), ids=lambda row: row["awg"])
def test_awg_resistance_75c_matches_published_table(row: dict[str, str]) -> None:
    """NFPA 70 chapter 9 table 8, DC resistance of stranded uncoated copper at 75 °C (memory), within 0.6 %."""
    size = wire_size("awg", row["awg"])
    ohm_per_kft = 304.8 * resistance_ohm_per_m(size.resistance_20_ohm_per_m, 75.0)
    assert ohm_per_kft == pytest.approx(float(row["ohm_per_kft_75c"]), rel=0.006)


@pytest.mark.parametrize(("number", "area"), [(18, "0.823"), (10, "5.26"), (4, "21.2"), (0, "53.5"), (-3, "107.2")])
def test_awg_area_matches_printed(number: int, area: str) -> None:
    """ASTM B258 cross-sections in mm² as usually printed (memory)."""
    assert as_printed(area) == awg_area_mm2(number)


@pytest.mark.parametrize("row", load_table("conductor_iec60228").rows, ids=lambda row: row["mm2"])
def test_metric_resistance_within_standards_allowance(row: dict[str, str]) -> None:
    """IEC 60228 class 5 maxima (memory) against rho/A.

    The standard's maximum for fine strands lies above solid rho/A of the nominal area, by up to a fifth where strands
    and lay count most, and never below it by more than 5 %: the nominal area is a name, not a measurement.
    """
    ideal = 0.017241 / float(row["mm2"])
    for column in ("plain_mohm_per_m", "tinned_mohm_per_m"):
        assert 0.95 <= float(row[column]) / 1000 / ideal <= 1.20


def test_tinned_is_never_better_than_plain() -> None:
    """IEC 60228 (memory): tinned strands have a little more resistance."""
    for row in load_table("conductor_iec60228").rows:
        assert float(row["tinned_mohm_per_m"]) > float(row["plain_mohm_per_m"])


@pytest.mark.parametrize("name", ["20", "18", "16", "14", "12", "10", "8"])
def test_sae_holds_less_copper_than_awg_of_same_number(name: str) -> None:
    """SAE J1128 (memory): every vehicle gauge is thinner than the AWG of its number."""
    assert wire_size("sae", name).area_mm2 < awg_area_mm2(int(name))


def test_lay_factor_is_two_percent() -> None:
    """Common practice, no source: stranding adds about 2 %."""
    assert stranded_resistance_20_ohm_per_m(1.0) / 0.017241 == pytest.approx(1.02)
