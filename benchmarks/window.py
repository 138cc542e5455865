"""The sheet's repaints against one blit of it, and the start of the window."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.films import many_keyframes
from benchmarks.runner import figure, measure

STARTS = 7
BARE = """
import sys, time
began = time.perf_counter()
import argparse, concurrent.futures.process, multiprocessing.shared_memory
import msgspec, numpy, soundfile, soxr, platformdirs, typing_extensions
from PySide6 import QtCore, QtGui, QtWidgets, QtSvg
app = QtWidgets.QApplication(sys.argv[:1])
window = QtWidgets.QMainWindow()
window.resize(1280, 800)
window.show()
while not window.windowHandle().isExposed():
    app.processEvents()
app.processEvents()
"""
OURS = """
import sys
from pathlib import Path
from cicada.window.app import make_application, make_window
from cicada.media.cache import user_cache
app = make_application()
window = make_window(user_cache())
window.document.open(Path(sys.argv[1]))
window.show()
while not window.windowHandle().isExposed():
    app.processEvents()
app.processEvents()
import os
os._exit(0)
"""


def figures():
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with tempfile.TemporaryDirectory() as name:
        os.environ["CICADA_CACHE"] = str(Path(name) / "cache")
        os.environ["CICADA_DATA"] = str(Path(name) / "data")
        yield from sheet(Path(name))
        yield start(Path(name))


def sheet(folder):
    from PySide6.QtCore import QSettings
    from PySide6.QtGui import QPainter, QPixmap

    from cicada.media.cache import user_cache
    from cicada.window.app import make_application
    from cicada.window.main_window import MainWindow

    app = make_application()
    settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
    window = MainWindow(user_cache(), folder / "recovery", lambda rate: None, settings)
    window.resize(1280, 800)
    window.document.new(many_keyframes(1000, layers=25))
    window.show()
    while not window.planning.up_to_date:
        app.processEvents()
    window.sheet.fit()
    app.processEvents()
    port = window.sheet.viewport()
    target = QPixmap(port.size())
    source = QPixmap(port.size())
    source.fill()
    frame = [0]

    def blit():
        painter = QPainter(target)
        painter.drawPixmap(0, 0, source)
        painter.end()

    def paint(area):
        painter = QPainter(target)
        painter.setClipRect(area)
        window.sheet.paint_area(painter, area)
        painter.end()

    def step():
        before = window.sheet.playhead_area(frame[0])
        frame[0] = (frame[0] + 1) % 200
        # Of the sheet alone: the rail's and the picture's share is theirs.
        window.session.playhead = frame[0]
        after = window.sheet.playhead_area(frame[0])
        paint(before | after if frame[0] else after)

    def repaint():
        paint(port.rect())

    many = 50
    took = measure(
        {
            "blit": lambda: [blit() for _ in range(many)],
            "step": lambda: [step() for _ in range(many)],
            "repaint": lambda: [repaint() for _ in range(many)],
        }
    )
    each = {name: seconds / many for name, seconds in took.items()}
    yield figure(
        "a playhead step with 1,000 keyframes, to one blit of the sheet",
        each["step"],
        each["blit"],
        0.5,
    )
    yield figure(
        "a warm full repaint of the sheet, to one blit", each["repaint"], each["blit"], 2.0
    )
    window.shut_down()
    window.deleteLater()
    app.processEvents()


def start(folder):
    from cicada.demo.harbour import make_demo

    project = make_demo(folder / "demo")
    times = {"bare": [], "ours": []}
    for number in range(STARTS + 1):
        for name, code in (("bare", BARE), ("ours", OURS)):
            began = time.perf_counter()
            subprocess.run(
                [sys.executable, "-c", code, str(project)], check=True, stderr=subprocess.DEVNULL
            )
            if number:
                times[name].append(time.perf_counter() - began)
    return figure(
        "start to the shown window with the demo, to a bare Qt window",
        statistics.median(times["ours"]),
        statistics.median(times["bare"]),
        1.8,
    )
