"""A real drag with a real pointer, in a real window on a screen of its own."""

import os
import shutil
import subprocess
import sys
import time

import pytest

pytestmark = pytest.mark.alone

APPLICATION = """
import sys
from pathlib import Path
from PySide6.QtCore import QPoint, QSettings, QTimer
from cicada.core.model import Clip, keyframe_at
from cicada.media.cache import user_cache
from cicada.window.app import make_application
from cicada.window.frame.main_window import MainWindow

app = make_application()
settings = QSettings(sys.argv[2], QSettings.Format.IniFormat)
window = MainWindow(user_cache(), Path(sys.argv[2] + ".recovery"), lambda rate: None, settings)
window.document.open(Path(sys.argv[1]))
window.session.show_scene("sc2")
window.setGeometry(0, 0, 1280, 800)
window.show()

def ready():
    row = window.shelf.list.visualRect(window.shelf.model.index(3, 0)).center()
    start = window.shelf.list.viewport().mapToGlobal(row)
    sheet = window.sheet
    x = round(sheet.place.x(190.5))
    end = sheet.viewport().mapToGlobal(QPoint(x, sheet.place.row_top(5) + 20))
    print(start.x(), start.y(), end.x(), end.y(), flush=True)

def look():
    placed = keyframe_at(window.document.project.layer("l9")[1], 190)
    if isinstance(placed, Clip):
        timer.stop()
        print("placed", placed.sound, flush=True)

timer = QTimer()
timer.timeout.connect(look)
timer.start(50)
QTimer.singleShot(1500, ready)
QTimer.singleShot(15000, app.quit)
app.exec()
"""


@pytest.fixture
def screen():
    for program in ("Xvfb", "xdotool"):
        if not shutil.which(program):
            pytest.skip(f"{program} is not installed here")
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"],
        pass_fds=(write,),
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as said:
        number = said.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait(5)


def test_a_sound_dragged_from_the_shelf_is_placed_where_it_is_dropped(screen, demo, tmp_path):
    environment = {**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb"}
    application = subprocess.Popen(
        [sys.executable, "-c", APPLICATION, str(demo), str(tmp_path / "window.ini")],
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    try:
        x, y, to_x, to_y = map(int, application.stdout.readline().split())

        def hand(*words):
            subprocess.run(["xdotool", *map(str, words)], env=environment, check=True)
            time.sleep(0.15)

        hand("mousemove", x, y)
        hand("mousedown", 1)
        for share in (0.05, 0.3, 0.7, 1.0):
            hand("mousemove", round(x + (to_x - x) * share), round(y + (to_y - y) * share))
        hand("mousemove", to_x, to_y + 1)
        hand("mouseup", 1)
        assert application.stdout.readline().strip() == "placed s4"
    finally:
        application.kill()
        application.wait()
        application.stdout.close()
