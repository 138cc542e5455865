"""Steps are undone and redone by name; keys and looks of the sheet."""

from PySide6.QtWidgets import QDialog

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.scene_edits import PutTempo
from tests.by_hand import SHIFT, key


def test_choosing_a_step_goes_back_to_it(harbour, qtbot, settled):
    before = harbour.document.project
    for frame in (100, 110):
        harbour.document.do(PutTempo(scene="sc2", frame=frame, bpm=90.0))
    harbour.menus.do("history")
    steps = next(d for d in harbour.findChildren(QDialog) if d.windowTitle() == "All steps")
    assert [steps.list.item(row).text() for row in range(3)] == [
        "as it was opened",
        "Set the tempo",
        "Set the tempo",
    ]
    steps.list.setCurrentRow(0)
    assert harbour.document.project is before
    steps.list.setCurrentRow(2)
    assert len(harbour.session.scene.tempo) == 2
    steps.close()


def test_an_edit_while_the_film_plays_is_heard_at_once(harbour, qtbot, settled):
    key(qtbot, harbour, "Space")
    qtbot.waitUntil(lambda: harbour.session.playhead > 5, timeout=20_000)
    harbour.document.do(ChangeKeyframes(cells=(Cell("l7", 0),), changes={"off": True}))
    qtbot.waitUntil(lambda: harbour.planning.up_to_date)
    loaded = harbour.transport._link._player.heard[-1]
    assert harbour.transport.playing
    assert loaded.plan is harbour.planning.plan
    assert "l7" not in {voice.layer for voice in loaded.plan.voices}
    key(qtbot, harbour, "Space")


def test_the_help_lists_every_key_and_draws_every_shape(harbour, qtbot, settled):
    key(qtbot, harbour, "F1")
    key(qtbot, harbour, "F1", SHIFT)
    dialogs = {d.windowTitle(): d for d in harbour.findChildren(QDialog)}
    text = dialogs["Keys"].table.text()
    for action in harbour.menus.actions.values():
        assert action.shortcut().toString() in text
    picture = dialogs["Shapes on the sheet"].grab().toImage()
    assert len({picture.pixel(x, y) for x in range(0, 400, 3) for y in range(0, 400, 3)}) > 30
    for dialog in dialogs.values():
        dialog.close()


def test_night_and_day_can_be_changed_and_are_remembered(harbour, settled):
    by_day = harbour.grab().toImage().pixelColor(900, 10).lightness()
    harbour.menus.actions["night"].trigger()
    settled(harbour)
    by_night = harbour.grab().toImage().pixelColor(900, 10).lightness()
    assert by_day > 200
    assert by_night < 60
    assert harbour.settings.value("window/night") in (True, "true")
    harbour.menus.actions["night"].trigger()
