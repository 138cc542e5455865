"""The sheet's repaints against one blit of it, and the start of the window."""

import gc
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.films import TAP, many_keyframes
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
import gc, sys
gc.disable()  # as the command does
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


class Painted:
    """A window with its sheet painted into a pixmap, and what is done to it."""

    def __init__(self, folder):
        from PySide6.QtCore import QSettings
        from PySide6.QtGui import QPainter, QPixmap

        from cicada.media.cache import user_cache
        from cicada.window.app import make_application
        from cicada.window.frame.main_window import MainWindow

        self.app = make_application()
        take_in_tap(user_cache())
        settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
        self.window = MainWindow(user_cache(), folder / "recovery", lambda rate: None, settings)
        self.window.resize(1280, 800)
        self.window.show()
        # The mix is worked out in another process, which would be measured too.
        self.window.mix_row.close()
        self.sheet = self.window.sheet
        self.whole = (self.sheet.viewport().rect(),)
        self.target = QPixmap(self.sheet.viewport().size())
        self.source = QPixmap(self.target.size())
        self.source.fill()
        # Kept, for each import of a Qt class costs as much as a tenth of a blit.
        self.painter = QPainter
        self._frame = 0
        self._factors = [1.05, 1 / 1.05]

    def show(self, project):
        self.window.document.new(project)
        while not self.window.planning.up_to_date:
            self.app.processEvents()
        self.window.planning.wait()
        self.window.mix_row.mix = mixed(self.window.planning)
        self.sheet.fit()
        self.app.processEvents()
        # As the application does when a project has been opened.
        gc.collect()
        gc.freeze()

    def blit(self):
        painter = self.painter(self.target)
        painter.drawPixmap(0, 0, self.source)
        painter.end()

    def paint(self, area=None):
        painter = self.painter(self.target)
        self.sheet.paint_area(painter, area or self.whole)
        painter.end()

    def step(self):
        before = self._frame
        self._frame = (before + 1) % 200
        # Of the sheet alone: the rail's and the picture's share is theirs.
        self.window.session.playhead = self._frame
        self.paint(self.sheet.step_area(before, self._frame))

    def zoom(self):
        self._factors.reverse()
        self.sheet.zoom(self._factors[0], 700)
        self.paint()

    def close(self):
        self.window.shut_down()
        self.window.deleteLater()
        self.app.processEvents()


def sheet(folder):
    painted = Painted(folder)
    yield from in_sight_figures(painted)
    yield from among_many(painted)
    painted.close()


def moved(project):
    """The edit that moves a clip in the middle of the first layer by a frame, there or back."""
    from cicada.core.editing import Cell
    from cicada.core.keyframe_edits import MoveKeyframes

    layer = project.scenes[0].layers[0]
    frames = {k.frame for k in layer.keyframes}
    here = Cell(layer.id, sorted(frames)[len(frames) // 2])
    there = Cell(layer.id, here.frame + (1 if here.frame % 12 == 0 else -1))
    return MoveKeyframes(moves=((here, there),))


def in_sight_figures(painted):
    """Painting with 1,200 clips in sight."""
    painted.show(many_keyframes(1200, layers=6))
    assert clips_in_sight(painted.sheet) >= 1200
    project = painted.window.document.project
    states = [project, moved(project).apply(project)]
    painted.paint()
    painted.zoom()

    def edited():
        """What the sheet shows at once, and only that: the plan is another figure's."""
        painted.sheet.show_edit(*states)
        states.reverse()
        painted.paint()

    works = {
        "blit": painted.blit,
        "step": painted.step,
        "repaint": painted.paint,
        "edit": edited,
        "zoom": painted.zoom,
    }
    # Often, where little is done: a burst begins with a cold cache.
    many = {"blit": 50, "step": 50, "repaint": 50, "edit": 20, "zoom": 10}
    took = measure(
        {
            name: lambda work=work, times=many[name]: [work() for _ in range(times)]
            for name, work in works.items()
        }
    )
    each = {name: seconds / many[name] for name, seconds in took.items()}
    for name, words, most in (
        ("step", "a playhead step with 1,200 clips in sight", 0.25),
        ("repaint", "a warm full repaint of the sheet", 1.5),
        ("edit", "the sheet after a one-clip edit, drawing alone", 8.0),
        ("zoom", "the sheet after a zoom step", 45.0),
    ):
        yield figure(f"{words}, to one blit of it", each[name], each["blit"], most)


def among_many(painted):
    """What does not grow with the film, and what may."""
    from PySide6.QtCore import QEventLoop

    def zoomed(count):
        painted.show(many_keyframes(count, layers=200))
        painted.sheet.show_places(200, 600)
        painted.zoom()
        return measure({"zoom": painted.zoom})["zoom"]

    lots, few = zoomed(100_000), zoomed(10_000)
    yield figure(
        "zooming among 100,000 keyframes, to among 10,000 with as many in sight", lots, few, 1.1
    )
    window, planning = painted.window, painted.window.planning
    took = measure(edit_and_plan(window.document.project))
    yield figure(
        "an edit, its plan and its traces among 10,000 keyframes, to planning alone",
        took["edit"],
        took["plan"],
        1.5,
    )
    spent = []
    for _ in range(25):
        loop = QEventLoop()
        planning.planned.connect(loop.quit)
        began = time.perf_counter()
        window.document.do(moved(window.document.project))
        loop.exec()
        painted.paint()
        spent.append(time.perf_counter() - began)
        planning.wait()
        painted.app.processEvents()
    yield absolute(
        "an edit among 10,000 keyframes on 200 layers, planned and drawn",
        percentile([1000 * each for each in spent]),
        "ms",
        100.0,
    )
    yield figure("the same edit, to planning alone", statistics.median(spent), took["plan"], 3.0)


def edit_and_plan(project):
    from cicada.core.model import Run
    from cicada.core.placed import Tables
    from cicada.core.planner import plan
    from cicada.window.drawing.traces import SceneTraces

    tables, now = Tables(), [project]
    plan(project, Run(), tables)

    def edit():
        now[0] = moved(now[0]).apply(now[0])
        traces = SceneTraces(now[0], plan(now[0], Run(), tables), now[0].scenes[0])
        for row in traces.rows[:8]:
            assert len(row.starts) == len(row.ends)

    return {"plan": lambda: plan(project), "edit": edit}


def mixed(planning):
    """The whole mix, as loud everywhere, as if it had been worked out."""
    import numpy as np

    from cicada.deliver.mix_peaks import BINS, MixPeaks

    mix = MixPeaks(planning.plan, planning.project, planning.silent)
    for block in range(mix.blocks):
        mix.put(block, np.array([[-0.4], [0.5]], np.float32).repeat(BINS, axis=1))
    return mix


def clips_in_sight(sheet):
    from cicada.window.drawing.narrow import in_sight

    rows = [sheet.traces.rows[number] for number, _, _ in sheet.place.rows_in_sight()]
    return sum(len(in_sight(row, sheet.place, 0, sheet.viewport().width())) for row in rows)


def take_in_tap(cache):
    """Put the peaks of the made-up sound into the cache, so that there is a waveform to draw."""
    import numpy as np

    from cicada.media.peaks import PeakGatherer

    length = round(30000 * 48000 / 44100)
    sound = np.random.default_rng(3).uniform(-0.5, 0.5, (length, 1)).astype(np.float32)
    sound *= np.linspace(1, 0, length, dtype=np.float32)[:, None]
    gatherer = PeakGatherer()
    gatherer.append(sound)
    cache.put(cache.peaks_key(cache.sound_key(TAP, 48000)), gatherer.peaks(length))


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
