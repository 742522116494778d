"""Judging stored builds again in the background when the physics that judged them is another than today's."""

import logging

from iron_gulp.storage import NotFound, Unreadable

from .jobs import Jobs, Task
from .judging import Judging

KEY = "judging stored builds again"
log = logging.getLogger("iron_gulp.rejudging")


class Rejudging:
    """Works through what is outdated, newest first, and then ends; it can be stopped between builds."""

    def __init__(self, judging: Judging, jobs: Jobs):
        self._judging, self._jobs = judging, jobs

    def start(self) -> None:
        """Begin, if there is anything to do."""
        if self._judging.outdated():
            self._jobs.ask("upkeep", KEY, self._run)

    def wait(self) -> None:
        """Until everything is judged."""
        self._jobs.wait(KEY)

    def _run(self, task: Task) -> None:
        for build_id in self._judging.outdated():
            if task.stop.is_set():
                return
            try:
                self._judging.judge_anew(build_id)
            except NotFound:
                continue  # removed meanwhile
            except Unreadable as error:
                log.warning("build %s stays as it was judged: %s", build_id, error)
