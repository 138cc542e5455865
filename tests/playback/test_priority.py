"""Priority for the player's threads: asked for, given back in time, and not missed."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from cicada.media.cache import user_cache
from cicada.playback.process import PlayerProcess
from tests.playback.realtime_kit import HERE, realtime_kit
from tests.playback.test_process import wait_for

# A thread that computes for far longer than a realtime one may.
STALLED = """
import os, threading, time
from cicada.playback.priority import ask_for_priority
ask_for_priority([])
until = time.monotonic() + 5
while os.sched_getscheduler(0) & os.SCHED_RR != os.SCHED_RR and time.monotonic() < until:
    time.sleep(0.01)
had = os.sched_getscheduler(0) & os.SCHED_RR
began = time.monotonic()
while time.monotonic() < began + 0.6:
    pass
print(had, os.sched_getscheduler(0) & os.SCHED_RR)
"""


@pytest.fixture
def kit(monkeypatch):
    # A socket's path may not be long, and the tests' own folders are.
    folder = Path(tempfile.mkdtemp(prefix="cicada-"))
    with realtime_kit(folder) as (address, asked):
        monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
        yield asked
    shutil.rmtree(folder)


def test_the_thread_that_mixes_asks_for_realtime_and_those_beside_it_for_less(kit):
    player = PlayerProcess(48000, user_cache())
    try:
        wait_for(lambda: kit.exists() and kit.read_text().count("\n") == 3)
        asked = [line.split() for line in kit.read_text().splitlines()]
        wait_for(lambda: player.status().rate)
        process = player._process.pid
        threads = {int(task.name) for task in Path(f"/proc/{process}/task").iterdir()}
    finally:
        player.close()
    assert [(what, level) for what, _, level in asked] == [
        ("MakeThreadHighPriority", "-10"),
        ("MakeThreadHighPriority", "-10"),
        ("MakeThreadRealtime", "10"),
    ]
    # The thread of a process's own number is its main one.
    assert int(asked[-1][1]) == process
    assert {int(thread) for _, thread, _ in asked} <= threads


def may_be_realtime():
    program = "import os; os.sched_setscheduler(0, os.SCHED_RR, os.sched_param(1))"
    command = [sys.executable, "-c", program]
    return not subprocess.run(command, stderr=subprocess.DEVNULL, check=False).returncode


def test_a_stall_steps_back_to_normal_priority_before_the_kernel_ends_it(kit):
    done = subprocess.run(
        [sys.executable, "-c", STALLED],
        cwd=HERE,
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
    )
    assert done.returncode == 0, signal.Signals(-done.returncode)
    # Where nobody may give it, nothing is to be given back.
    had = str(int(os.SCHED_RR if may_be_realtime() else os.SCHED_OTHER))
    assert done.stdout.split() == [had, "0"]


@pytest.mark.parametrize("address", ["unix:path=/nowhere/bus", "nonsense"])
def test_without_a_service_priority_is_taken_by_who_may_and_given_back(monkeypatch, address):
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
    done = subprocess.run(
        [sys.executable, "-c", STALLED],
        cwd=HERE, capture_output=True, text=True, timeout=30, check=False,
    )  # fmt: skip
    assert done.returncode == 0, signal.Signals(-done.returncode)
    had = str(int(os.SCHED_RR if may_be_realtime() else os.SCHED_OTHER))
    assert done.stdout.split() == [had, "0"]


@pytest.mark.parametrize("address", ["unix:path=/nowhere/bus", "nonsense", ""])
def test_without_a_service_the_player_plays_as_it_does(monkeypatch, address):
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
    player = PlayerProcess(48000, user_cache())
    try:
        wait_for(lambda: player.status().rate)
        before = player.status().clock
        time.sleep(0.2)
        assert player.status().clock > before
        assert player.alive
    finally:
        player.close()
