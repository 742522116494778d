"""The real application in a process of its own, and how Chromium is started; shared by tests and screenshots."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request

HEADLESS, WHOLE = "/usr/bin/chromium-headless-shell", "/usr/bin/chromium"  # the first starts and draws faster
CHROMIUM = os.environ.get("IRON_GULP_CHROMIUM", HEADLESS if os.path.exists(HEADLESS) else WHOLE)
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class Server:
    """The application on a free loopback port; can be killed and started again on the same data."""

    def __init__(self, data):
        self.data = data
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process = None

    def start(self):
        command = [sys.executable, "-m", "iron_gulp.cli", "demo", "--data", str(self.data), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        for _ in range(240):
            try:
                urllib.request.urlopen(self.url, timeout=2).close()
                return self
            except OSError:
                time.sleep(0.25)
        raise RuntimeError("the server did not start")

    def kill(self):
        if self.process is not None:
            os.kill(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None
