"""No figure of any demo build moved when the core was rebuilt. Values change on purpose only, by taking them anew."""

import pytest

from tests.core.golden.keeping import leaves, lines, moved
from tests.core.golden.taking import DEMOS, bare_demo, snapshot
from tests.draws import EVERY_DEMO


@pytest.mark.parametrize("name", DEMOS if EVERY_DEMO else DEMOS[2:3])
def test_no_figure_moved(name):
    assert moved(f"demo-{name}", snapshot(bare_demo(name))) == []


def test_a_digest_tells_what_moved_and_where(tmp_path, monkeypatch):
    taken = {"loads": [{"component": "pumps", "load": 0.5}], "rail": [300.0, 310.0, 320.0, 330.0, 340.0], "none": []}
    monkeypatch.setattr("tests.core.golden.keeping.FOLDER", tmp_path)
    (tmp_path / "a.txt").write_text("\n".join(lines(taken)))
    assert leaves((tmp_path / "a.txt").read_text())["loads/0/load"] == "0.5"
    assert moved("A", taken | {"new": 3}) == []
    assert moved("A", taken | {"loads": [{"component": "pumps", "load": 0.5 + 1e-9}]}) == []
    assert moved("A", taken | {"loads": [{"component": "pumps", "load": 0.51}]}) == [("loads/0/load", "0.5", "0.51")]
    assert moved("A", taken | {"loads": [{"component": "feed", "load": 0.5}]})[0][0] == "loads/0/component"
    for other in ([300.0, 310.0, 320.0, 330.0, 341.0], [310.0, 300.0, 320.0, 330.0, 340.0], [300.0, 340.0]):
        assert moved("A", taken | {"rail": other})[0][0] == "rail"
    assert moved("A", {"rail": taken["rail"]})[0][2] == "(nothing)"
