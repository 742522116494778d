"""The real server in a process of its own, and what it and its children take of memory at their peak."""

import re
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import httpx


class Running:
    """A server on a free loopback port, told by itself once it is bound."""

    def __init__(self, data, *, demo=True, **environment):
        command = [sys.executable, "-m", "iron_gulp.cli", "demo" if demo else "serve", "--data", str(data), "--port", "0"]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        self.data, self.url, self.most_kb, self.together_kb = Path(data), "", 0, 0
        for line in self.process.stdout:
            found = re.search(r"http://\S+?(?=/ )", line)
            if found:
                self.url = found.group(0)
                break
        self._watching = True
        self._watch = threading.Thread(target=self._look, daemon=True)
        self._watch.start()

    def client(self, **told):
        return httpx.Client(base_url=self.url, timeout=60.0, **told)

    def _look(self):
        while self._watching and self.process.poll() is None:
            own = peak(self.process.pid)
            self.most_kb = max(self.most_kb, own)
            self.together_kb = max(self.together_kb, own + sum(peak(child) for child in children(self.process.pid)))
            time.sleep(0.02)

    def end(self, sign=signal.SIGTERM, within_s=30.0):
        """End it by a signal; gives the exit code."""
        self.process.send_signal(sign)
        try:
            return self.process.wait(within_s)
        finally:
            self._watching = False
            self.process.kill()
            self.process.stdout.close()
            self.process.stderr.close()


def peak(pid):
    """The most memory a process has taken so far, kB; 0 for one that is gone."""
    try:
        text = Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return 0
    found = re.search(r"VmHWM:\s+(\d+)", text)
    return int(found.group(1)) if found else 0


def children(pid):
    """Every process below one."""
    try:
        found = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
    except OSError:
        return []
    every = [int(one) for task in Path(f"/proc/{pid}/task").glob("*/children") for one in _read(task).split()]
    every = sorted({*every, *(int(one) for one in found)})
    return [*every, *(below for one in every for below in children(one))]


def _read(path):
    try:
        return path.read_text()
    except OSError:
        return ""
