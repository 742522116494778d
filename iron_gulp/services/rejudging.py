"""Judging stored builds again in the background when the physics that judged them is another than today's."""

import threading

from iron_gulp.storage import NotFound

from .judging import Judging


class Rejudging:
    """One thread that works through what is outdated, newest first, and then ends; it can be stopped between builds."""

    def __init__(self, judging: Judging):
        self._judging = judging
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="judging stored builds again", daemon=True)

    def start(self) -> None:
        """Begin, if there is anything to do."""
        if self._judging.outdated():
            self._thread.start()

    def stop(self) -> None:
        """End after the build at hand."""
        self._stop.set()
        self.wait()

    def wait(self) -> None:
        """Until everything is judged."""
        if self._thread.is_alive():
            self._thread.join()

    def _run(self) -> None:
        for build_id in self._judging.outdated():
            if self._stop.is_set():
                return
            try:
                self._judging.judge_anew(build_id)
            except NotFound:
                continue  # removed meanwhile
