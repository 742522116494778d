"""The log, and what is packed for a maintainer: enough to look into a fault, nobody's name."""

import json
import logging
import signal
import socket
import subprocess
import sys
import time
import zipfile

import httpx
import pytest
from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.services.workshop import Workshop
from iron_gulp.storage.log import LIMIT_BYTES, OLDER, log_to, logs_in
from tests.draws import LONG


@pytest.fixture
def logged(tmp_path):
    """A data folder with the demo builds, logged to; the loggers are put back afterwards."""
    root, handlers, level = logging.getLogger(), logging.getLogger().handlers[:], logging.getLogger().level
    workshop = Workshop(tmp_path / "iron_gulp.sqlite3")
    workshop.garage.load_demo()
    workshop.close()
    yield tmp_path, log_to(tmp_path)
    for handler in root.handlers:
        handler.close()
    root.handlers[:] = handlers
    root.setLevel(level)


def packed(data):
    file = data / "pack.zip"
    told = CliRunner().invoke(app, ["pack", str(file), "--data", str(data)])
    assert told.exit_code == 0, told.output
    with zipfile.ZipFile(file) as archive:
        return {name: archive.read(name).decode() for name in archive.namelist()}


def test_the_pack_tells_versions_and_state_and_no_names(logged):
    data, log = logged
    log.info("version said at the start")
    log.warning("Curlew for Salt-flat team, invented, failed: Later, the staged pump")
    found = packed(data)
    about = json.loads(found["about.json"])
    assert about["database"]["whole"]
    assert about["database"]["rows"]["build"] == 4
    assert "sqlalchemy" in {name.lower() for name in about["packages"]}
    assert "version said at the start" in found["iron_gulp.log"]
    everything = "".join(found.values())
    for name in ("Curlew", "Saltern", "Salt-flat team"):
        assert name not in everything
    assert "[name]" in found["iron_gulp.log"]


def test_a_damaged_database_is_packed_as_such(logged):
    data, _ = logged
    (data / "iron_gulp.sqlite3").write_bytes(b"no database" * 1000)
    state = json.loads(packed(data)["about.json"])["database"]
    assert not state["whole"]
    assert str(data) not in state["found"]


def test_the_log_cannot_outgrow_its_limit(logged):
    data, log = logged
    for _ in range(6 * LIMIT_BYTES // 100_000):
        log.info("x" * 100_000)
    files = logs_in(data)
    assert len(files) == OLDER + 1
    assert sum(one.stat().st_size for one in files) <= (OLDER + 1) * LIMIT_BYTES


def test_nothing_is_packed_where_nothing_can_be_written(tmp_path):
    told = CliRunner().invoke(app, ["pack", str(tmp_path / "nowhere" / "pack.zip"), "--data", str(tmp_path)])
    assert told.exit_code == 2
    assert "nothing was packed" in told.stderr


@pytest.mark.parametrize("ending", [signal.SIGTERM, signal.SIGINT] if LONG else [signal.SIGTERM])
def test_a_server_told_to_stop_leaves_a_whole_file_and_says_so(tmp_path, ending):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "iron_gulp.cli", "demo", "--data", str(tmp_path), "--port", str(port)]
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as server:
        with httpx.Client() as client:
            for _ in range(300):
                try:
                    assert client.get(f"http://127.0.0.1:{port}/").status_code == 200
                    break
                except httpx.TransportError:
                    time.sleep(0.1)
        server.send_signal(ending)
        server.wait(20)
    assert not (tmp_path / "iron_gulp.sqlite3-wal").exists()
    lines = (tmp_path / "iron_gulp.log").read_text().splitlines()
    assert "serves on" in lines[0]
    assert lines[-1].endswith("stopped")
