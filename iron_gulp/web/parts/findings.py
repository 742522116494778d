"""Findings of a page. Remedies are tried on the model, so they come when someone looks at their finding."""

from functools import cached_property

from iron_gulp.core.advise import Finding, Plan
from iron_gulp.core.plan import curable
from iron_gulp.units import show_text

from .context import Context
from .stations import ASK_STATIONS, FINDINGS_OF
from .views import FindingView, PlanView, RemedyView

SEVERITY_WORDS = {"stop": "Stop", "warn": "Check", "note": "Note"}


class Findings(Context):
    """Makes what the findings list and a finding's remedies show."""

    @property
    def bench_station(self) -> str:
        """The station whose findings belong to this page."""
        return FINDINGS_OF.get(self.page, self.page)

    @property
    def findings_here(self) -> list[FindingView]:
        """Findings of the station on the bench; all of them on the Ask page."""
        return [view for view in self._shown if self.page == "ask" or view.station == self.bench_station]

    @property
    def findings_elsewhere(self) -> list[FindingView]:
        """Findings of the other stations, without what follows from another."""
        return [
            view for view in self._shown if self.page != "ask" and view.station != self.bench_station and not view.follows
        ]

    @property
    def trouble_words(self) -> str:
        """How many stops and checks there are, in words; "" without any."""
        grades = [finding.severity for finding in self.bench.judged.findings]
        told = [
            f"{count} {word}{'s' if count > 1 else ''}"
            for word, count in (("stop", grades.count("stop")), ("check", grades.count("warn")))
            if count
        ]
        return " and ".join(told)

    @cached_property
    def _shown(self) -> list[FindingView]:
        return [self._finding(number, finding) for number, finding in enumerate(self.bench.judged.findings)]

    def _finding(self, number: int, finding: Finding) -> FindingView:
        here = finding.station == self.bench_station or (self.page == "ask" and finding.station in ASK_STATIONS)
        return FindingView(
            number,
            finding.code,
            finding.severity,
            SEVERITY_WORDS[finding.severity],
            finding.station,
            finding.title,
            show_text(finding.text, finding.values, self.units),
            finding.why,
            finding.targets,
            next((one.title for one in self.bench.judged.findings if one.code == finding.root), ""),
            here,
        )

    @property
    def troubled(self) -> bool:
        """Whether the option has stops or checks."""
        return any(finding.severity != "note" for finding in self.bench.judged.findings)

    def plan(self, plan: Plan) -> PlanView:
        """What would put everything right, and what is left to decide or to do on the car."""
        steps = tuple(
            (step.finding.title, show_text(step.remedy.label, step.remedy.values, self.units)) for step in plan.steps
        )
        return PlanView(steps, tuple(finding.title for finding in plan.left))

    def shelved(self, number: int) -> str:
        """The code of a finding that parts of the shelf are about; "" for any other."""
        finding = self.bench.judged.findings[number]
        return finding.code if curable(finding, self.option) else ""

    def unremedied(self, number: int) -> str:
        """What stands where a finding has no remedy: a note needs none."""
        note = self.bench.judged.findings[number].severity == "note"
        return "Nothing needs to be changed." if note else "Nothing that the model could try."

    def remedies(self, number: int) -> list[RemedyView]:
        """What to do about a finding. Raises IndexError when there is none of this number."""
        finding = self.bench.judged.findings[number]
        return [
            RemedyView(
                index, show_text(remedy.label, remedy.values, self.units), bool(remedy.edits), number, finding.code
            )
            for index, remedy in enumerate(finding.remedies)
        ]
