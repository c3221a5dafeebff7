"""The shape of the project: which way imports point, docstrings with units, documents that keep up with the code."""

from __future__ import annotations

import ast
import inspect
import re
from importlib import import_module
from pathlib import Path

import pytest

from lucernis.core.checks.codes import CODES, checks_pages
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Fuse, Plan, Run, State, Vehicle, Zone
from lucernis.plan.parts import PART_CLASSES
from lucernis.practice.rules import RULE_NAMES, load_sets
from tests.helpers import every_finding
from tools.fields import pages

ROOT = Path(__file__).resolve().parents[1]
PACKAGE = ROOT / "lucernis"
MAY_IMPORT = {
    "errors": set(),
    "practice": {"errors"},
    "plan": {"errors", "practice"},
    "core": {"errors", "practice", "plan"},
    "store": {"errors"},
    "aftercare": {"errors", "practice", "plan", "core"},
    "learning": {"errors", "practice", "plan", "core"},
    "meters": {"errors", "practice", "plan", "core"},
    "exports": {"errors", "practice", "plan", "core", "aftercare"},
    "demo": {"errors", "plan", "store"},
    "api": {"errors", "practice", "plan", "core", "store", "exports", "aftercare", "learning", "meters", "api"},
}
# The storeys of the core, lowest first; the rooms of one storey stand side by side and do not know one another, but for
# those named after them.
STOREYS = (
    ("itself",),
    ("wire", "protection", "circuit", "report"),
    ("layout",),
    ("sizing",),
    ("harness",),
    ("faults", "power"),
    ("build",),
    ("energy", "checks"),
    ("evaluation", "prove", "bench"),
    ("pictures", "proposals"),
    ("school",),
)
BESIDE: dict[str, set[str]] = {}
OUTSIDE_CORE = {"fastapi", "sqlite3", "starlette", "uvicorn", "reportlab", "time", "random", "datetime", "os"}


def imports(path: Path) -> set[str]:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    names = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("layer", sorted(MAY_IMPORT))
def test_imports_point_one_way(layer: str) -> None:
    files = [PACKAGE / "errors.py"] if layer == "errors" else sorted((PACKAGE / layer).rglob("*.py"))
    assert files
    for path in files:
        for name in imports(path):
            if name.startswith("lucernis.") and not name.startswith(f"lucernis.{layer}"):
                assert name.split(".")[1] in MAY_IMPORT[layer], f"{path.name} imports {name}"


@pytest.mark.parametrize("path", sorted((PACKAGE / "core").rglob("*.py")), ids=lambda path: path.stem)
def test_core_knows_no_door_no_disk_no_clock(path: Path) -> None:
    assert not {name.split(".")[0] for name in imports(path)} & OUTSIDE_CORE


def rooms(path: Path) -> set[str]:
    """Rooms of the core a file imports from."""
    return {name.split(".")[2] for name in imports(path) if name.startswith("lucernis.core.")}


def test_rooms_of_the_core_are_all_on_a_storey() -> None:
    named = {room for storey in STOREYS for room in storey}
    there = {path.stem for path in (PACKAGE / "core").iterdir() if not path.stem.startswith("__")}
    assert there == named


@pytest.mark.parametrize("room", [room for storey in STOREYS for room in storey])
def test_arrows_in_the_core_point_down(room: str) -> None:
    level = next(at for at, storey in enumerate(STOREYS) if room in storey)
    below = {one for storey in STOREYS[:level] for one in storey} | {room} | BESIDE.get(room, set())
    folder = PACKAGE / "core" / room
    for path in sorted(folder.rglob("*.py")) if folder.is_dir() else [folder.with_suffix(".py")]:
        assert rooms(path) <= below, f"{path.name} in {room} imports {sorted(rooms(path) - below)}"


def test_arrows_between_modules_never_close_a_ring() -> None:
    modules = {".".join(path.relative_to(ROOT).with_suffix("").parts): path for path in PACKAGE.rglob("*.py")}
    arrows = {name: imports(path) & modules.keys() for name, path in modules.items()}
    done: set[str] = set()

    def follow(name: str, way: tuple[str, ...]) -> None:
        assert name not in way, " -> ".join((*way, name))
        if name not in done:
            for there in sorted(arrows[name]):
                follow(there, (*way, name))
            done.add(name)

    for name in sorted(modules):
        follow(name, ())


def public_functions() -> list[tuple[str, object]]:
    found = []
    for path in sorted((PACKAGE / "core").rglob("*.py")):
        if path.stem.startswith("__"):
            continue
        module = import_module(".".join(path.relative_to(ROOT).with_suffix("").parts))
        for name, item in vars(module).items():
            if inspect.isfunction(item) and item.__module__ == module.__name__ and not name.startswith("_"):
                found.append((f"{path.parent.name}.{path.stem}.{name}", item))
    return found


@pytest.mark.parametrize(("name", "function"), public_functions(), ids=[name for name, _ in public_functions()])
def test_docstring_names_every_parameter_and_its_unit(name: str, function: object) -> None:
    text = inspect.getdoc(function) or ""
    assert text, f"{name} has no docstring"
    assert callable(function)
    parameters = [one for one in inspect.signature(function).parameters if one != "self"]
    if "Parameters\n----------" not in text:
        # A one-line docstring is enough for a function whose every argument is a thing, not a quantity.
        quantities = [one for one in parameters if re.search(r"_(a|v|w|m|mm2|c|ohm|frac|ohm_per_m)$", one)]
        assert not quantities, f"{name} hides units of {quantities}"
        return
    section = text.split("Parameters\n----------")[1].split("\n\nReturns")[0]
    listed = [one.strip() for line in re.findall(r"^(\w[\w, ]*) : ", section, re.MULTILINE) for one in line.split(",")]
    assert listed == parameters
    for one in parameters:
        if re.search(r"_(a|v|w|m|mm2|c|ohm|ohm_per_m)$", one):
            described = section.split(f"{one} : ")[1].split("\n")[1]
            block = re.split(r"\n\w+ : ", section.split(f"{one} : ")[1])[0]
            assert re.search(r"\[[^\]]+\]", block), f"{name}: {one} has no unit: {described}"


def test_format_document_names_every_field() -> None:
    page = (ROOT / "docs" / "format.md").read_text(encoding="utf-8")
    for model in (Plan, Vehicle, Zone, State, Run, Fuse, *PART_CLASSES.values()):
        for field in model.model_fields:
            assert f"`{field}`" in page, f"docs/format.md lacks {model.__name__}.{field}"


def test_tables_of_fields_are_those_of_the_models() -> None:
    for name, text in pages().items():
        assert (ROOT / "docs" / name).read_text(encoding="utf-8") == text, f"{name}: run make docs"


def test_format_document_examples_are_valid_plans() -> None:
    import json

    page = (ROOT / "docs" / "format.md").read_text(encoding="utf-8")
    examples = [json.loads(text) for text in re.findall(r"```json\n(\{\n  \"format\".*?)```", page, re.DOTALL)]
    assert examples
    for example in examples:
        plan = parse_plan(example)
        assert {part.kind for part in plan.parts} == {"battery", "fuse_block", "load"}
        # The page says what its example is made to raise, and it raises nothing else.
        announced = set(re.findall(r"^- `([a-z-]+)`: ", page, re.MULTILINE))
        assert {code for code, _ in every_finding(evaluate(plan).findings)} == announced


def test_practice_document_names_every_set_and_rule() -> None:
    page = (ROOT / "docs" / "practice.md").read_text(encoding="utf-8")
    for name in (*load_sets(), *RULE_NAMES):
        assert f"`{name}`" in page


def test_checks_document_is_the_one_written_from_the_code() -> None:
    folder = ROOT / "docs" / "checks"
    written = {path.name: path.read_text(encoding="utf-8") for path in folder.glob("*.md")}
    assert written == checks_pages(), "run: make docs"
    assert {f"{code}.md" for code in CODES} <= set(written)


def test_every_code_is_raised_somewhere_with_a_mend() -> None:
    for name, text in checks_pages().items():
        # These three work their mend out from the case.
        if name not in ("README.md", "drop-out-of-reach.md", "wire-nothing-fits.md", "fuse-below-load.md"):
            assert "said with the figures" not in text.partition("## Mend")[2], name


def test_glossary_names_every_unit_ending_in_the_core() -> None:
    page = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8")
    for name in (
        "design_current_a",
        "ampacity_a",
        "drop_v",
        "drop_frac",
        "length_m",
        "loop_length_m",
        "area_mm2",
        "temp_c",
    ):
        assert f"`{name}`" in page


def test_readme_pictures_exist_and_are_linked() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    pictures = sorted(path.name for path in (ROOT / "docs" / "screenshots").glob("*.png"))
    assert pictures
    for picture in pictures:
        assert f"docs/screenshots/{picture}" in readme


def test_no_address_of_elsewhere_in_the_built_pages() -> None:
    built = "".join(
        path.read_text(encoding="utf-8") for path in (PACKAGE / "web").rglob("*") if path.suffix in {".html", ".css"}
    )
    assert built
    assert not re.findall(r"(?:url\(|src=|href=|@import )\s*[\"']?(?:https?:)?//", built)


@pytest.mark.parametrize(
    "path", sorted((ROOT / "tests" / "outside" / "references").glob("*.py")), ids=lambda one: one.stem
)
def test_independent_references_know_the_model_of_a_plan_and_nothing_else(path: Path) -> None:
    """What is written from a standard is worth something as long as it takes nothing from what it is to hold."""
    taken = {
        name
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Import | ast.ImportFrom)
        for name in ([one.name for one in node.names] if isinstance(node, ast.Import) else [node.module or ""])
        if name.split(".")[0] in ("lucernis", "tests")
    }
    assert taken <= {"lucernis.plan.model"}
