"""A window that is asked to end by a signal does so, and what was not saved comes back."""

import os
import signal
import subprocess
import sys

import pytest

from cicada.store.unfinished import unfinished

WORK = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from cicada.cli.output import prepare
from cicada.core.scene_edits import PutMark
from cicada.window.app import run_window
from cicada.window.frame.main_window import MainWindow

def work():
    (window,) = [each for each in QApplication.topLevelWidgets() if isinstance(each, MainWindow)]
    window.document.do(PutMark(scene="sc1", frame=3))
    print("ready", flush=True)
    if "question" in sys.argv:
        window.asking.choose("Shall it go on?", ["Go on"], safe=0)

show = MainWindow.show
MainWindow.show = lambda window: (show(window), QTimer.singleShot(300, work))
prepare()
sys.exit(run_window(None))
"""


@pytest.mark.parametrize("doing", ["nothing", "question"])
@pytest.mark.parametrize("name", ["SIGINT", "SIGTERM", "SIGHUP"])
def test_a_window_ended_by_a_signal_keeps_what_was_not_saved(tmp_path, name, doing):
    environment = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "CICADA_DATA": str(tmp_path / "data"),
        "CICADA_CACHE": str(tmp_path / "cache"),
    }
    window = subprocess.Popen(
        [sys.executable, "-c", WORK, doing], stdout=subprocess.PIPE, env=environment
    )
    assert window.stdout.readline() == b"ready\n"
    number = getattr(signal, name)
    window.send_signal(number)
    try:
        assert window.wait(30) == 128 + number
    finally:
        window.kill()
        window.stdout.close()
        window.wait()
    (left,) = unfinished(tmp_path / "data" / "recovery" / "journals")
    assert [mark.frame for mark in left.history.project.scenes[0].marks] == [3]
