"""The runner of long work: a job a question, one at a time in a lane, a bounded queue, stopped at will."""

import gc
import threading
import weakref
from threading import Event

import pytest

from iron_gulp.services.jobs import MOST_WAITING, Busy, Jobs, State
from iron_gulp.services.latest import Latest
from tests.draws import LONG


def held(gate):
    return lambda task: gate.wait(20) and None


def test_the_same_question_is_one_job_and_another_waits_its_turn():
    jobs, gate, order = Jobs(), Event(), []
    first = jobs.ask("cures", "a", held(gate))
    assert jobs.ask("cures", "a", held(gate)) is first
    while first.state is not State.RUNNING:
        pass
    second = jobs.ask("cures", "b", lambda task: order.append("b"))
    third = jobs.ask("cures", "c", lambda task: order.append("c"))
    other = jobs.ask("sizing", "b2", lambda task: order.append("sized"))
    assert other.ended.wait(5)  # a lane of its own
    assert [jobs.ahead(one) for one in (second, third)] == [1, 2]
    assert (second.running, order) == (True, ["sized"])
    gate.set()
    assert third.ended.wait(5)
    assert order == ["sized", "b", "c"]
    assert jobs.ask("cures", "a", held(gate)) is not first


def test_only_what_had_not_ended_by_itself_was_stopped():
    jobs = Jobs()
    done = jobs.ask("cures", "done", lambda task: None)
    assert done.ended.wait(5)
    jobs.stop("done")
    works, waits = (jobs.ask("cures", key, lambda task: task.stop.wait(20) and None) for key in ("works", "waits"))
    for key in ("waits", "works"):
        jobs.stop(key)
    broke = jobs.ask("cures", "broke", lambda task: 1 / 0)
    assert broke.ended.wait(5)
    assert [one.stopped for one in (done, works, waits, broke)] == [False, True, True, False]
    assert broke.broke_off


def test_twelve_searches_are_one_thread_and_one_more_than_may_wait_is_refused():
    jobs, gate = Jobs(), Event()
    asked = [jobs.ask("searches", "the first", held(gate))]
    while jobs.ahead(asked[0]):
        pass
    asked += [jobs.ask("searches", number, held(gate)) for number in range(MOST_WAITING - 1)]
    asked.append(jobs.ask("searches", "one at work, and so many that wait", held(gate)))
    with pytest.raises(Busy, match="too much is under way"):
        jobs.ask("searches", "one more", held(gate))
    assert [one.name for one in threading.enumerate()].count("jobs: searches") == 1
    gate.set()
    assert all(one.ended.wait(5) for one in asked)


def test_a_job_is_stopped_while_it_waits_and_while_it_works():
    jobs, gate, ran = Jobs(), Event(), []
    works = jobs.ask("searches", "works", lambda task: task.stop.wait(20) and None)
    while works.state is not State.RUNNING:
        pass
    waits = jobs.ask("searches", "waits", lambda task: ran.append("waits"))
    jobs.stop("waits")
    assert (waits.running, works.running) == (False, True)
    again = jobs.ask("searches", "works", held(gate), anew=True)
    assert works.stop.is_set()
    assert works.ended.wait(5)
    gate.set()
    assert again.ended.wait(5)
    assert (ran, works.broke_off, jobs.of("works")) == ([], False, again)


def test_what_breaks_off_says_so_and_the_next_one_comes(caplog):
    jobs = Jobs()
    broken = jobs.ask("cures", "broken", lambda task: 1 / 0)
    assert broken.ended.wait(5)
    assert broken.broke_off
    assert "broke off" in caplog.text
    whole = jobs.ask("cures", "whole", lambda task: None)
    assert whole.ended.wait(5)
    assert not whole.broke_off


def test_closing_ends_everything_and_takes_nothing_more():
    jobs = Jobs()
    asked = [jobs.ask("searches", number, lambda task: task.stop.wait(20) and None) for number in range(4)]
    stubborn = jobs.ask("cures", "deaf", held(Event()))
    while stubborn.state is not State.RUNNING:
        pass
    assert not jobs.close()
    assert stubborn.running
    assert not any(one.running for one in asked)
    with pytest.raises(Busy):
        jobs.ask("searches", "late", lambda task: None)


def test_what_is_kept_by_many_threads_at_once_stays_bounded_and_right():
    kept: Latest[str] = Latest(8)
    wrong = []

    def work(seed):
        for number in range(40_000 if LONG else 4_000):
            key = (number * seed) % 23
            try:
                found = kept.get(key)
                if found is None:
                    found = kept.put(key, f"made {key}")
                if found != f"made {key}" or len(kept) > 8:
                    wrong.append((key, found))
            except (KeyError, RuntimeError) as error:
                wrong.append(error)

    threads = [threading.Thread(target=work, args=(seed,)) for seed in (1, 3, 5, 7, 11, 13)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert wrong == []


def test_what_a_job_worked_on_goes_with_it():
    jobs, large = Jobs(), {"held": "much"}
    told = weakref.ref(held_by := Held(large))
    job = jobs.ask("searches", "a", lambda task, one=held_by: one.look())
    del held_by
    assert job.ended.wait(5)
    gc.collect()
    assert told() is None
    assert jobs.of("a") is job


class Held:
    def __init__(self, large):
        self.large = large

    def look(self):
        assert self.large
