"""What a drop costs the clips around it is shown before it happens."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.model import Clip, keyframe_at
from cicada.window.widgets.drag import sound_mime
from tests.by_hand import LEFT, NONE, at, drop, point, pull


def test_what_a_drop_would_cut_is_said_and_planned_before_it_is_dropped(harbour, qtbot, settled):
    before = harbour.document.project
    start, end = point(harbour, "l8", 86), point(harbour, "l4", 20)
    port = pull(qtbot, harbour, start, end)
    hand = harbour.sheet._hand
    qtbot.waitUntil(lambda: harbour.planning.trying)
    assert harbour.document.project is before
    assert [(loss.cell, loss.frames) for loss in hand.found] == [(Cell("l4", 10), 32)]
    trial = keyframe_at(harbour.planning.project.layer("l4")[1], 18)
    assert isinstance(trial, Clip)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Escape)
    qtbot.mouseRelease(port, LEFT, NONE, end)
    settled(harbour)
    assert harbour.document.project is before
    assert harbour.planning.project is before


def test_a_sound_over_a_layer_shows_what_it_would_replace(harbour, qtbot, settled):
    from PySide6.QtGui import QDragEnterEvent

    data = sound_mime("s8")
    where = point(harbour, "l9", 24)
    port = harbour.sheet.viewport()
    event = QDragEnterEvent(where, Qt.DropAction.CopyAction, data, LEFT, NONE)
    QApplication.sendEvent(port, event)
    assert [(loss.cell, loss.frames) for loss in harbour.sheet._hand.found] == [(Cell("l9", 24), 0)]
    harbour.grab()
    drop(port, data, where)
    assert at(harbour, "l9", 24).sound == "s8"
