"""Layers are ordered, guarded, made higher and louder."""

from PySide6.QtCore import QPoint

from cicada.core.editing import Cell
from cicada.window.drawing.layout import HEAD
from tests.by_hand import CONTROL, LEFT, SHIFT, key
from tests.window.sheet.by_hand import names


def test_layers_are_ordered_by_dragging_their_heads(harbour, qtbot, settled):
    port, place = harbour.sheet.viewport(), harbour.sheet.place
    start = QPoint(60, place.row_top(3) + 10)
    end = QPoint(60, place.row_top(0) + 6)
    qtbot.mousePress(port, LEFT, pos=start)
    qtbot.mouseMove(port, (start + end) / 2)
    qtbot.mouseMove(port, end)
    harbour.sheet.viewport().grab()
    qtbot.mouseRelease(port, LEFT, pos=end)
    assert names(harbour)[:2] == ["Rain bed", "Keeper's line"]


def test_a_layer_is_duplicated_moved_switched_and_removed_by_key(harbour, qtbot, settled):
    harbour.session.choose(Cell("l5", 68))
    key(qtbot, harbour, "D", SHIFT)
    assert names(harbour)[1:3] == ["Beam sweep", "Beam sweep 2"]
    key(qtbot, harbour, "Down", CONTROL)
    assert names(harbour)[1:3] == ["Beam sweep 2", "Beam sweep"]
    for letter, field in (("X", "mute"), ("S", "solo"), ("G", "guarded")):
        key(qtbot, harbour, letter)
        assert getattr(harbour.session.layer(), field)
    before = harbour.document.project
    key(qtbot, harbour, "Delete")
    assert harbour.document.project is before
    key(qtbot, harbour, "G")
    key(qtbot, harbour, "O", SHIFT)
    assert harbour.session.layer().off
    key(qtbot, harbour, "L", CONTROL | SHIFT)
    assert "Beam sweep" not in names(harbour)


def test_level_and_height_are_dragged_in_the_head(harbour, qtbot, settled):
    port, place = harbour.sheet.viewport(), harbour.sheet.place
    top, tall = place.row_top(0), place.rows[0]
    bar = QPoint(HEAD - 27, top + 20)
    qtbot.mousePress(port, LEFT, pos=bar)
    qtbot.mouseMove(port, QPoint(HEAD - 27, top + 14))
    qtbot.mouseMove(port, QPoint(HEAD - 27, top + 8))
    qtbot.mouseRelease(port, LEFT, pos=QPoint(HEAD - 27, top + 8))
    assert harbour.session.scene.layers[0].level == 2.0
    edge = QPoint(80, top + tall - 1)
    qtbot.mousePress(port, LEFT, pos=edge)
    qtbot.mouseMove(port, edge + QPoint(0, 30))
    qtbot.mouseRelease(port, LEFT, pos=edge + QPoint(0, 30))
    assert harbour.sheet.place.rows[0] == tall + 30


def test_the_card_of_a_layer_sets_its_level_and_what_its_end_does(harbour, qtbot, settled):
    harbour.session.choose(Cell("l8", 30))
    card = harbour.card
    card.empty.level.setText("-6 dB")
    card.empty.level.setModified(True)
    card.empty.level.editingFinished.emit()
    qtbot.mouseClick(card.empty.past_scene.buttons["stops"], LEFT)
    layer = harbour.document.project.layer("l8")[1]
    assert (round(layer.level, 3), layer.past_scene) == (0.501, False)
