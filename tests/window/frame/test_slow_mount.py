"""A project on a mount that is slow: one works on at one's own pace, and loses nothing."""

import builtins
import os
import threading
import time

import pytest

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.store.projectfile import load
from tests.window.clip.opened import BELL

# Seconds that each look at the mount takes.
SLOW = 0.05
NAMES = ("open", "stat", "lstat", "listdir", "scandir", "replace", "rename", "link", "unlink")


@pytest.fixture
def slow_mount(harbour, monkeypatch, settled):
    """The demo's folder answers late; in which threads it was asked."""
    folder = str(harbour.document.file.parent)
    asked = []

    def late(real):
        def call(path, *rest, **named):
            try:
                inside = os.fspath(path).startswith(folder)
            except (TypeError, AttributeError):
                inside = False
            if inside:
                asked.append(threading.current_thread().name)
                time.sleep(SLOW)
            return real(path, *rest, **named)

        return call

    for name in NAMES:
        monkeypatch.setattr(os, name, late(getattr(os, name)))
    monkeypatch.setattr(builtins, "open", late(builtins.open))
    return asked


def test_the_window_does_not_wait_for_it_while_one_works(harbour, slow_mount, qtbot, settled):
    harbour.session.show_scene("sc2")
    harbour.session.choose(BELL)
    harbour.document.do(ChangeKeyframes(cells=(BELL,), changes={"level": 0.5}))
    harbour.session.move_playhead(40)
    harbour.transport.play_from(0)
    # It is looked at meanwhile, by others.
    qtbot.waitUntil(lambda: len(slow_mount) > 3, timeout=20_000)
    qtbot.wait(2000)
    assert threading.main_thread().name not in slow_mount
    assert harbour.transport.playing
    harbour.transport.stop()


def test_what_is_saved_there_takes_its_time_and_is_whole(harbour, slow_mount, qtbot, settled):
    cell = Cell("l6", 6)
    harbour.document.do(ChangeKeyframes(cells=(cell,), changes={"level": 0.25}))
    began = time.monotonic()
    assert harbour.files.save()
    assert time.monotonic() - began > SLOW
    assert load(harbour.document.file) == harbour.document.project
    assert not harbour.document.dirty
