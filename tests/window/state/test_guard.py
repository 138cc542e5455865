"""The guard: what fails in what Qt calls costs a message, in a real window, and nothing else."""

import os
import subprocess
import sys

import pytest
from PySide6.QtCore import QEvent, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

from cicada.core.editing import Cell
from cicada.core.scene_edits import PutMark
from cicada.window.state import guard as module
from cicada.window.state.guard import guard

# Every kind of override and operator, each failing with an exception that C code makes, for those
# are the ones that end a process.
BROKEN = """
import sys, threading
from pathlib import Path
from PySide6.QtCore import (
    QAbstractListModel, QCoreApplication, QEvent, QModelIndex, QObject, QRunnable, QThreadPool,
    QTimer, Qt, Signal)
from PySide6.QtGui import QKeyEvent, QPainter, QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractScrollArea, QListView, QListWidget, QListWidgetItem, QStyledItemDelegate, QVBoxLayout,
    QWidget)
from cicada.window.app import make_application, make_window
from cicada.media.cache import user_cache
from cicada.window.state.guard import guard, watch

def fail():
    return int("xxx")

app = make_application()
window = make_window(user_cache())
window.show()
watch()
told = []
guard.heard = lambda caught: told.extend(each.what for each in caught)
app.processEvents()

class Filter(QObject):
    def eventFilter(self, watched, event): return fail()
class Own(QWidget):
    def event(self, event): return fail()
class Part(QWidget):
    def paintEvent(self, event): onto = QPixmap(9, 9); painter = QPainter(onto); fail()
    def mousePressEvent(self, event): fail()
    def mouseMoveEvent(self, event): fail()
    def keyPressEvent(self, event): fail()
    def wheelEvent(self, event): fail()
    def resizeEvent(self, event): fail()
    def sizeHint(self): return fail()
    def minimumSizeHint(self): return fail()
    def changeEvent(self, event): fail()
    def focusInEvent(self, event): fail()
    def dragEnterEvent(self, event): fail()
    def showEvent(self, event): fail()
class Port(QAbstractScrollArea):
    def viewportEvent(self, event): return fail()
    def scrollContentsBy(self, x, y): fail()
class Model(QAbstractListModel):
    def rowCount(self, parent=None) -> int: return fail()
    def data(self, index, role=0): return fail()
    def flags(self, index): return fail()
class Rows(QStyledItemDelegate):
    def paint(self, painter, option, index): fail()
    def sizeHint(self, option, index): return fail()
class Item(QListWidgetItem):
    def __lt__(self, other): return fail()
class Work(QRunnable):
    def run(self): fail()
class Says(QObject):
    said = Signal()
class Gone:
    def __del__(self): fail()

watched, filter_ = QWidget(), Filter()
watched.installEventFilter(filter_)
QCoreApplication.sendEvent(watched, QEvent(QEvent.Type.User))
watched.removeEventFilter(filter_)
QCoreApplication.sendEvent(Own(window), QEvent(QEvent.Type.User))
part = Part(window)
part.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
part.setAcceptDrops(True)
part.show(); part.resize(90, 60); part.adjustSize(); part.setFocus()
for _ in range(5):
    part.update(); app.processEvents()
QTest.mouseClick(part, Qt.MouseButton.LeftButton)
QTest.mouseMove(part)
key = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_F9, Qt.KeyboardModifier.NoModifier)
QCoreApplication.sendEvent(part, key)
around = QWidget(); column = QVBoxLayout(around); column.addWidget(Part(around)); around.show()
app.processEvents(); around.hide()
part.setEnabled(False)
part.grab()
port = Port(window); port.show(); app.processEvents()
view = QListView(window); model = Model(); view.setModel(model); view.show(); app.processEvents()
items = QListWidget(window)
rows = Rows(); items.setItemDelegate(rows)
items.addItems(["b", "a"]); items.addItem(Item("c")); items.addItem(Item("d"))
items.show(); items.sortItems(); app.processEvents(); items.grab()
says = Says(); says.said.connect(fail); says.said.emit()
QTimer.singleShot(0, fail)
thread = threading.Thread(target=fail); thread.start(); thread.join()
gone = Gone(); del gone
app.processEvents(); window.repaint(); app.processEvents()
window.files.may_leave = lambda: True
window.close()
print("\\n".join(sorted(set(told))))
print("alive")
"""
KINDS = {
    "Filter.eventFilter", "Own.event", "Part.paintEvent", "Part.mousePressEvent",
    "Part.keyPressEvent", "Part.resizeEvent", "Part.sizeHint", "Part.minimumSizeHint",
    "Part.changeEvent", "Part.showEvent", "Port.viewportEvent", "Model.rowCount", "Rows.paint",
    "Rows.sizeHint", "Item.__lt__", "a slot", "a thread", "an end",
}  # fmt: skip


def test_each_kind_of_override_can_fail_and_the_window_lives(tmp_path):
    environment = {**os.environ, "CICADA_DATA": str(tmp_path)}
    ran = subprocess.run(
        [sys.executable, "-c", BROKEN], env=environment, capture_output=True, text=True, timeout=90,
        check=False,
    )  # fmt: skip
    said = ran.stdout.split("\n")
    assert (ran.returncode, said[-2]) == (0, "alive"), ran.stderr[-2000:]
    assert set(said) >= KINDS


class Failing(QWidget):
    """Fails as it is told to."""

    def __init__(self, parent, do):
        super().__init__(parent)
        self.do = do

    def event(self, event):
        if event.type() == QEvent.Type.User:
            self.do()
        return super().event(event)


@pytest.fixture
def guarded(harbour):
    """The window as it hears of what is caught; the test need not fail for it."""
    guard.heard = harbour.went_wrong
    yield harbour
    guard.heard = None


def test_what_was_done_in_an_event_that_fails_is_taken_back(guarded, settled):
    document = guarded.document
    document.do(PutMark(scene="sc2", frame=3))
    before, titles = document.project, document.titles()
    # The event before is over once the loop has had its turn.
    QApplication.processEvents()

    def edit_and_fail():
        document.do(PutMark(scene="sc2", frame=5))
        int("xxx")

    QApplication.sendEvent(Failing(guarded, edit_and_fail), QEvent(QEvent.Type.User))
    assert document.project is before
    assert document.titles() == titles
    settled(guarded)
    assert guarded.trouble.isVisible()
    assert "was taken back" in guarded.trouble.words.text()


def test_what_was_finished_before_is_kept(guarded, settled):
    document = guarded.document
    document.do(PutMark(scene="sc2", frame=3))
    QApplication.processEvents()
    after = document.project
    QApplication.sendEvent(Failing(guarded, lambda: int("xxx")), QEvent(QEvent.Type.User))
    assert document.project is after
    settled(guarded)
    assert "Nothing of yours has changed" in guarded.trouble.words.text()


def test_the_same_mistake_is_counted_and_its_details_hold_nothing_of_anybodys(guarded, settled):
    names = [sound.name for sound in guarded.document.project.sounds]

    def fail():
        raise KeyError(names[0])

    for _ in range(3):
        QApplication.sendEvent(Failing(guarded, fail), QEvent(QEvent.Type.User))
        settled(guarded)
    assert "three times" in guarded.trouble.words.text()
    guarded.trouble.copy.click()
    copied = QGuiApplication.clipboard().text()
    assert "KeyError in Failing.event (3 times)" in copied
    assert not any(name in copied for name in names)
    assert str(guarded.document.path) not in copied
    log = guarded.log.file.read_text()
    assert "KeyError in Failing.event" in log
    assert log.count("KeyError") == 1
    guarded.trouble.away.click()
    assert not guarded.trouble.isVisible()


def test_what_is_dragged_or_tried_out_is_let_go_of(guarded, qtbot, settled):
    guarded.sheet.session.choose(Cell("l6", 6))
    edit = PutMark(scene="sc2", frame=3)
    guarded.planning.trial().of(edit)
    QApplication.sendEvent(Failing(guarded, lambda: int("xxx")), QEvent(QEvent.Type.User))
    settled(guarded)
    assert guarded.planning.up_to_date


class Unpainted(QWidget):
    """Cannot be painted; counts how often it was asked to be."""

    asked = 0

    def paintEvent(self, event):
        Unpainted.asked += 1
        int("xxx")


def test_a_part_that_fails_three_times_is_blank_until_something_changes(guarded, settled):
    part = Unpainted(guarded)
    part.resize(120, 60)
    part.show()
    for _ in range(6):
        part.grab()
    assert Unpainted.asked == module.ENOUGH
    guarded.document.do(PutMark(scene="sc2", frame=3))
    part.grab()
    assert Unpainted.asked == module.ENOUGH + 1
    part.setParent(None)
    part.deleteLater()
    QTimer.singleShot(0, lambda: None)
    settled(guarded)


def test_no_override_is_set_on_an_instance():
    """Such a one would not be guarded."""
    import re
    from pathlib import Path

    import cicada

    overriding = re.compile(
        r"^\s+\w[\w.]*\.(\w+Event|event|eventFilter|sizeHint|rowCount)\s*=\s", re.M
    )
    found = [
        path.name
        for path in Path(cicada.__file__).parent.rglob("*.py")
        if overriding.search(path.read_text())
    ]
    assert found == []


def test_threads_are_given_nothing_of_qt(harbour):
    from cicada.window.state.beside import must_be_plain

    must_be_plain((print, 1, harbour.planning.plan))
    for thing in (harbour, harbour.document.do, lambda: harbour):
        with pytest.raises(AssertionError):
            must_be_plain((thing,))
