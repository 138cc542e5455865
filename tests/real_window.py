"""Fixtures of a real window, with a player that plays into memory instead of a device."""

import gc
import os
import shutil
from itertools import count

import pytest
from PySide6.QtCore import QEvent, QObject, QSettings
from PySide6.QtWidgets import QApplication

from cicada.core.model import empty_project
from cicada.media.cache import user_cache
from cicada.media.picture_process import PictureDecoder
from cicada.window.drawing import theme
from cicada.window.frame.main_window import MainWindow
from cicada.window.state import frames, jobs
from cicada.window.state.guard import guard
from cicada.window.widgets import asking
from tests.memory_player import MemoryPlayer
from tests.sound_files import ring, write_sound

_freed = count(1)


@pytest.fixture(scope="session")
def kept_workers():
    kept = []
    yield kept
    jobs.stop_workers(kept)


@pytest.fixture
def shared_workers(monkeypatch, kept_workers):
    """Windows of one test after the other have the same workers: to start some takes a second.

    One that is there at the same time as another has workers of its own.
    """
    start, stop, lent = jobs.start_workers, jobs.stop_workers, []

    def lend(count):
        if lent:
            return start(count)
        kept_workers[:] = kept_workers or start(count)
        lent.append(list(kept_workers))
        return lent[0]

    def take_back(workers):
        if lent and workers is lent[0]:
            lent.clear()
        else:
            stop(workers)

    monkeypatch.setattr(jobs, "start_workers", lend)
    monkeypatch.setattr(jobs, "stop_workers", take_back)


@pytest.fixture(scope="session")
def kept_decoder():
    kept = PictureDecoder()
    yield kept
    kept.close()


@pytest.fixture
def shared_decoder(monkeypatch, kept_decoder):
    """Windows of one test after the other have the same decoder of pictures, too."""

    def lend():
        kept_decoder._over.clear()
        kept_decoder.forget()
        return kept_decoder

    monkeypatch.setattr(frames, "start_decoder", lend)
    monkeypatch.setattr(frames, "stop_decoder", lambda decoder: None)


@pytest.fixture(scope="session")
def qapp_cls():
    class Dressed(QApplication):
        def __init__(self, arguments):
            super().__init__(arguments)
            theme.dress(self)

    return Dressed


@pytest.fixture(autouse=True)
def nothing_is_caught():
    """What the guard catches fails the test that caused it."""
    guard.caught.clear()
    guard.try_again()
    yield guard.caught
    guard.heard = None
    assert not guard.caught


def free(window):
    """Free a closed window with all that it is made of.

    What is connected holds what it is connected to, where Python does not see it; with the windows
    of hundreds of tests in memory, looking for garbage would take most of the time.
    """
    for part in vars(window).values():
        if isinstance(part, QObject):
            part.deleteLater()
    window.deleteLater()
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    # A look at all there is takes a tenth of a second.
    if next(_freed) % 8 == 0:
        gc.unfreeze()
        gc.collect()


@pytest.fixture
def window(qtbot, tmp_path, shared_workers, shared_decoder):
    settings = QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)
    made = MainWindow(user_cache(), tmp_path / "recovery", MemoryPlayer, settings)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.files.may_leave = lambda: True
    yield made
    made.close()
    free(made)
    assert not [w for w in QApplication.topLevelWidgets() if w.isVisible()]


@pytest.fixture(autouse=True)
def no_question_waits(monkeypatch):
    """A question that a test does not answer fails it, and does not wait for a person."""

    def unanswered(question):
        guard.catch(AssertionError(f"nobody answers {question.windowTitle()}"), "a question")
        return 0

    monkeypatch.setattr(asking.TypedQuestion, "exec", unanswered)
    monkeypatch.setattr(asking.Question, "exec", unanswered)


@pytest.fixture
def told(monkeypatch, no_question_waits):
    """What is said so that it cannot be missed; somebody goes on each time."""
    said = []
    monkeypatch.setattr(
        asking.Question, "exec", lambda question: said.append(question.words.text())
    )
    return said


@pytest.fixture
def answer(monkeypatch, no_question_waits):
    """Answer the questions that follow, each with what is typed or with a verb; what was asked."""
    asked = []

    def answering(*answers):
        left = list(answers)

        def typed(question):
            asked.append(question.windowTitle())
            question.field.setText(left.pop(0))
            if question.verb.isEnabled():
                return 1
            asked.append(question.says.text())
            return 0

        def chosen(question):
            asked.append(f"{question.words.text()}\n{question.detail.text()}")
            verbs = [button.text() for button in question.buttons]
            question.chosen = verbs.index(left.pop(0))
            return 1

        monkeypatch.setattr(asking.TypedQuestion, "exec", typed)
        monkeypatch.setattr(asking.Question, "exec", chosen)
        return asked

    return answering


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
            timeout=60_000,
        )
        QApplication.processEvents()

    return wait


def _linked(source, target):
    if source.endswith(".jpg"):
        os.link(source, target)
    else:
        shutil.copy2(source, target)


def with_copy(window, project_file, folder, scene, settled):
    """Open a copy of a project and show a scene of it."""
    # Pictures are never written over: hundreds of copies of them would only take time.
    shutil.copytree(project_file.parent, folder, copy_function=_linked)
    window.files.open_file(folder / "harbour.cicada")
    # At once, or the pictures of another scene would be decoded first.
    window.session.show_scene(scene)
    settled(window)
    return window


@pytest.fixture
def harbour(window, demo, tmp_path, settled):
    """The window with a copy of the demo in it but for its storm, the Night scene shown."""
    return with_copy(window, demo, tmp_path / "demo", "sc2", settled)


@pytest.fixture
def storm(window, whole_demo, tmp_path, settled):
    """The window with a copy of the whole demo in it: the Storm scene shown, and the pads."""
    with_copy(window, whole_demo, tmp_path / "demo", "sc4", settled)
    window.session.move_playhead(20)
    window.lower_half.show_beside(window.pads_panel)
    settled(window)
    return window


@pytest.fixture
def own(window, settled, qtbot, tmp_path):
    """A new project with six sounds on the shelf and one empty layer."""
    window.document.new(empty_project("Ours"))
    settled(window)
    files = [
        write_sound(tmp_path / f"sound {number}.wav", ring(seconds=0.5 + number / 10, seed=number))
        for number in range(6)
    ]
    window.imports.import_files(files)
    qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
    settled(window)
    return window
