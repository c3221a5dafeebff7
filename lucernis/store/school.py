"""Who learns on this machine, how their skills stand, what they answered, and their cases."""

from __future__ import annotations

import json
import secrets
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

CaseKind = Literal["mistake", "fault", "letter"]


@dataclass(frozen=True, slots=True)
class Learner:
    """Somebody who learns; a name is enough."""

    learner_id: int
    name: str
    practice: str
    made_at: str


@dataclass(frozen=True, slots=True)
class SkillState:
    """How a skill stands: level, answers in a row, and the scheduler's card."""

    skill: str
    level: int
    streak: int
    card: str


@dataclass(frozen=True, slots=True)
class Tally:
    """Answers of a skill at a level."""

    skill: str
    level: int
    answers: int
    rights: int
    last_at: str


@dataclass(frozen=True, slots=True)
class Slip:
    """A usual mistake and how often it was made."""

    skill: str
    mistake: str
    times: int


@dataclass(frozen=True, slots=True)
class StoredCase:
    """A case; `put_in` is what was put into its van, `result` its grade once it is handed in."""

    case_id: str
    learner_id: int
    kind: CaseKind
    seed: int
    level: int
    practice: str
    plan_id: str | None
    work: list[dict[str, Any]]
    points: float | None
    result: dict[str, Any] | None
    put_in: dict[str, Any] | None
    made_at: str
    done_at: str | None


def _case(row: sqlite3.Row) -> StoredCase:
    found = dict(row)
    found["work"] = json.loads(found["work"])
    for name in ("result", "put_in"):
        found[name] = json.loads(found[name]) if found[name] is not None else None
    return StoredCase(**found)


class SchoolStore:
    """Repository of the school."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("school").items()}

    def _stamp(self) -> str:
        return self._now().astimezone(UTC).isoformat(timespec="seconds")

    def now(self) -> datetime:
        """The clock of this store."""
        return self._now().astimezone(UTC)

    def list_learners(self) -> list[Learner]:
        """Everybody who learns here, by name."""
        with self._database.reading() as connection:
            return [Learner(**row) for row in connection.execute(self._sql["list_learners"]).fetchall()]

    def get_learner(self, learner_id: int) -> Learner:
        """One learner.

        Raises
        ------
        NotFound
            If there is none of that number.
        """
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_learner"], {"learner_id": learner_id}).fetchone()
        if row is None:
            raise NotFound(f"no learner {learner_id}", field="learner_id", value=learner_id, allowed="a learner here")
        return Learner(**row)

    def insert_learner(self, name: str, practice: str) -> Learner:
        """Somebody new; who is there already is found by name."""
        with self._database.writing() as connection:
            row = connection.execute(self._sql["get_learner_named"], {"name": name}).fetchone()
            if row is None:
                values = {"name": name, "practice": practice, "made_at": self._stamp()}
                connection.execute(self._sql["insert_learner"], values)
                row = connection.execute(self._sql["get_learner_named"], {"name": name}).fetchone()
        return Learner(**row)

    def update_practice(self, learner_id: int, practice: str) -> Learner:
        """Let a learner learn by another practice set."""
        self.get_learner(learner_id)
        with self._database.writing() as connection:
            connection.execute(self._sql["update_practice"], {"learner_id": learner_id, "practice": practice})
        return self.get_learner(learner_id)

    def list_skills(self, learner_id: int) -> dict[str, SkillState]:
        """Skills that were trained, by name."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_skills"], {"learner_id": learner_id}).fetchall()
        return {row["skill"]: SkillState(**row) for row in rows}

    def insert_answer(
        self,
        learner_id: int,
        state: SkillState,
        *,
        seed: int,
        given: list[str],
        is_right: bool,
        mistake: str,
        level: int,
    ) -> bool:
        """Note an answer and how its skill stands after it. A question that was answered before changes nothing: its
        answer was shown. Returns whether it counted."""
        with self._database.writing() as connection:
            key = {"learner_id": learner_id, "skill": state.skill, "level": level, "seed": seed}
            if connection.execute(self._sql["get_asked"], key).fetchone()["asked"]:
                return False
            values = {
                "given": json.dumps(given, ensure_ascii=False)[:400],
                "is_right": int(is_right),
                "mistake": mistake[:200],
            }
            connection.execute(self._sql["insert_answer"], key | values | {"made_at": self._stamp()})
            held = {"level": state.level, "streak": state.streak, "card": state.card, "skill": state.skill}
            connection.execute(self._sql["update_skill"], {"learner_id": learner_id} | held)
        return True

    def list_tallies(self, learner_id: int) -> list[Tally]:
        """Answers by skill and level."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_tallies"], {"learner_id": learner_id}).fetchall()
        return [Tally(**row) for row in rows]

    def list_mistakes(self, learner_id: int) -> list[Slip]:
        """Usual mistakes somebody made, most often first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_mistakes"], {"learner_id": learner_id}).fetchall()
        return [Slip(**row) for row in rows]

    def insert_case(
        self,
        learner_id: int,
        kind: CaseKind,
        *,
        seed: int,
        level: int,
        practice: str,
        plan_id: str | None,
        put_in: dict[str, Any] | None = None,
    ) -> StoredCase:
        """Begin a case."""
        case_id = secrets.token_urlsafe(9)
        values = {"case_id": case_id, "learner_id": learner_id, "kind": kind, "seed": seed, "level": level}
        with self._database.writing() as connection:
            connection.execute(
                self._sql["insert_case"],
                values
                | {
                    "practice": practice,
                    "plan_id": plan_id,
                    "put_in": None if put_in is None else json.dumps(put_in, ensure_ascii=False),
                    "made_at": self._stamp(),
                },
            )
        return self.get_case(case_id)

    def get_case(self, case_id: str) -> StoredCase:
        """One case.

        Raises
        ------
        NotFound
            If there is none.
        """
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_case"], {"case_id": case_id}).fetchone()
        if row is None:
            raise NotFound(f"no case {case_id!r}", field="case_id", value=case_id, allowed="a case begun here")
        return _case(row)

    def get_case_of_plan(self, plan_id: str) -> StoredCase | None:
        """The case a van belongs to."""
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_case_of_plan"], {"plan_id": plan_id}).fetchone()
        return None if row is None else _case(row)

    def list_cases(self, learner_id: int) -> list[StoredCase]:
        """Cases of a learner, newest first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_cases"], {"learner_id": learner_id}).fetchall()
        return [_case(row) for row in rows]

    def list_open_plans(self) -> dict[str, str]:
        """Vans that are looked over for mistakes just now: plan to case."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_open_plans"]).fetchall()
        return {row["plan_id"]: row["case_id"] for row in rows}

    def update_work(self, case_id: str, work: list[dict[str, Any]]) -> StoredCase:
        """Keep what was marked or read so far.

        Raises
        ------
        EditRefused
            If the case is handed in.
        """
        with self._database.writing() as connection:
            changed = connection.execute(
                self._sql["update_work"], {"case_id": case_id, "work": json.dumps(work, ensure_ascii=False)}
            )
            if changed.rowcount == 0:
                raise EditRefused(
                    "the case is handed in", field="case_id", value=case_id, allowed="a case not handed in"
                )
        return self.get_case(case_id)

    def update_result(self, case_id: str, points: float, result: dict[str, Any]) -> StoredCase:
        """Hand a case in, once: a second time changes nothing."""
        with self._database.writing() as connection:
            values = {"case_id": case_id, "points": points, "result": json.dumps(result, ensure_ascii=False)}
            connection.execute(self._sql["update_result"], values | {"done_at": self._stamp()})
        return self.get_case(case_id)
