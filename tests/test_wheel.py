"""A built wheel is whole: installed without its dependencies into an empty folder it serves the demo."""

import os
import shutil
import socket
import subprocess
import sys
import time
from pathlib import Path

import httpx
import pytest

from tests.draws import LONG

ROOT = Path(__file__).parents[1]


def run(*command, **more):
    subprocess.run([str(part) for part in command], check=True, capture_output=True, **more)


@pytest.fixture(scope="module")
def wheel(tmp_path_factory):
    """Built from a copy, so that nothing left from an earlier build gets in."""
    source = tmp_path_factory.mktemp("source") / "whole"
    source.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source)
    shutil.copytree(ROOT / "iron_gulp", source / "iron_gulp", ignore=shutil.ignore_patterns("__pycache__"))
    built = tmp_path_factory.mktemp("built")
    # By the backend itself, as any front end would ask it.
    run(sys.executable, "-c", f"from setuptools.build_meta import build_wheel; build_wheel({str(built)!r})", cwd=source)
    (found,) = built.glob("*.whl")
    return found


def served(python, folder, data, cwd):
    """The demo's garage page, served by what is installed; None for what comes with the interpreter."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    env = os.environ | ({"PYTHONPATH": str(folder)} if folder else {})
    command = [str(python), "-m", "iron_gulp.cli", "demo", "--data", str(data), "--port", str(port)]
    server = subprocess.Popen(command, cwd=cwd, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=10) as client:
            for _ in range(1200):
                try:
                    return client.get("/builds/3/pump"), client.get("/static/css/bench.css")
                except httpx.TransportError:
                    assert server.poll() is None
                    time.sleep(0.1)
        raise AssertionError("it never answered")
    finally:
        server.terminate()
        server.wait(10)


def test_the_wheel_alone_serves_the_demo(wheel, tmp_path):
    folder = tmp_path / "installed"
    run(sys.executable, "-m", "pip", "install", "--no-deps", "--no-compile", "-q", "--target", folder, wheel)
    assert (folder / "iron_gulp/core/solve/__init__.py").exists()
    page, style = served(sys.executable, folder, tmp_path / "data", tmp_path)
    assert page.status_code == style.status_code == 200
    assert "Curlew" in page.text


@pytest.mark.skipif(not LONG, reason="installs every dependency; in the long run")
def test_the_full_installation_serves_the_demo(wheel, tmp_path):
    run(sys.executable, "-m", "venv", tmp_path / "own")
    python = tmp_path / "own/bin/python"
    run(python, "-m", "pip", "install", "-q", "-r", ROOT / "requirements.lock")
    run(python, "-m", "pip", "install", "-q", "--no-deps", wheel)
    page, style = served(python, None, tmp_path / "data", tmp_path)
    assert page.status_code == style.status_code == 200
