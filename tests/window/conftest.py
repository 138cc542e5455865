"""A real window, with a player that plays into memory instead of a device."""

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from cicada.media.cache import user_cache
from cicada.playback.output import RecordingOutput
from cicada.playback.player import Player
from cicada.window import theme
from cicada.window.main_window import MainWindow


class MemoryPlayer:
    """A player in this process: every look at it lets it play a little more."""

    alive = True

    def __init__(self, rate):
        self.rate = rate
        self.player = Player(RecordingOutput(rate), user_cache())
        self.heard = []

    def send(self, message):
        self.heard.append(message)
        self.player.handle(message)
        return True

    def status(self):
        self.player.step()
        self.player.step()
        import time

        return self.player.status(time.monotonic())

    def close(self):
        pass


@pytest.fixture(scope="session")
def qapp_cls():
    class Dressed(QApplication):
        def __init__(self, arguments):
            super().__init__(arguments)
            theme.dress(self)

    return Dressed


@pytest.fixture
def window(qtbot, tmp_path):
    settings = QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)
    made = MainWindow(user_cache(), tmp_path / "recovery", MemoryPlayer, settings)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.files.may_leave = lambda: True
    yield made
    made.close()
    made.deleteLater()
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, 52)
    assert not [w for w in QApplication.topLevelWidgets() if w.isVisible()]


@pytest.fixture
def settled(qtbot):
    """Wait until the plan is that of the project and nothing is under way."""

    def wait(window):
        qtbot.waitUntil(
            lambda: (
                window.planning.at_rest
                and window.presence.up_to_date
                and not window.jobs.running
                and not window.frames.busy
            ),
            timeout=20_000,
        )
        QApplication.processEvents()

    return wait


@pytest.fixture
def harbour(window, demo, tmp_path, settled):
    """The window with a copy of the demo in it, the Night scene shown."""
    import shutil

    folder = tmp_path / "demo"
    shutil.copytree(demo.parent, folder)
    window.files.open_file(folder / "harbour.cicada")
    settled(window)
    window.session.show_scene("sc2")
    settled(window)
    return window
