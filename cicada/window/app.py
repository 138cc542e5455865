"""Starting the application, and drawing it without a display."""

import os
import sys
from contextlib import suppress
from pathlib import Path
from time import monotonic

from PySide6.QtCore import QLocale, QSettings, Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

from cicada.errors import CicadaError
from cicada.media.cache import SoundCache, user_cache
from cicada.playback.process import PlayerProcess
from cicada.store.folders import data_folder
from cicada.window.drawing import theme
from cicada.window.drawing.icons import icon
from cicada.window.frame.ended import Ended
from cicada.window.frame.main_window import MainWindow
from cicada.window.playing.link import PlayerLink
from cicada.window.state.guard import guard, watch
from cicada.window.words.numbers import use_decimal

SWITCH = 0.0005


def make_application() -> QApplication:
    """The application, dressed; there is only ever one."""
    running = QApplication.instance()
    if isinstance(running, QApplication):
        return running
    QGuiApplication.setHighDpiScaleFactorRoundingPolicy(
        Qt.HighDpiScaleFactorRoundingPolicy.PassThrough
    )
    app = QApplication(sys.argv[:1])
    # Whenever the window waits for another thread of its own, it waits a moment only.
    sys.setswitchinterval(SWITCH)
    app.setApplicationName("Cicada")
    app.setDesktopFileName("cicada")
    use_decimal(QLocale.system().decimalPoint())
    theme.dress(app)
    app.setWindowIcon(icon("cicada"))
    return app


def make_window(cache: SoundCache) -> MainWindow:
    """The window with everything real behind it."""

    def player(rate: int) -> PlayerLink:
        return PlayerProcess(rate, cache)

    settings = QSettings(str(data_folder() / "window.ini"), QSettings.Format.IniFormat)
    hand_over_limit(settings, cache)
    return MainWindow(cache, data_folder() / "recovery", player, settings)


def hand_over_limit(settings: QSettings, cache: SoundCache) -> None:
    """A limit of the cache that was set in a window before holds for commands, too, from now on."""
    with suppress(CicadaError, ValueError):
        if settings.contains("cache/limit"):
            cache.set_limit(int(str(settings.value("cache/limit"))))
            settings.remove("cache/limit")


def run_window(file: Path | None) -> int:
    """Open the window, and the project in ``file``; the exit code."""
    if not QGuiApplication.instance() and not _has_display():
        raise CicadaError(
            "there is no display to open a window on",
            remedy="use 'cicada plan', 'render' or 'check', or set DISPLAY",
        )
    app = make_application()
    window = make_window(user_cache())
    if file is not None:
        window.document.open(file)
        QTimer.singleShot(0, window.files.ask_about_outside)
    else:
        window.collecting.settle()
    window.show()
    watch()
    guard.heard = window.went_wrong
    # The player's process starts after the first paint, so that the window is there sooner.
    QTimer.singleShot(0, window.transport.start)
    QTimer.singleShot(0, window.remote.begin)
    window.pads.listen_to_keys(window)
    QTimer.singleShot(0, window.decoding.look)
    QTimer.singleShot(0, window.going_back.look)
    QTimer.singleShot(0, window.left_over.look)

    def end(number: int) -> None:
        window.end()
        app.exit(128 + number)

    ended = Ended(end)
    code = app.exec()
    ended.close()
    return code


def _has_display() -> bool:
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen and chosen not in ("xcb", "wayland"):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def picture_of(file: Path, target: Path, *, scene: str | None = None) -> None:
    """Draw the window with a project in it into a picture, with no display needed."""
    # One that is set to nothing is not set.
    os.environ["QT_QPA_PLATFORM"] = os.environ.get("QT_QPA_PLATFORM") or "offscreen"
    app = make_application()
    cache = user_cache()
    settings = QSettings(str(target.with_suffix(".ini")), QSettings.Format.IniFormat)
    window = MainWindow(cache, data_folder() / "recovery", _no_player, settings)
    try:
        window.document.open(file)
        scenes = window.document.project.scenes
        window.session.show_scene(scene or max(scenes, key=lambda s: s.length).id)
        window.session.move_playhead(52)
        window.show()
        while not (window.planning.up_to_date and window.presence.up_to_date):
            app.processEvents()
        # What is mixed beside the window belongs to its picture, but none hangs on it.
        until = monotonic() + 20.0
        while window.jobs.running and monotonic() < until:
            app.processEvents()
        while window.frames.busy:
            app.processEvents()
        for _ in range(20):
            app.processEvents()
            while window.frames.busy:
                app.processEvents()
        window.grab().save(str(target))
    finally:
        window.shut_down()
        window.deleteLater()
        app.processEvents()


def _no_player(rate: int) -> PlayerLink:
    raise CicadaError(f"nothing plays at {rate} while a picture is drawn")
