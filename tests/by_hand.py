"""What tests do to a window with mouse and keys, and where things are in it."""

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent
from PySide6.QtWidgets import QApplication

from cicada.core.model import keyframe_at

LEFT = Qt.MouseButton.LeftButton
NONE, CONTROL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier
SHIFT, ALT = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier


def point(window, layer, frame):
    sheet = window.sheet
    row = next(i for i, r in enumerate(sheet.traces.rows) if r.layer and r.layer.id == layer)
    x = sheet.place.x(frame) + min(3.0, sheet.place.scale / 2)
    return QPoint(round(x), sheet.place.row_top(row) + 24)


def drag(qtbot, window, start, end):
    port = window.sheet.viewport()
    qtbot.mousePress(port, LEFT, pos=start)
    for share in (0.3, 0.6, 1.0):
        qtbot.mouseMove(port, start + (end - start) * share)
    qtbot.mouseRelease(port, LEFT, pos=end)


def drop(widget, data, at):
    actions = Qt.DropAction.CopyAction
    for kind in (QDragEnterEvent, QDropEvent):
        place = at if kind is QDragEnterEvent else QPointF(at)
        QApplication.sendEvent(
            widget, kind(place, actions, data, LEFT, Qt.KeyboardModifier.NoModifier)
        )


def at(window, layer, frame):
    return keyframe_at(window.document.project.layer(layer)[1], frame)


def file_mime(*paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return data


def key(qtbot, window, name, keys=NONE):
    qtbot.keyClick(window.sheet, getattr(Qt.Key, f"Key_{name}"), keys)


def pull(qtbot, window, start, end, keys=NONE):
    """Drag with modifier keys held, without letting go."""
    port = window.sheet.viewport()
    qtbot.mousePress(port, LEFT, keys, start)
    for share in (0.4, 1.0):
        place = start + (end - start) * share
        event = QMouseEvent(
            QMouseEvent.Type.MouseMove, QPointF(place), port.mapToGlobal(QPointF(place)),
            LEFT, LEFT, keys,
        )  # fmt: skip
        QApplication.sendEvent(port, event)
    return port


def ruler(window, frame, y=30):
    return QPoint(round(window.sheet.place.frame_x(frame)) + 1, y)


def player(window):
    return window.transport._link._player.player


def begin(window, qtbot, settled, scene="sc1", frame=0):
    """Start playing by Space; what was written to the output before."""
    window.session.show_scene(scene)
    window.session.move_playhead(frame)
    settled(window)
    window.transport.start()
    window.transport._timer.stop()
    written = len(player(window).output.recorded())
    qtbot.keyClick(window.sheet, Qt.Key.Key_Space)
    assert window.transport.playing
    return written


def play_on(window, until, most=4000):
    for _ in range(most):
        window.transport.follow()
        window.transport._timer.stop()
        QApplication.processEvents()
        if until():
            return
    raise AssertionError("it was not reached")
