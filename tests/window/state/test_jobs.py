"""Work in worker processes: one that dies, hangs or is stopped costs one job."""

import os
import time
from pathlib import Path

import pytest

from cicada.errors import BadSound
from cicada.jobs.worker import decoded, progress
from cicada.window.state.jobs import DIED, FAULT, HANGS, STOPPED, Jobs


def add(one, two):
    return one + two


def die():
    os.abort()


def hang():
    time.sleep(60)


def measure_for_long():
    decoded()
    time.sleep(1.5)
    return "measured"


def go_on_for_ever():
    while progress(0.5):
        time.sleep(0.01)
    raise BadSound("stopped halfway", file="a.wav")


def refuse():
    raise BadSound("is no sound", file="a.wav", remedy="choose another")


@pytest.fixture
def jobs(qapp):
    made = Jobs()
    yield made
    made.close()


def ended(qtbot, jobs, work, *arguments, watched=False, then=lambda job: None):
    """What a job came to: its result, or the sentence."""
    told = []
    job = jobs.run(work, *arguments, done=told.append, failed=told.append, watched=watched)
    then(job)
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    return told[0]


def test_results_come_back(qtbot, jobs):
    assert ended(qtbot, jobs, add, 2, 3) == 5


def test_a_refusal_is_its_sentence(qtbot, jobs):
    assert ended(qtbot, jobs, refuse) == "a.wav: is no sound; choose another"


def test_a_mistake_of_ours_is_said_and_not_swallowed(qtbot, jobs):
    with qtbot.captureExceptions() as raised:
        assert ended(qtbot, jobs, add, 1, "one") == FAULT
        qtbot.wait(50)
    assert [kind for kind, _, _ in raised] == [TypeError]


def test_a_worker_that_dies_is_one_job_that_failed(qtbot, jobs):
    others = []
    for number in range(6):
        jobs.run(add, number, 1, done=others.append, failed=others.append)
    assert ended(qtbot, jobs, die) == DIED
    qtbot.waitUntil(lambda: len(others) == 6, timeout=20_000)
    assert sorted(others) == [1, 2, 3, 4, 5, 6]
    assert ended(qtbot, jobs, add, 2, 3) == 5


def test_a_decoder_that_hangs_is_ended(qtbot, jobs, monkeypatch):
    monkeypatch.setattr("cicada.window.state.jobs.STALLED", 0.4)
    assert ended(qtbot, jobs, hang, watched=True) == HANGS
    assert ended(qtbot, jobs, add, 2, 3) == 5


def test_what_follows_decoding_may_take_its_time(qtbot, jobs, monkeypatch):
    monkeypatch.setattr("cicada.window.state.jobs.STALLED", 0.4)
    assert ended(qtbot, jobs, measure_for_long, watched=True) == "measured"


def test_a_job_asked_to_stop_stops_by_itself(qtbot, jobs):
    def stop(job):
        qtbot.waitUntil(lambda: job.share == 0.5, timeout=20_000)
        job.cancel()

    assert ended(qtbot, jobs, go_on_for_ever, then=stop) == "a.wav: stopped halfway"


def test_a_job_that_does_not_stop_is_ended(qtbot, jobs):
    def stop(job):
        qtbot.waitUntil(lambda: job.beats > 0, timeout=20_000)
        job.cancel()

    assert ended(qtbot, jobs, hang, then=stop) == STOPPED


def test_a_job_that_has_not_begun_can_be_taken_back(qtbot, jobs):
    for _ in range(jobs.workers):
        jobs.run(go_on_for_ever, done=lambda _: None, failed=lambda _: None)
    assert ended(qtbot, jobs, add, 1, 1, then=lambda job: job.cancel()) == STOPPED


def test_workers_end_with_the_jobs(qtbot, qapp):
    jobs = Jobs()
    process = ended(qtbot, jobs, os.getpid)
    jobs.close()
    assert not Path(f"/proc/{process}").exists()
