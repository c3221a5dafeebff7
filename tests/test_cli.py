"""The command line: what it prints, how it ends."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from lucernis.cli import main
from tests.helpers import document, small_document


def write(folder: Path, doc: object) -> str:
    file = folder / "plan.json"
    file.write_text(json.dumps(doc), encoding="utf-8")
    return str(file)


def test_size_text_leads_with_the_answer(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["size", "--amps", "18.5", "--length", "3m", "--nominal", "12"]) == 0
    out = capsys.readouterr().out
    assert out.startswith("14 AWG · 20 A Regular blade · ")
    assert "not an approval" in out


def test_size_json_and_working(capsys: pytest.CaptureFixture[str]) -> None:
    main(["size", "--watts", "60", "--loop", "20ft", "--practice", "metric_caravan", "--json"])
    answer = json.loads(capsys.readouterr().out)
    assert answer["loop_length_m"] == pytest.approx(6.096)
    assert "mm²" in answer["size"]
    main(["size", "--watts", "60", "--length", "3m", "--working"])
    assert "Iz = table · k_zone · k_bundle" in capsys.readouterr().out


def test_size_every_option_is_taken(capsys: pytest.CaptureFixture[str]) -> None:
    arguments = (
        "size --watts 90 --behaviour resistive --volts 12 --length 4m --nominal 12 --insulation 90 --zone engine "
        "--ambient 60 --bundle 4 --limit 5 --family blade_maxi --margin 10 --practice overland_bs --pin 6 --json"
    )
    main(arguments.split())
    answer = json.loads(capsys.readouterr().out)
    assert (answer["pinned"], answer["size"], answer["fuse_label"]) == (True, "6 B&S", "Large blade")


def test_size_stop_sets_the_status(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["size", "--amps", "60", "--length", "3m", "--pin", "16"]) == 1
    assert "wire-over-ampacity" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["size", "--amps", "5", "--length", "3 parsecs"], "length: '3 parsecs' is not a length"),
        (["size", "--amps", "-5", "--length", "3m"], "amps"),
        (["size", "--amps", "5", "--length", "300m"], "length_confirmed"),
        (["size", "--amps", "5", "--length", "3m", "--pin", "11"], "no wire size"),
        (["size", "--amps", "5", "--length", "3m", "--practice", "x"], "practice"),
        (["size", "--amps", "5", "--length", "3m", "--family", "x"], "family"),
        (["report", "/nowhere/plan.json"], "No such file"),
        (["serve", "--share", "--passcode", "file:/nowhere/code"], "No such file"),
        (["serve", "--share", "--passcode", "env"], "the pairing code is blank"),
        (["serve", "--tls"], "only a shared program"),
        (["backup", "--data", "/nowhere/plans.sqlite3"], "there is no data file at"),
        (["backup", "--salvage", "--data", "/nowhere/plans.sqlite3"], "there is no data file at"),
    ],
)
def test_bad_input_is_said_and_ends_with_2(capsys: pytest.CaptureFixture[str], arguments: list[str], says: str) -> None:
    assert main(arguments) == 2
    assert says in capsys.readouterr().err


def test_size_long_length_can_be_meant(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["size", "--amps", "1", "--length", "300m", "--yes-long"]) in (0, 1)
    assert "300.00 m one way" in capsys.readouterr().out


def test_report_status_follows_stops(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["report", write(tmp_path, small_document())]) == 0
    assert "C01" in capsys.readouterr().out
    assert main(["report", write(tmp_path, document("plover")), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["summary"]["open_stop"] > 0
    (tmp_path / "plan.json").write_text("{", encoding="utf-8")
    assert main(["report", str(tmp_path / "plan.json")]) == 2


def test_import_export_backup_restore(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    data = ["--data", str(tmp_path / "plans.sqlite3")]
    assert main(["import", write(tmp_path, small_document()), *data]) == 0
    out = tmp_path / "out.json"
    assert main(["export", "small", "plan.json", "--out", str(out), *data]) == 0
    assert json.loads(out.read_text(encoding="utf-8"))["job"]["name"] == "Small"
    assert main(["export", "Small", "run-sheet.pdf", "--paper", "letter", "--out", str(tmp_path / "s.pdf"), *data]) == 0
    window = tmp_path / "window.svg"
    assert main(["export", "Small", "fuse-window.svg", "--subject", "C02", "--out", str(window), *data]) == 0
    assert "<title>C02: " in window.read_text(encoding="utf-8")
    assert main(["export", "Small", "fuse-window.svg", "--out", str(window), *data]) == 2
    assert main(["export", "Small", "painting.svg", "--out", str(window), *data]) == 2
    assert "drawings.pdf" in capsys.readouterr().err
    assert main(["export", "Small", "pinch.svg", "--subject", "L01", "--state", "never", *data]) == 2
    copy = tmp_path / "copy.sqlite3"
    assert main(["backup", "--out", str(copy), *data]) == 0
    assert main(["backup", "--restore", str(copy), *data]) == 0
    assert "what was there is" in capsys.readouterr().out
    assert main(["export", "nobody", "plan.json", *data]) == 2
    assert main(["backup", "--restore", str(tmp_path / "none"), *data]) == 2
