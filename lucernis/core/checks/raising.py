"""How a check raises a finding: the code gives severity and reason, the check gives figures and the mend."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from lucernis.core.checks.codes import CODES
from lucernis.core.faults.study import FaultStudy
from lucernis.core.report import SEVERITY_ORDER, Finding, Fix, SubjectKind
from lucernis.core.sizing.search import Sized
from lucernis.plan.model import Part, Plan, Run
from lucernis.practice.rules import Rules


@dataclass(slots=True)
class Raised:
    """Findings as they are raised, with what the checks look at."""

    plan: Plan
    rules: Rules
    sized: Sized
    faults: FaultStudy
    findings: list[Finding] = field(default_factory=list)
    _waived: dict[tuple[str, str], str] = field(default_factory=dict)
    _seen: set[tuple[str, str]] = field(default_factory=set)

    def __post_init__(self) -> None:
        self._waived = {(waiver.code, waiver.subject): waiver.reason for waiver in self.plan.waivers}

    def raise_(
        self,
        code: str,
        subject: str,
        kind: SubjectKind,
        tag: str,
        *,
        what: str,
        mend: str,
        fixes: Sequence[Fix] = (),
        **figures: float,
    ) -> None:
        """Note a finding once for each code and subject."""
        if (code, subject) in self._seen:
            return
        self._seen.add((code, subject))
        known = CODES[code]
        self.findings.append(
            Finding(
                id=f"{code}:{subject}",
                code=code,
                severity=known.severity,
                subject=subject,
                subject_kind=kind,
                tag=tag,
                what=what,
                why=known.why,
                mend=mend,
                figures=figures,
                waived=self._waived.get((code, subject)),
                fixes=list(fixes),
            )
        )

    def on_run(self, code: str, run: Run, *, what: str, mend: str, fixes: Sequence[Fix] = (), **figures: float) -> None:
        """Note a finding on a run."""
        self.raise_(code, run.id, "run", run.tag, what=what, mend=mend, fixes=fixes, **figures)

    def on_part(
        self, code: str, part: Part, *, what: str, mend: str, fixes: Sequence[Fix] = (), **figures: float
    ) -> None:
        """Note a finding on a part."""
        self.raise_(code, part.id, "part", part.tag, what=what, mend=mend, fixes=fixes, **figures)

    def check_waivers(self) -> None:
        """Raise waivers that meet no finding."""
        for code, subject in [key for key in self._waived if key not in self._seen]:
            self.raise_(
                "waiver-idle",
                subject,
                "plan",
                "",
                what=f"{code} is waived on {subject}, but does not arise",
                mend="Take the waiver back.",
            )

    def worst_first(self) -> list[Finding]:
        """Open before waived, grave before light, then in the order of the plan."""
        return sorted(self.findings, key=lambda one: (one.waived is not None, SEVERITY_ORDER[one.severity]))
