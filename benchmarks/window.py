"""The sheet's repaints against one blit of it, and the start of the window."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.films import many_keyframes
from benchmarks.runner import absolute, figure, measure, percentile

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
    """Painting with 1,200 clips in sight, and after edits among many."""
    from PySide6.QtCore import QSettings
    from PySide6.QtGui import QPainter, QPixmap, QRegion

    from cicada.core.editing import Cell
    from cicada.core.keyframe_edits import MoveKeyframes
    from cicada.core.planner import plan
    from cicada.media.cache import user_cache
    from cicada.window.app import make_application
    from cicada.window.main_window import MainWindow

    app = make_application()
    take_in_tap(user_cache())
    settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
    window = MainWindow(user_cache(), folder / "recovery", lambda rate: None, settings)
    window.resize(1280, 800)
    window.show()
    window.mix_row.close()
    port = window.sheet.viewport()

    def show(project):
        window.document.new(project)
        while not window.planning.up_to_date:
            app.processEvents()
        window.sheet.fit()
        app.processEvents()

    target, source = QPixmap(port.size()), QPixmap(port.size())
    source.fill()

    def blit():
        painter = QPainter(target)
        painter.drawPixmap(0, 0, source)
        painter.end()

    def paint(area):
        painter = QPainter(target)
        window.sheet.paint_area(painter, area)
        painter.end()

    frame = [0]

    def step():
        before = window.sheet.playhead_area(frame[0])
        frame[0] = (frame[0] + 1) % 200
        # Of the sheet alone: the rail's and the picture's share is theirs.
        window.session.playhead = frame[0]
        paint(before.united(window.sheet.playhead_area(frame[0])))

    whole = QRegion(port.rect())
    zooms = [1.05, 1 / 1.05]

    def zoom():
        zooms.reverse()
        window.sheet.zoom(zooms[0], 700)
        paint(whole)

    def place(project):
        """The clip in the middle of the first layer, and a free frame beside it."""
        layer = project.scenes[0].layers[0]
        frames = sorted(k.frame for k in layer.keyframes)
        at = frames[len(frames) // 2]
        return Cell(layer.id, at), Cell(layer.id, at + 1)

    def one_clip_edit():
        """One clip moved there and back; only the drawing, not the plan, is looked at."""
        here, there = place(window.document.project)
        keyframes = {k.frame for k in window.document.project.scenes[0].layers[0].keyframes}
        move = (here, there) if there.frame not in keyframes else (there, here)
        window.document.do(MoveKeyframes(moves=(move,)))

    def edited():
        window.sheet._edited(states[0], states[1])
        states.reverse()
        paint(whole)

    many = 20
    show(in_sight(1200))
    assert in_sight_now(window) >= 1200, in_sight_now(window)
    project = window.document.project
    here, there = place(project)
    states = [project, MoveKeyframes(moves=((here, there),)).apply(project)]
    paint(whole)
    zoom()
    took = measure(
        {
            "blit": lambda: [blit() for _ in range(many)],
            "step": lambda: [step() for _ in range(many)],
            "repaint": lambda: [paint(whole) for _ in range(many)],
            "edit": lambda: [edited() for _ in range(many)],
            "zoom": lambda: [zoom() for _ in range(many)],
        }
    )
    each = {name: seconds / many for name, seconds in took.items()}
    for name, words, most in (
        ("step", "a playhead step with 1,200 clips in sight", 0.25),
        ("repaint", "a warm full repaint of the sheet", 1.5),
        ("edit", "the sheet after a one-clip edit, drawing alone", 8.0),
        ("zoom", "the sheet after a zoom step", 45.0),
    ):
        yield figure(f"{words}, to one blit of it", each[name], each["blit"], most)

    def zoomed(project):
        show(project)
        window.sheet.show_places(1000, 1400)
        zoom()
        zoom()
        return measure({"zoom": lambda: [zoom() for _ in range(many)]})["zoom"] / many

    few, lots = zoomed(spread(10_000)), zoomed(spread(100_000))
    yield figure(
        "zooming among 100,000 keyframes, to among 10,000 with as many in sight", lots, few, 1.1
    )
    show(spread(10_000))
    project = window.document.project
    took = measure({"plan": lambda: plan(project)})
    spent = []
    for _ in range(12):
        began = time.perf_counter()
        one_clip_edit()
        while not window.planning.up_to_date:
            app.processEvents()
        paint(whole)
        spent.append(time.perf_counter() - began)
        window.planning.wait()
    yield absolute(
        "an edit among 10,000 keyframes on 200 layers, planned and drawn, ms",
        percentile([1000 * each for each in spent], 99),
        "ms",
        100.0,
    )
    yield figure(
        "the same edit, to planning alone", statistics.median(spent), took["plan"], 1.5
    )
    window.shut_down()
    window.deleteLater()
    app.processEvents()


def in_sight(count):
    """A film of which ``count`` clips are in sight at once, in as few pixels as that takes."""
    return many_keyframes(count, layers=6)


def in_sight_now(window):
    from cicada.window.narrow import in_sight as seen

    sheet = window.sheet
    rows = [sheet.traces.rows[number] for number, _, _ in sheet.place.rows_in_sight()]
    return sum(len(seen(row, sheet.place, sheet.viewport().width())) for row in rows)


def spread(count):
    """``count`` clips on 200 layers; the more there are, the longer the film."""
    return many_keyframes(count, layers=200)


def take_in_tap(cache):
    """Put the peaks of the made-up sound into the cache, so that there is a waveform to draw."""
    import numpy as np

    from cicada.media.peaks import PeakGatherer

    length = round(30000 * 48000 / 44100)
    sound = np.random.default_rng(3).uniform(-0.5, 0.5, (length, 1)).astype(np.float32)
    sound *= np.linspace(1, 0, length, dtype=np.float32)[:, None]
    gatherer = PeakGatherer()
    gatherer.append(sound)
    cache.put(cache.peaks_key(cache.sound_key("made-up", 48000)), gatherer.peaks(length))


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
