"""The example of docs/using-the-core.md runs as printed."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


def test_the_example_runs_as_printed(monkeypatch, capsys):
    monkeypatch.chdir(ROOT)
    (code,) = re.findall(r"```python\n(.*?)```", (ROOT / "docs/using-the-core.md").read_text(encoding="utf-8"), re.DOTALL)
    known = {}
    exec(compile(code, "using-the-core.md", "exec"), known)
    printed = capsys.readouterr().out.splitlines()
    assert printed[0].startswith(known["verdicts"][0].target.name)
    assert len(known["many"]) == 1000
    # The longest feed loses most: 1 m and 999 hundredths.
    assert float(printed[-1]) == pytest.approx(10.99)
