"""Findings put right from the shelf: searched in the background when someone asks, fitted with one click."""

import time
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

from iron_gulp.core.advise import Finding
from iron_gulp.core.plan import Cure, Leave, Locks, Search, curable, cures, leaves_of, locks_for

from .edits import Edits, Outcome
from .judging import Bench, Judging
from .sizing import Sizing

__all__ = ["Cures", "Searched"]
ENDS_WITHIN_S = 5.0
KEPT = 64
Key = tuple[int, int, str, str]


@dataclass
class Searched:
    """A search for what cures a finding: which, what it has found so far (cheapest first when done), whether it runs."""

    code: str
    found: list[Cure] = field(default_factory=list)
    running: bool = True
    failed: str = ""
    started: float = field(default_factory=time.monotonic)

    @property
    def seconds(self) -> float:
        """How long it has run."""
        return time.monotonic() - self.started


class Cures:
    """Searches by build, revision, option and finding; one works at a time."""

    def __init__(self, judging: Judging, edits: Edits, sizing: Sizing):
        self._judging, self._edits, self._sizing = judging, edits, sizing
        self._searches: dict[Key, tuple[Searched, Thread]] = {}
        self._closing, self._turn, self._asking = Event(), Lock(), Lock()

    def of(self, bench: Bench, code: str) -> Searched:
        """What cures a finding of the option on the bench: begun when first asked for. Raises LookupError for a finding
        that is not there or that no part of the shelf is about."""
        finding = next((one for one in bench.judged.findings if one.code == code), None)
        if finding is None or not curable(finding, bench.option):
            raise LookupError("no part of the shelf answers for this finding")
        key = (bench.stored.id, bench.stored.number, bench.option.id, code)
        with self._asking:  # two who ask at once share one search
            known = self._searches.get(key)
            if known is not None:
                return known[0]
            while len(self._searches) >= KEPT:
                self._searches.pop(next(iter(self._searches)))
            searched = Searched(code)
            thread = Thread(target=self._run, args=(searched, bench, finding), name="cure search", daemon=True)
            self._searches[key] = (searched, thread)
            thread.start()
        return searched

    def wait(self) -> None:
        """Until every search is done."""
        for _, thread in list(self._searches.values()):
            thread.join()

    def close(self) -> None:
        """End what is under way."""
        self._closing.set()
        for _, thread in list(self._searches.values()):
            thread.join(ENDS_WITHIN_S)

    def take(self, build_id: int, base: int, option_id: str, code: str, index: int) -> Outcome:
        """Fit cure `index` of a finding, as found on revision `base`. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id)
        known = self._searches.get((build_id, base, option_id, code))
        if known is None or known[0].running or index >= len(known[0].found):
            return Outcome(False, "", "", "this remedy no longer applies; open it again")
        option = known[0].found[index].design.option
        options = [option if one.id == option.id else one for one in bench.build.options]
        data = [one.model_dump(mode="json", by_alias=True) for one in options]
        title = next((one.title for one in bench.judged.findings if one.code == code), code)
        return self._edits.make(build_id, base, [("options", data)], f"remedy from the shelf: {title}")

    def _run(self, searched: Searched, bench: Bench, finding: Finding) -> None:
        build, option = bench.build, bench.option
        troubles = [one for one in bench.judged.findings if one.severity != "note"]
        leaves = leaves_of(build, finding, troubles, bench.judged.verdicts, locks_for(option))

        def search(locks: Locks, leave: Leave) -> Search:
            return self._sizing.search(build, option, locks, option, leave)

        searched.failed = "it broke off; the log says why"
        try:
            with self._turn:
                for one in cures(search, option, finding.code, leaves, self._closing.is_set):
                    searched.found.append(one)
            searched.found.sort(key=lambda one: one.design.score)
            searched.failed = ""
        finally:  # whatever happened, nobody waits for ever
            searched.running = False
