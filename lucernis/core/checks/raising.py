"""How a check raises a finding: the code gives severity and reason, the check gives figures and the mend."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field

from lucernis.core.checks.codes import CODES
from lucernis.core.faults.study import FaultStudy
from lucernis.core.report import Finding, Fix, Severity, SubjectKind
from lucernis.core.sizing.choice import Sized
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
    _of_code: dict[str, set[str]] = field(default_factory=dict)
    _lost: dict[str, dict[str, tuple[float, float, float]]] = field(default_factory=dict)

    def lost(self, state_id: str) -> dict[str, tuple[float, float, float]]:
        """Volts lost in conductors, joints and fuses to every point in a state, inverters at their rating. [V]"""
        if state_id not in self._lost:
            self._lost[state_id] = self.sized.parts_lost_v(self.sized.rated[state_id])
        return self._lost[state_id]

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
        asked: str = "",
        severity: Severity | None = None,
        figures: Mapping[str, float] | None = None,
        **more: float,
    ) -> None:
        """Note a finding once for each code and subject; `asked` is what a person asked that cannot be met."""
        if (code, subject) in self._seen:
            return
        self._seen.add((code, subject))
        self._of_code.setdefault(code, set()).add(subject)
        known = CODES[code]
        self.findings.append(
            Finding(
                id=f"{code}:{subject}",
                code=code,
                severity=severity or known.severity,
                subject=subject,
                subject_kind=kind,
                tag=tag,
                what=what,
                why=known.why,
                mend=mend,
                figures={**(figures or {}), **more},
                waived=self._waived.get((code, subject)),
                fixes=list(fixes),
                asked=asked,
                consequences=[],
            )
        )

    def on_run(
        self,
        code: str,
        run: Run,
        *,
        what: str,
        mend: str,
        fixes: Sequence[Fix] = (),
        asked: str = "",
        severity: Severity | None = None,
        figures: Mapping[str, float] | None = None,
        **more: float,
    ) -> None:
        """Note a finding on a run."""
        self.raise_(
            code, run.id, "run", run.tag,
            what=what, mend=mend, fixes=fixes, asked=asked, severity=severity, figures=figures, **more,
        )  # fmt: skip

    def on_part(
        self,
        code: str,
        part: Part,
        *,
        what: str,
        mend: str,
        fixes: Sequence[Fix] = (),
        asked: str = "",
        severity: Severity | None = None,
        figures: Mapping[str, float] | None = None,
        **more: float,
    ) -> None:
        """Note a finding on a part."""
        self.raise_(
            code, part.id, "part", part.tag,
            what=what, mend=mend, fixes=fixes, asked=asked, severity=severity, figures=figures, **more,
        )  # fmt: skip

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

    def subjects_of(self, code: str) -> set[str]:
        """What a code was raised on."""
        return self._of_code.get(code, set())

    def has(self, subject: str, codes: Set[str]) -> bool:
        """Whether one of some codes was raised on a subject."""
        return any((code, subject) in self._seen for code in codes)
