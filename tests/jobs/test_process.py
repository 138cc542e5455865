"""A worker process from outside: whatever happens to it costs the job it is at, and no other."""

import os
import random
import signal
import threading
import time

import pytest

from cicada.errors import BadSound
from cicada.jobs.process import Died, WorkerProcess


def nap(seconds):
    time.sleep(seconds)
    return "awake"


def add(one, two):
    return one + two


def refuse():
    raise BadSound("is no sound", file="a.wav", remedy="choose another")


def what_cannot_travel():
    return lambda: None


@pytest.fixture
def worker():
    made = WorkerProcess()
    yield made
    made.close()


def test_errors_come_back_as_they_were_raised(worker):
    with pytest.raises(BadSound, match="is no sound"):
        worker.do(1, refuse, ())
    with pytest.raises(TypeError, match="unsupported operand") as raised:
        worker.do(2, add, (1, "one"))
    assert "in add" in "".join(raised.value.__notes__)


def test_a_result_that_cannot_travel_is_an_error_and_the_worker_goes_on(worker):
    with pytest.raises(TypeError, match="cannot travel"):
        worker.do(1, what_cannot_travel, ())
    assert worker.do(2, add, (1, 2)) == 3


def test_a_worker_that_ended_while_it_had_nothing_to_do_is_begun_anew(worker):
    process = worker.do(1, os.getpid, ())
    os.kill(process, signal.SIGKILL)
    assert worker.do(2, add, (1, 2)) == 3


def test_a_worker_ended_just_as_its_job_is_over_costs_no_other(worker):
    chance = random.Random(1)
    for number in range(0, 24, 2):
        end = threading.Timer(chance.uniform(0.0, 0.012), worker.end, (number,))
        try:
            end.start()
            came = worker.do(number, nap, (0.006,))
        except Died:
            came = "ended"
        end.join()
        assert came in {"awake", "ended"}
        assert worker.do(number + 1, add, (number, 1)) == number + 1


def test_only_the_job_that_is_meant_is_ended(worker):
    end = threading.Timer(0.1, worker.end, (7,))
    end.start()
    assert worker.do(8, nap, (0.3,)) == "awake"
    end.join()


def test_a_closed_worker_leaves_no_process(worker):
    process = worker.do(1, os.getpid, ())
    worker.close()
    with pytest.raises(ProcessLookupError):
        os.kill(process, 0)
