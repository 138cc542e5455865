"""What is done again and again on the shelf."""

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication

LEFT = Qt.MouseButton.LeftButton


def drop(widget, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    at, no = QPoint(20, 20), Qt.KeyboardModifier.NoModifier
    for kind, place in ((QDragEnterEvent, at), (QDropEvent, QPointF(at))):
        QApplication.sendEvent(widget, kind(place, Qt.DropAction.CopyAction, data, LEFT, no))


def sounds(window):
    return {sound.name: sound for sound in window.document.project.sounds}


def choose(window, *names):
    shelf = window.shelf
    rows = [row for row, sound in enumerate(shelf.model.sounds) if sound.name in names]
    shelf.list.choose_rows(rows, rows[0])
    assert {window.document.project.sound(s).name for s in shelf.chosen()} == set(names)
