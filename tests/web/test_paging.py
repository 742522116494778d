"""Long lists by the page."""

import pytest

from iron_gulp.units import BenchUnits
from iron_gulp.web.parts.paging import page_numbers
from tests.web.parsing import parsed


@pytest.mark.parametrize(
    ("total", "at", "numbers"),
    [
        (0, 1, []),
        (50, 1, []),
        (51, 1, [1, 2]),
        (250, 3, [1, 2, 3, 4, 5]),
        (5000, 1, [1, 2, 3, None, 100]),
        (5000, 50, [1, None, 48, 49, 50, 51, 52, None, 100]),
        (5000, 100, [1, None, 98, 99, 100]),
        (5000, 4000, [1, None, 100]),
    ],
)
def test_pages_offered(total, at, numbers):
    assert page_numbers(total, at) == numbers


def test_revisions_come_by_the_page_with_and_without_scripts(client, workshop, curlew):
    for number in range(1, 61):
        assert workshop.edits.edit(curlew, number, "notes", f"turn {number}", BenchUnits()).ok
    page = parsed(client.get(f"/builds/{curlew}/keep").text)
    assert len(page.select("#revisions tbody tr")) == 50
    older = page.select("#revisions .pager a")[1]
    piece = parsed(client.get(older["hx-get"], headers={"hx-target": "revisions"}).text)
    assert [row.td.text for row in piece.select("tbody tr")] == [str(number) for number in range(11, 0, -1)]
    assert piece.select_one("#revisions") is not None
    assert not piece.select("h2")
    whole = parsed(client.get(older["href"]).text)
    assert len(whole.select("#revisions tbody tr")) == 11
    assert whole.select_one("h2") is not None
