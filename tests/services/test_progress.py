"""How far a sizing has come, in words."""

from types import SimpleNamespace

from iron_gulp.core.model import Rates
from iron_gulp.services.progress import Progress


def test_what_is_judged_counts_once_and_the_best_so_far_is_told():
    watched, rates = Progress(), Rates()
    assert watched.in_words(rates) == ""
    first, second = (SimpleNamespace(tried=0, best=None) for _ in range(2))
    for tried in (400, 1200):
        first.tried = tried
        watched.saw(first)
    second.tried = 34
    watched.saw(second)
    assert watched.tried == 1234
    assert watched.in_words(rates) == "1\u202f234 judged"
    second.best = SimpleNamespace(bill=SimpleNamespace(total=3252.4), headroom=0.256)
    watched.saw(second)
    assert watched.in_words(rates) == "1\u202f234 judged, best so far 3\u202f250\u00a0€ with 26\u00a0% left"
    watched.saw(SimpleNamespace(tried=1, best=None))
    assert watched.best is second.best
    assert not watched.stop()
