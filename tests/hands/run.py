"""One run of the hands in this process, and what must hold after each step and each hundred."""

import faulthandler
import tempfile
import threading
import time
import traceback
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QSettings, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication, QDialog

from cicada.media.cache import user_cache
from cicada.store.projectfile import dumps, loads
from cicada.store.unfinished import read
from cicada.store.validate import validate
from cicada.window.app import make_application
from cicada.window.frame.main_window import MainWindow
from cicada.window.state.guard import guard, watch
from tests.hands.starts import begin, make_files
from tests.hands.steps import Hands
from tests.memory_player import MemoryPlayer

LOOK = 100
# What the toolkit says without a screen, and nobody can do anything about.
USUAL = ("This plugin does not support", "QFont::")


class Broken(Exception):
    """Something that must hold does not."""


def run(start, seed, steps):
    """Do the steps; 1 if anything broke, said in the last line."""
    warned = []

    def heard(kind, context, text):
        if kind != QtMsgType.QtDebugMsg and not any(usual in text for usual in USUAL):
            warned.append(text)

    app = make_application()
    qInstallMessageHandler(heard)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "saved").mkdir()
        settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
        window = MainWindow(user_cache(), folder / "recovery", MemoryPlayer, settings)
        watch()
        window.resize(1280, 800)
        window.show()
        begin(window, start, folder, seed)
        window.transport.start()
        hands = Hands(window, start, seed, make_files(folder / "files"), folder)
        number = -1
        try:
            for count, number in enumerate(steps, 1):
                faulthandler.dump_traceback_later(45, exit=True)
                hands.do(number)
                must_hold(window, warned)
                if count % LOOK == 0 or count == len(steps):
                    look_at_all(window, app)
        except Broken as broken:
            print(f"step {number} {hands.log}\n{broken}", flush=True)
            return 1
        except Exception:  # noqa: BLE001 - said, whatever it is
            # A mistake of the hands themselves, which the guard would keep to itself.
            print(f"step {number} {hands.log}\n{traceback.format_exc()}", flush=True)
            return 1
        finally:
            faulthandler.cancel_dump_traceback_later()
            hands.close()
            guard.heard = None
            window.files.may_leave = lambda: True
            window.close()
        return 0


def must_hold(window, warned):
    """What holds after every step."""
    if guard.caught:
        caught = guard.caught[0]
        raise Broken("\n".join((f"{caught.kind} in {caught.what}", *caught.steps[-8:])))
    if warned:
        raise Broken(f"the toolkit warns: {warned[0]}")


def look_at_all(window, app):
    """What holds when everything is at rest."""
    window.transport.stop()
    window.sheet.let_go()
    settle(window, app)
    for dialog in window.findChildren(QDialog):
        dialog.close()
    # Playing takes what is being typed.
    window.files.take_what_is_typed()
    document = window.document
    project = document.project
    # Which version it is, is said as it is written.
    written = loads(dumps(project))
    validate(written)
    if replace(written, version=project.version) != project:
        raise Broken("the project does not read back as it is written")
    titles, done = document.titles()
    path = document.journal.path
    if path is not None and document.journal.protects:
        found = read(path)
        if found is None or found.differs or found.history.project != project:
            raise Broken("the journal does not give the project back")
    document.go_to_step(0)
    first = document.project
    document.go_to_step(len(titles))
    last = document.project
    document.go_to_step(0)
    if document.project is not first:
        raise Broken("undoing all does not give what was there first")
    document.go_to_step(len(titles))
    if document.project is not last:
        raise Broken("doing all again does not give what was there last")
    document.go_to_step(done)
    if document.project is not project:
        raise Broken("undoing and doing again does not give the project")
    window.transport.toggle()
    for _ in range(5):
        app.processEvents()
        time.sleep(0.005)
    window.transport.stop()
    # Pictures dropped before may have been read by now.
    if document.project is not project and document.undo_title != "add to the picture":
        raise Broken(f"playing has changed the project: {document.undo_title}")
    settle(window, app)
    must_hold(window, [])
    left = [w for w in QApplication.topLevelWidgets() if w.isVisible() and w is not window]
    left = [w for w in left if type(w).__name__ != "PictureWindow"]
    left = [w for w in left if w.objectName() != "qtooltip_label"]
    if left:
        raise Broken(f"a window is left: {left[0]}")
    if len(threading.enumerate()) > 40:
        raise Broken(f"{len(threading.enumerate())} threads")


def settle(window, app):
    """Wait until the plan is that of the project."""
    # A worker that gives way to all else takes its time on a machine that is busy.
    end = time.monotonic() + 120
    while not (
        window.planning.up_to_date and window.presence.up_to_date and not window.jobs.running
    ):
        app.processEvents()
        time.sleep(0.002)
        if time.monotonic() > end:
            raise Broken(
                f"it does not come to rest: plan {window.planning.up_to_date}, "
                f"files {window.presence.up_to_date}, {window.jobs.running} jobs "
                f"{[(job.what, job.share, job.beats) for job in window.jobs._at_it]}"
            )
