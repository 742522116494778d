"""What leaves the bench: the build file, the solution as data, the parts list."""

import re
from typing import Any

from iron_gulp.core.account import Item, parts_list, report
from iron_gulp.storage import BuildRepository

from .judging import Bench, parsed, verdicts_of


class Documents:
    """Files and data of builds."""

    def __init__(self, builds: BuildRepository):
        self._builds = builds

    def export(self, build_id: int) -> tuple[str, str]:
        """A build's file name and build-file text. Raises NotFound."""
        body = self._builds.current(build_id).body
        stem = re.sub(r"[^a-z0-9]+", "-", parsed(body).name.lower()).strip("-") or "build"
        return f"{stem}.irongulp.json", body

    def solution(self, build_id: int, option_id: str | None, target_id: str | None) -> dict[str, Any]:
        """The complete solution as data. Raises NotFound, KeyError for an unknown option or target."""
        body = self._builds.current(build_id).body
        build = parsed(body)
        wanted = build.target(target_id).id
        verdicts = verdicts_of(body, build.option(option_id).id)
        return report(build, next(verdict for verdict in verdicts if verdict.target.id == wanted))

    @staticmethod
    def parts_list(bench: Bench) -> list[Item]:
        """Every part of the option on the bench."""
        return parts_list(bench.build, bench.option, bench.judged.verdicts)
