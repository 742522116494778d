"""The same search on a cluster: joblib's backend is another, the front is the same."""

import joblib
import pytest

from iron_gulp.core.model import Rates
from iron_gulp.core.plan.design import Search
from tests.core.test_design import MODEST, modest
from tests.draws import LONG

distributed = pytest.importorskip("distributed") if LONG else None  # takes a second to import


@pytest.mark.skipif(not LONG, reason="starts a cluster of two workers")
@pytest.mark.filterwarnings("ignore")
def test_two_workers_of_a_local_cluster_find_the_same_front():
    build = modest()
    alone = Search(build, build.options[0], MODEST, Rates())
    for _ in alone.run():
        pass
    with (
        distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as cluster,
        distributed.Client(cluster) as _client,
        joblib.parallel_config(backend="dask"),
    ):
        spread = Search(build, build.options[0], MODEST, Rates())
        for _ in spread.run(workers=2):
            pass
    assert spread.found.tried == alone.found.tried
    assert sorted(one.score for one in spread.found.front) == sorted(one.score for one in alone.found.front)
