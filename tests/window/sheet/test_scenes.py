"""Scenes are added, renamed, ordered, made longer and removed."""

from PySide6.QtCore import QPoint, Qt

from cicada.core.editing import Cell
from tests.by_hand import LEFT, point
from tests.window.sheet.by_hand import names


def test_scenes_are_ordered_by_dragging_their_tabs(harbour, qtbot, settled):
    bar = harbour.scenes.bar
    start, end = bar.tabRect(2).center(), bar.tabRect(0).center() - QPoint(30, 0)
    qtbot.mousePress(bar, LEFT, pos=start)
    for share in (0.2, 0.6, 1.0):
        qtbot.mouseMove(bar, start + (end - start) * share)
    qtbot.mouseRelease(bar, LEFT, pos=end)
    qtbot.waitUntil(lambda: harbour.document.project.scenes[0].name == "Dawn")
    assert [bar.tabText(index) for index in range(3)] == ["Dawn", "Dusk", "Night"]
    assert harbour.session.scene.name == "Dawn"
    harbour.document.undo()
    assert harbour.document.project.scenes[2].name == "Dawn"


def test_a_scene_is_added_named_lengthened_and_removed(harbour, qtbot, settled, answer):
    qtbot.mouseClick(harbour.scenes.add, LEFT)
    field = harbour.scenes.name_field
    field.setText("Storm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert [s.name for s in harbour.document.project.scenes] == ["Dusk", "Night", "Storm", "Dawn"]
    assert harbour.session.scene.name == "Storm"
    assert names(harbour)[0] == "Keeper's line"
    harbour.session.show_scene("sc2")
    answer("100")
    harbour.menus.actions["scene_length"].trigger()
    assert harbour.session.scene.length == 100
    assert "keyframes" in harbour.foot.note.text()
    assert "past the scene's end" in harbour.foot.note.text()
    harbour.menus.actions["duplicate_scene"].trigger()
    assert harbour.session.scene.name == "Night 2"
    harbour.menus.actions["remove_scene"].trigger()
    assert "Night 2" not in [s.name for s in harbour.document.project.scenes]


def test_escape_leaves_a_name_as_it_was(harbour, qtbot, settled):
    before = harbour.document.project
    harbour.menus.actions["rename_scene"].trigger()
    field = harbour.scenes.name_field
    qtbot.keyClicks(field, "Storm")
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    harbour.session.choose(Cell("l6", 6))
    harbour.menus.actions["rename_layer"].trigger()
    qtbot.keyClicks(harbour.sheet.name_field, "Low bell")
    qtbot.keyClick(harbour.sheet.name_field, Qt.Key.Key_Escape)
    assert harbour.document.project is before


def test_what_sounds_from_the_scene_before_enters_from_the_left(harbour, settled):
    row = next(r for r in harbour.sheet.traces.rows if r.name == "Foghorn")
    carried = [trace for trace in row.traces if trace.come_from]
    assert [(trace.name, trace.come_from, trace.start) for trace in carried] == [
        ("Waves", "Dusk", 0.0)
    ]


def test_a_double_click_on_what_is_carried_over_goes_to_its_keyframe(harbour, qtbot, settled):
    where = point(harbour, "l8", 20)
    qtbot.mouseDClick(harbour.sheet.viewport(), LEFT, pos=where)
    assert harbour.session.scene_id == "sc1"
    assert harbour.session.cell == Cell("l1", 0)
