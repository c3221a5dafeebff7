"""Where faults can be planted, and a sample of them: those people make, or the small ones of cosmic-ray."""

from __future__ import annotations

import ast
import random
from collections import Counter
from dataclasses import asdict, dataclass
from pathlib import Path

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

from tools.mutants.realistic import PREFIX, changes, planted

ROOT = Path(__file__).resolve().parents[2]
EVERYWHERE = (
    "lucernis/core",
    "lucernis/plan",
    "lucernis/api",
    "lucernis/store",
    "lucernis/exports",
    "lucernis/aftercare",
)
WHERE = ("lucernis/core", "lucernis/plan", "lucernis/api/door.py")
# What a report is made of, and where shapes stand on a sheet: no judgement hangs on it.
DECLARED = ("lucernis/core/report.py",)
DRAWN = "lucernis/core/pictures/"
KINDS = (
    "ReplaceComparisonOperator", "ReplaceBinaryOperator", "ReplaceUnaryOperator", "NumberReplacer", "AddNot",
    "ReplaceTrueWithFalse", "ReplaceFalseWithTrue", "ReplaceAndWithOr", "ReplaceOrWithAnd", "ReplaceBreakWithContinue",
    "ReplaceContinueWithBreak", "ZeroIterationForLoop",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mutant:
    """One fault: a file, where in it, and which of the faults of that kind it is."""

    path: str
    line: int
    column: int
    operator: str
    occurrence: int

    @property
    def name(self) -> str:
        """Short and the same every time."""
        return f"{self.path}:{self.line}:{self.column} {self.operator.split('/')[-1]}"

    def planted(self) -> str | None:
        """The whole file with the fault in it; None where it would be the same."""
        code = (ROOT / self.path).read_text(encoding="utf-8")
        if self.operator.startswith(PREFIX):
            changed = planted(code, self.operator, self.occurrence)
            return None if changed is None or _same(code, changed) else changed
        changed = mutate_code(code, get_operator(self.operator)(), self.occurrence)
        return None if changed is None or _same(code, changed) else changed

    def plain(self) -> dict[str, str | int]:
        """As JSON takes it."""
        return asdict(self)


def _same(code: str, other: str) -> bool:
    try:
        return ast.dump(ast.parse(code)) == ast.dump(ast.parse(other))
    except SyntaxError:
        return True


def _quiet(code: str) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Stretches that only describe types or decorate: a fault there changes nothing that runs."""
    found: list[ast.AST] = []
    for node in ast.walk(ast.parse(code)):
        if isinstance(node, ast.FunctionDef):
            every = [*node.args.args, *node.args.kwonlyargs, *node.args.posonlyargs]
            found += [one.annotation for one in every if one.annotation is not None]
            found += [*node.decorator_list, *([node.returns] if node.returns is not None else [])]
        elif isinstance(node, ast.ClassDef):
            found += node.decorator_list
        elif isinstance(node, ast.AnnAssign) and not _checked(node.annotation):
            found.append(node.annotation)
    return [
        ((one.lineno, one.col_offset), (one.end_lineno or one.lineno, one.end_col_offset or 0))  # type: ignore[attr-defined]
        for one in found
    ]


def _checked(annotation: ast.expr) -> bool:
    """Bounds that a model checks are no mere description."""
    return any(isinstance(one, ast.Call) for one in ast.walk(annotation))


def _files(where: tuple[str, ...] = WHERE) -> list[Path]:
    found = []
    for name in where:
        path = ROOT / name
        found += sorted(path.rglob("*.py")) if path.is_dir() else [path]
    return [one for one in found if str(one.relative_to(ROOT)) not in DECLARED]


def realistic_sites() -> dict[tuple[str, int, int], list[Mutant]]:
    """Every place with the faults of people's kind it can have."""
    found: dict[tuple[str, int, int], list[Mutant]] = {}
    for file in _files(EVERYWHERE):
        code, path = file.read_text(encoding="utf-8"), str(file.relative_to(ROOT))
        counts: dict[str, int] = {}
        for one in changes(code):
            number = counts[one.kind] = counts.get(one.kind, -1) + 1
            place = (path, one.line, one.column)
            found.setdefault(place, []).append(Mutant(*place, PREFIX + one.kind, number))
    return found


def sites() -> dict[tuple[str, int, int], list[Mutant]]:
    """Every place with the faults it can have."""
    operators = [(name, get_operator(name)()) for name in sorted(operator_names()) if _of_a_kind(name)]
    found: dict[tuple[str, int, int], list[Mutant]] = {}
    for file in _files():
        code, path = file.read_text(encoding="utf-8"), str(file.relative_to(ROOT))
        quiet, nodes = _quiet(code), list(ast_nodes(get_ast(code)))
        for name, operator in operators:
            if path.startswith(DRAWN) and name.endswith("NumberReplacer"):
                continue
            positions = [start for node in nodes for start, _ in operator.mutation_positions(node)]
            for occurrence, (line, column) in enumerate(positions):
                if not any(begin <= (line, column) < end for begin, end in quiet):
                    found.setdefault((path, line, column), []).append(Mutant(path, line, column, name, occurrence))
    return found


def _of_a_kind(name: str) -> bool:
    return any(name.split("/")[-1].startswith(kind) for kind in KINDS)


def room(path: str) -> str:
    """The room of the program a file stands in, as `core/sizing` or `store`."""
    parts = Path(path).parts[1:-1]
    return "/".join(parts[:2]) if parts[:1] == ("core",) else "/".join(parts[:1])


def sample(count: int, seed: int, *, realistic: bool) -> list[Mutant]:
    """So many faults, one a place, the same every time for the same code and seed. Of people's faults every room gets
    its turn, so that a small room is not drowned in a large one."""
    every, chance = realistic_sites() if realistic else sites(), random.Random(seed)  # noqa: S311
    places = sorted(every)
    chance.shuffle(places)
    if realistic:
        seen: Counter[str] = Counter()
        turn = {}
        for place in places:
            turn[place] = seen[room(place[0])]
            seen[room(place[0])] += 1
        places.sort(key=turn.__getitem__)
    found: list[Mutant] = []
    for place in places:
        mutant = chance.choice(every[place])
        if mutant.planted() is not None:
            found.append(mutant)
        if len(found) == count:
            break
    return found
