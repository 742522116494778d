"""Findings put right from the shelf: searched in the background when someone asks, fitted with one click."""

from dataclasses import dataclass, field
from threading import Lock

from iron_gulp.core.advise import Finding
from iron_gulp.core.plan import Cure, Leave, Locks, Search, curable, cures, leaves_of, locks_for

from .edits import Edits, Outcome
from .jobs import Jobs, Task, Watched
from .judging import Bench, Judging
from .sizing import Sizing

__all__ = ["Cures", "Searched"]
KEPT = 64
Key = tuple[str, int, int, str, str]


@dataclass
class Searched(Watched):
    """A search for what cures a finding: which, and what it has found so far (cheapest first when done)."""

    code: str
    found: list[Cure] = field(default_factory=list)


class Cures:
    """Searches by build, revision, option and finding; one works at a time."""

    def __init__(self, judging: Judging, edits: Edits, sizing: Sizing, jobs: Jobs):
        self._judging, self._edits, self._sizing, self._jobs = judging, edits, sizing, jobs
        self._searched: dict[Key, Searched] = {}
        self._asking = Lock()

    def of(self, bench: Bench, code: str) -> Searched | None:
        """What has been found to cure a finding of the option on the bench; None where nobody has asked for it.

        Raises LookupError for a finding that is not there or that no part of the shelf is about.
        """
        self._finding(bench, code)
        return self._searched.get(_key(bench, code))

    def start(self, bench: Bench, code: str) -> Searched:
        """Begin to search for what cures a finding; what is under way or whole stays. Raises LookupError, Busy."""
        finding, key = self._finding(bench, code), _key(bench, code)
        with self._asking:  # two who ask at once share one search
            known = self._searched.get(key)
            if known is not None and not (known.broke_off or known.stopped):
                return known
            searched = Searched(code)
            searched.task = self._jobs.ask("cures", key, lambda task: self._run(searched, bench, finding, task))
            self._searched[key] = searched
            while len(self._searched) > KEPT:
                self._searched.pop(next(iter(self._searched)))
        return searched

    def stop(self, bench: Bench, code: str) -> None:
        """End a search; what it has found stays."""
        self._jobs.stop(_key(bench, code))

    @staticmethod
    def _finding(bench: Bench, code: str) -> Finding:
        finding = next((one for one in bench.judged.findings if one.code == code), None)
        if finding is None or not curable(finding, bench.option):
            raise LookupError("no part of the shelf answers for this finding")
        return finding

    def wait(self) -> None:
        """Until every search is done."""
        for key in list(self._searched):
            self._jobs.wait(key)

    def take(self, build_id: int, base: int, option_id: str, code: str, index: int) -> Outcome:
        """Fit cure `index` of a finding, as found on revision `base`. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id)
        known = self._searched.get(("cure", build_id, base, option_id, code))
        if known is None or known.running or index >= len(known.found):
            return Outcome(False, "", "", "this remedy no longer applies; open it again")
        option = known.found[index].design.option
        options = [option if one.id == option.id else one for one in bench.build.options]
        data = [one.model_dump(mode="json", by_alias=True) for one in options]
        title = next((one.title for one in bench.judged.findings if one.code == code), code)
        return self._edits.make(build_id, base, [("options", data)], f"remedy from the shelf: {title}")

    def _run(self, searched: Searched, bench: Bench, finding: Finding, task: Task) -> None:
        build, option = bench.build, bench.option
        troubles = [one for one in bench.judged.findings if one.severity != "note"]
        leaves = leaves_of(build, finding, troubles, bench.judged.verdicts, locks_for(option))

        def search(locks: Locks, leave: Leave) -> Search:
            return self._sizing.search(build, option, locks, option, leave)

        for one in cures(search, option, finding.code, leaves, task.stop.is_set):
            searched.found.append(one)
        searched.found.sort(key=lambda one: one.design.score)


def _key(bench: Bench, code: str) -> Key:
    return "cure", bench.stored.id, bench.stored.number, bench.option.id, code
