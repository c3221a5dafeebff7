"""The school over HTTP: who learns, drills, cases, and what was reached."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query, Request, Response
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lucernis.api.answers import plan_of, store_of
from lucernis.api.workshop import prices_of
from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.prove.next_reading import offered
from lucernis.core.prove.words import UNIT_OF
from lucernis.core.school.drills.ask import by_every_school, drill
from lucernis.core.school.drills.drill import JudgedAnswer, SchoolSays, judge_answer, skills
from lucernis.core.school.fault_case import (
    EVENING_MIN,
    FaultCase,
    FaultGrade,
    Look,
    causes_at,
    fault_case,
    frame_of_van,
    grade_fault,
    symptom_text,
    take,
)
from lucernis.core.school.fault_case import case_kept as fault_as_kept
from lucernis.core.school.fault_case import kept as fault_kept
from lucernis.core.school.grades import Grade, Mark, by_every_set, grade
from lucernis.core.school.letters import LetterGrade, grade_letter, letter, start_of
from lucernis.core.school.mistakes import MistakeCase, mistake_case
from lucernis.core.school.mistakes import case_kept as mistakes_as_kept
from lucernis.core.school.mistakes import kept as mistakes_kept
from lucernis.errors import EditRefused, UnknownRow
from lucernis.exports.paper import PaperSize
from lucernis.exports.school_pdf import CaseLine, SkillLine, certificate_pdf, teachers_sheet_pdf
from lucernis.learning.progress import SkillProgress, ToDo, progress, ten_minutes
from lucernis.learning.schedule import after
from lucernis.plan.document import parse_plan, plan_document
from lucernis.practice.rules import load_sets
from lucernis.store.school import CaseKind, Learner, SchoolStore, SkillState, Slip, StoredCase

router = APIRouter(prefix="/api/school", tags=["school"])
Name = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$")]
Practice = Annotated[str, Field(max_length=40)]
Level = Annotated[int, Field(ge=1, le=4)]
LearnerId = Annotated[int, Path(ge=1, le=1_000_000)]
Seed = Annotated[int, Field(ge=0, le=4_294_967_295)]
_MOST_MARKS = 40
_MOST_LOOKS = 60
# Beyond it a hand meter shows no number.
_OPEN_OHM = 1e6


def school_of(request: Request) -> SchoolStore:
    """The school's repository."""
    found: SchoolStore = request.app.state.school
    return found


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class NewLearner(_In):
    """Somebody who wants to learn: a name is enough."""

    name: Name
    practice: Practice = "metric_caravan"


class PracticeIn(_In):
    """Another practice set to learn by."""

    practice: Practice


class AnswerIn(_In):
    """An answer: which question, and a typed number or the choices."""

    skill: Annotated[str, Field(max_length=40)]
    level: Level
    seed: Seed
    given: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=12)]


class NewCase(_In):
    """A case to begin. The same seed and level are the same case for everybody."""

    kind: CaseKind
    level: Level
    seed: Seed


class MarkIn(_In):
    """What is wrong: a code of the checks, and at what."""

    subject: Annotated[str, Field(min_length=1, max_length=80)]
    code: Annotated[str, Field(min_length=1, max_length=60)]


class MarksIn(_In):
    """Everything that is marked."""

    marks: Annotated[list[MarkIn], Field(max_length=_MOST_MARKS)]


class LookIn(_In):
    """A reading to take."""

    reading: Annotated[str, Field(min_length=1, max_length=160)]
    situation: Annotated[str, Field(min_length=1, max_length=80)]


class HandIn(_In):
    """Handing a case in; for a fault, the cause that is named."""

    cause: Annotated[str, Field(max_length=200)] | None = None


def _practice(name: str) -> str:
    sets = load_sets()
    if name not in sets:
        raise UnknownRow(f"no practice set {name!r}", field="practice", value=name, allowed=", ".join(sets))
    return name


@router.get("/learners", operation_id="listLearners")
def list_learners(request: Request) -> list[Learner]:
    """Everybody who learns on this machine."""
    return school_of(request).list_learners()


@router.post("/learners", operation_id="addLearner")
def add_learner(request: Request, new: NewLearner) -> Learner:
    """Somebody new; a name that is there already is that learner."""
    return school_of(request).insert_learner(new.name.strip(), _practice(new.practice))


@router.put("/learners/{learner_id}/practice", operation_id="setPractice")
def set_practice(request: Request, learner_id: LearnerId, wanted: PracticeIn) -> Learner:
    """Learn by another practice set from now on."""
    return school_of(request).update_practice(learner_id, _practice(wanted.practice))


@dataclass(slots=True)
class CaseCard:
    """A case in a list."""

    case_id: str
    kind: CaseKind
    seed: int
    level: int
    plan_id: str | None
    points: float | None
    made_at: str
    done_at: str | None


def _card(case: StoredCase) -> CaseCard:
    return CaseCard(
        case.case_id, case.kind, case.seed, case.level, case.plan_id, case.points, case.made_at, case.done_at
    )


@dataclass(slots=True)
class Standing:
    """How a learner stands: skills, what to do in ten minutes, usual mistakes, cases."""

    learner: Learner
    skills: list[SkillProgress]
    todo: list[ToDo]
    slips: list[Slip]
    cases: list[CaseCard]


def standing_of(request: Request, learner_id: int) -> Standing:
    """How a learner stands."""
    school = school_of(request)
    learner = school.get_learner(learner_id)
    levels = {name: (one.level, one.card) for name, one in school.list_skills(learner_id).items()}
    tallies: dict[str, tuple[int, int]] = {}
    for one in school.list_tallies(learner_id):
        answers, rights = tallies.get(one.skill, (0, 0))
        tallies[one.skill] = (answers + one.answers, rights + one.rights)
    stand = progress(levels, tallies, school.now())
    cases = [_card(one) for one in school.list_cases(learner_id)]
    todo = ten_minutes(stand, sum(one.done_at is None for one in cases))
    return Standing(learner, stand, todo, school.list_mistakes(learner_id), cases)


@router.get("/learners/{learner_id}", operation_id="getStanding")
def get_standing(request: Request, learner_id: LearnerId) -> Standing:
    """How a learner stands."""
    return standing_of(request, learner_id)


@dataclass(slots=True)
class NamedThing:
    """Something to choose."""

    id: str
    label: str


@dataclass(slots=True)
class Question:
    """A question as it is asked, without its answer; `picture` is an SVG, empty for none."""

    skill: str
    title: str
    level: int
    seed: int
    practice_label: str
    question: str
    kind: str
    unit: str
    choices: list[NamedThing]
    columns: list[str]
    rows: list[list[str]]
    picture: str


@router.get("/learners/{learner_id}/drill", operation_id="askDrill")
def ask_drill(
    request: Request,
    learner_id: LearnerId,
    skill: Annotated[str, Query(max_length=40)],
    seed: Annotated[int, Query(ge=0, le=4_294_967_295)],
    level: Annotated[int | None, Query(ge=1, le=4, description="The learner's own when absent")] = None,
) -> Question:
    """A question at the learner's level, by the learner's practice set."""
    school = school_of(request)
    learner = school.get_learner(learner_id)
    state = school.list_skills(learner_id).get(skill)
    at = level or (state.level if state is not None else 1)
    made = drill(skill, at, seed, learner.practice)
    title = next(one.title for one in skills() if one.id == skill)
    return Question(
        skill,
        title,
        at,
        seed,
        load_sets()[learner.practice].label,
        made.question,
        made.kind,
        made.unit,
        [NamedThing(*one) for one in made.choices],
        made.columns,
        made.rows,
        made.picture,
    )


@dataclass(slots=True)
class Answered:
    """An answer judged, what the schools say where they disagree, whether it counted, and the level after it."""

    judged: JudgedAnswer
    schools: list[SchoolSays]
    counted: bool
    level: int
    level_before: int


@router.post("/learners/{learner_id}/answers", operation_id="answerDrill")
def answer_drill(request: Request, learner_id: LearnerId, given: AnswerIn) -> Answered:
    """Judge an answer and note it. Answered a second time it counts no more."""
    school = school_of(request)
    learner = school.get_learner(learner_id)
    judged = judge_answer(drill(given.skill, given.level, given.seed, learner.practice), given.given)
    state = school.list_skills(learner_id).get(given.skill) or SkillState(given.skill, 1, 0, "")
    stands = after(state.level, state.streak, state.card, is_right=judged.right, now=school.now(), asked=given.level)
    counted = school.insert_answer(
        learner_id,
        SkillState(given.skill, stands.level, stands.streak, stands.card),
        seed=given.seed,
        given=given.given,
        is_right=judged.right,
        mistake=judged.mistake,
        level=given.level,
    )
    schools = by_every_school(given.skill, given.level, given.seed, learner.practice)
    return Answered(judged, schools, counted, stands.level if counted else state.level, state.level)


@dataclass(slots=True)
class LookShown:
    """A reading as a meter shows it, where, in which state, and what it took. [min]"""

    label: str
    situation: str
    shown: str
    minutes: float


@dataclass(slots=True)
class Case:
    """A case: what is told of it, what was marked or read, and its grade once it is handed in."""

    card: CaseCard
    learner: Learner
    title: str
    told: list[str]
    marks: list[Mark]
    looks: list[LookShown]
    own: list[LookShown]
    spent_min: float
    evening_min: float
    subjects: list[NamedThing]
    situations: list[NamedThing]
    mistakes: Grade | None
    fault: FaultGrade | None
    letter: LetterGrade | None


_RESULTS: dict[str, TypeAdapter[Any]] = {
    "mistake": TypeAdapter(Grade),
    "fault": TypeAdapter(FaultGrade),
    "letter": TypeAdapter(LetterGrade),
}


def fault_of(case: StoredCase) -> FaultCase:
    """The van of a search for a fault, as it was begun."""
    return fault_as_kept(case.seed, case.level, case.put_in)


def mistakes_of(case: StoredCase) -> MistakeCase:
    """What was put into the van of a search for mistakes, as it was begun."""
    return mistakes_as_kept(case.seed, case.level, case.put_in)


def _told(case: StoredCase) -> tuple[str, list[str]]:
    if case.kind == "fault":
        made = fault_of(case)
        frame = frame_of_van(made.van)
        return f"{frame.plan.job.name}: find the fault", [symptom_text(frame, one) for one in made.symptoms]
    if case.kind == "letter":
        return "Plan it from a letter", [letter(case.seed, case.level, case.practice).text]
    van = mistakes_of(case)
    count = len(van.mistakes)
    job = van.document["job"]
    counted = "One thing is wrong." if count == 1 else f"{count} things are wrong."
    return f"{job['name']}: find the mistake", [str(job["note"]), f"{counted} The van was right before."]


def _shown(case: StoredCase, look: Look) -> LookShown:
    frame = frame_of_van(fault_of(case).van)
    unit = UNIT_OF[look.reading.partition(":")[0]]
    # As many places as a hand meter has; a clamp is put on either way round.
    places = {"V": 2, "A": 2}.get(unit, 2 if look.value < 10 else 0)
    shown = f"{round(abs(look.value) if unit == 'A' else look.value, places) + 0.0:.{places}f} {unit}"
    opened = unit == "Ω" and look.value >= _OPEN_OHM
    return LookShown(look.label, frame.situations[look.situation].name, "open" if opened else shown, look.minutes)


def case_out(request: Request, case: StoredCase) -> Case:
    """A case as it is shown."""
    title, told = _told(case)
    looks = [Look(**one) for one in case.work] if case.kind == "fault" else []
    subjects: list[NamedThing] = []
    situations: list[NamedThing] = []
    if case.kind == "fault":
        frame = frame_of_van(fault_of(case).van)
        subjects = [NamedThing(one.id, f"{one.tag} {one.name}") for one in frame.plan.parts]
        subjects += [NamedThing(one.id, f"{one.tag} {one.name}".strip()) for one in frame.plan.runs]
        situations = [NamedThing(one.id, one.name) for one in frame.situations.values()]
    result = None if case.result is None else _RESULTS[case.kind].validate_python(case.result)
    return Case(
        _card(case),
        school_of(request).get_learner(case.learner_id),
        title,
        told,
        [Mark(**one) for one in case.work] if case.kind == "mistake" else [],
        [_shown(case, one) for one in looks],
        [_shown(case, one) for one in result.own] if isinstance(result, FaultGrade) else [],
        sum(one.minutes for one in looks),
        EVENING_MIN,
        subjects,
        situations,
        result if case.kind == "mistake" else None,
        result if case.kind == "fault" else None,
        result if case.kind == "letter" else None,
    )


def _van_of(case: MistakeCase) -> dict[str, Any]:
    """The document a learner walks: named so that it is found, as it was fitted."""
    return plan_document(parse_plan(case.document))


@router.post("/learners/{learner_id}/cases", operation_id="beginCase")
def begin_case(request: Request, learner_id: LearnerId, new: NewCase) -> Case:
    """Begin a case. A van that is walked or planned is a plan of its own, apart from the shelf."""
    school, store = school_of(request), store_of(request)
    learner = school.get_learner(learner_id)
    plan_id, put_in = None, None
    if new.kind == "mistake":
        made = mistake_case(new.seed, new.level)
        put_in = mistakes_kept(made)
        plan_id = store.create(_van_of(made), f"Case {new.seed}, level {new.level}").plan_id
    elif new.kind == "letter":
        wanted = letter(new.seed, new.level, learner.practice)
        plan_id = store.create(plan_document(parse_plan(start_of(wanted))), f"Letter {new.seed}").plan_id
    else:
        put_in = fault_kept(fault_case(new.seed, new.level))
    case = school.insert_case(
        learner_id, new.kind, seed=new.seed, level=new.level, practice=learner.practice, plan_id=plan_id,
        put_in=put_in,
    )  # fmt: skip
    request.app.state.unjudged = school.list_open_plans()
    return case_out(request, case)


@router.get("/cases/{case_id}", operation_id="getCase")
def get_case(request: Request, case_id: str) -> Case:
    """A case."""
    return case_out(request, school_of(request).get_case(case_id))


@dataclass(slots=True)
class CodeChoice:
    """A code of the checks that can be marked."""

    code: str
    title: str


@router.get("/codes", operation_id="listCodes")
def list_codes() -> list[CodeChoice]:
    """Everything that can be wrong, by its title."""
    return sorted((CodeChoice(one.code, one.title) for one in CODES.values()), key=lambda one: one.title)


def _open_case(request: Request, case_id: str, kind: CaseKind) -> StoredCase:
    case = school_of(request).get_case(case_id)
    if case.kind != kind:
        raise EditRefused(f"not a case of that kind: {case.kind}", field="case_id", value=case_id, allowed=kind)
    if case.done_at is not None:
        raise EditRefused("the case is handed in", field="case_id", value=case_id, allowed="a case not handed in")
    return case


@router.put("/cases/{case_id}/marks", operation_id="setMarks")
def set_marks(request: Request, case_id: str, wanted: MarksIn) -> Case:
    """Keep what is marked in a van."""
    _open_case(request, case_id, "mistake")
    for one in wanted.marks:
        if one.code not in CODES:
            raise UnknownRow(f"no code {one.code!r}", field="code", value=one.code, allowed="a code of the checks")
    marks = list({(one.subject, one.code): one.model_dump() for one in wanted.marks}.values())
    return case_out(request, school_of(request).update_work(case_id, marks))


@router.get("/cases/{case_id}/offered/{subject}", operation_id="offeredLooks")
def offered_looks(request: Request, case_id: str, subject: str) -> list[NamedThing]:
    """Readings that can be taken at a part or along a run."""
    case = _open_case(request, case_id, "fault")
    frame = frame_of_van(fault_of(case).van)
    topology = frame.sized.topology
    if subject not in topology.parts and subject not in topology.runs:
        raise UnknownRow(f"no part or run {subject!r}", field="subject", value=subject, allowed="a part or run")
    runs, parts = ([subject], []) if subject in topology.runs else ([], [subject])
    fed = topology.feeder_of.get(subject)
    return [NamedThing(one.id, one.label) for one in offered(frame, [*runs, *([fed] if fed else [])], parts)]


@router.post("/cases/{case_id}/looks", operation_id="takeLook")
def take_look(request: Request, case_id: str, wanted: LookIn) -> Case:
    """Take a reading: it costs minutes."""
    case = _open_case(request, case_id, "fault")
    if len(case.work) >= _MOST_LOOKS:
        raise EditRefused("no more readings: hand it in", field="reading", value=wanted.reading, allowed="60 readings")
    looks = [Look(**one) for one in case.work]
    look = take(fault_of(case), looks, wanted.reading, wanted.situation)
    work = [*case.work, dataclasses.asdict(look)]
    return case_out(request, school_of(request).update_work(case_id, work))


@router.get("/cases/{case_id}/causes/{subject}", operation_id="listCauses")
def list_causes(request: Request, case_id: str, subject: str) -> list[NamedThing]:
    """What can be wrong at a part or along a run."""
    case = _open_case(request, case_id, "fault")
    return [NamedThing(one.id, one.text) for one in causes_at(fault_of(case).van, subject)]


@router.post("/cases/{case_id}/hand-in", operation_id="handIn")
def hand_in(request: Request, case_id: str, said: HandIn) -> Case:
    """Hand a case in, once: graded by the core."""
    school = school_of(request)
    case = school.get_case(case_id)
    if case.done_at is None:
        result: Grade | FaultGrade | LetterGrade
        if case.kind == "fault":
            if said.cause is None:
                raise EditRefused("name what it is", field="cause", value=None, allowed="a cause of this van")
            looks = [Look(**one) for one in case.work]
            result = grade_fault(fault_of(case), looks, said.cause)
        else:
            plan = plan_of(request, case.plan_id or "")
            check_effort(plan)
            if case.kind == "mistake":
                graded = grade(mistakes_of(case), [Mark(**one) for one in case.work], plan)
                graded.schools = by_every_set(plan)
                result = graded
            else:
                result = grade_letter(letter(case.seed, case.level, case.practice), plan, prices_of(request))
        dumped = _RESULTS[case.kind].dump_python(result, mode="json")
        case = school.update_result(case_id, result.points, dumped)
        request.app.state.unjudged = school.list_open_plans()
    return case_out(request, case)


def _lines(stand: Standing) -> tuple[list[SkillLine], list[CaseLine]]:
    skills_done = [SkillLine(one.title, one.level, one.answers, one.rights) for one in stand.skills]
    cases = [
        CaseLine(one.kind, one.seed, one.level, one.points, (one.done_at or one.made_at)[:10]) for one in stand.cases
    ]
    return skills_done, cases


def _pdf(body: bytes, name: str) -> Response:
    return Response(body, media_type="application/pdf", headers={"content-disposition": f'inline; filename="{name}"'})


@router.get("/learners/{learner_id}/sheet.pdf", operation_id="teachersSheet", response_class=Response)
def teachers_sheet(request: Request, learner_id: LearnerId, paper: PaperSize = "a4") -> Response:
    """What a teacher wants to know."""
    stand = standing_of(request, learner_id)
    done, cases = _lines(stand)
    slips = [(one.mistake, one.times) for one in stand.slips]
    label, date = load_sets()[stand.learner.practice].label, school_of(request).now().date().isoformat()
    return _pdf(teachers_sheet_pdf(stand.learner.name, label, done, slips, cases, date, paper), "teachers-sheet.pdf")


@router.get("/learners/{learner_id}/certificate.pdf", operation_id="certificate", response_class=Response)
def certificate(request: Request, learner_id: LearnerId, paper: PaperSize = "a4") -> Response:
    """What was done, and nothing else."""
    stand = standing_of(request, learner_id)
    done, cases = _lines(stand)
    label, date = load_sets()[stand.learner.practice].label, school_of(request).now().date().isoformat()
    return _pdf(certificate_pdf(stand.learner.name, label, done, cases, date, paper), "certificate.pdf")
