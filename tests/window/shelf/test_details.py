"""What is known of a sound is shown and changed, and where it is used."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.made_edits import made_sound
from cicada.core.model import Clip, Sound
from cicada.core.patterns import Note, Pattern, PatternPart, PlayedSound
from cicada.core.shelf_edits import AddSounds
from tests.window.shelf.by_hand import LEFT, choose, sounds


def enter(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_the_details_change_what_is_known(measured, qtbot):
    choose(measured, "Sweep")
    qtbot.keyClick(measured, Qt.Key.Key_D)
    details = measured.shelf.details
    qtbot.waitUntil(details.isVisible)
    assert "LUFS" in details.facts["level"].toolTip()
    assert "29 frames; 5 uses" in details.facts["length"].toolTip()
    enter(qtbot, details.fields["name"], "Beam")
    sound = sounds(measured)["Beam"]
    assert sound.code_name == "sweep"
    enter(qtbot, details.fields["code_name"], "class")
    enter(qtbot, details.fields["tags"], "light, soft ,light")
    sound = sounds(measured)["Beam"]
    assert (sound.code_name, sound.tags) == ("sound_class", ("light", "soft"))
    choose(measured, "Beam", "Foghorn")
    enter(qtbot, details.fields["folder"], "Lamp")
    assert {
        s.folder for s in measured.document.project.sounds if s.name in ("Beam", "Foghorn")
    } == {"Lamp"}
    assert measured.document.undo_title == "change the folder of 2 sounds"


def test_a_sound_whose_name_is_being_typed_already_goes_on_being_named(harbour, qtlog):
    harbour.session.choose_sound("s3")
    for _ in range(2):
        harbour.menus.actions["rename_sound"].trigger()
    assert not [each for each in qtlog.records if "editing failed" in each.message]


def test_a_sound_is_renamed_in_its_row(harbour, qtbot):
    choose(harbour, "Sweep")
    harbour.menus.actions["rename_sound"].trigger()
    editor = QApplication.focusWidget()
    editor.selectAll()
    qtbot.keyClicks(editor, "Beam")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "Beam" in sounds(harbour))


def test_where_a_sound_is_used_is_shown_one_clip_after_the_other(harbour, qtbot):
    choose(harbour, "Buoy bell")
    cells = []
    for _ in range(4):
        harbour.menus.actions["used"].trigger()
        cells.append((harbour.session.scene_id, harbour.session.cell))
    assert cells[0] == ("sc2", Cell("l6", 6))
    assert len({str(cell) for cell in cells}) == 3
    assert cells[3] == cells[0]
    assert harbour.session.shown_sound == sounds(harbour)["Buoy bell"].id


def test_a_used_sound_is_removed_only_after_its_uses_were_shown(harbour, settled, answer):
    choose(harbour, "Foghorn")
    before = harbour.document.project
    answer("Keep on the shelf")
    harbour.menus.actions["remove_sound"].trigger()
    assert harbour.document.project is before
    answer("Remove")
    harbour.menus.actions["remove_sound"].trigger()
    assert "Foghorn" not in sounds(harbour)
    harbour.document.undo()
    assert harbour.document.project is before


def test_of_a_sound_that_a_pattern_plays_it_is_said_before_it_is_removed(
    harbour, settled, monkeypatch
):
    project, asked = harbour.document.project, []
    played = project.sounds[0]
    part = PatternPart(sound=PlayedSound(played.id), notes=(Note(0, 240, 60.0),))
    blank = Sound(id="beat", name="Beat", frames=1, rate=project.rate, channels=1)
    beat = made_sound(blank, Pattern(parts=(part,)), project)
    harbour.document.do(AddSounds(sounds=(beat,)))
    settled(harbour)
    choose(harbour, played.name)
    before = harbour.document.project

    def answer(text, verbs, **_):
        asked.append(text)
        return verbs.index("Keep on the shelf" if "Beat" in text and len(asked) < 3 else "Remove")

    monkeypatch.setattr(harbour.asking, "choose", answer)
    harbour.menus.actions["remove_sound"].trigger()
    assert asked[-1] == f"{played.label} is played in Beat."
    assert harbour.document.project is before
    harbour.menus.actions["remove_sound"].trigger()
    assert played.name not in sounds(harbour)
    assert sounds(harbour)["Beat"].making.parts[0].sound is None


def test_a_sound_is_replaced_everywhere(harbour, settled, qtbot):
    old, new = sounds(harbour)["Sweep"].id, sounds(harbour)["Wing hum"].id
    choose(harbour, "Sweep")

    def pick():
        dialog = QApplication.activeModalWidget()
        qtbot.keyClicks(dialog.search, "wing")
        qtbot.mouseClick(dialog.take, LEFT)

    QTimer.singleShot(200, pick)
    harbour.menus.actions["replace_sound"].trigger()
    clips = [
        keyframe.sound
        for _, layer in harbour.document.project.all_layers()
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip)
    ]
    assert old not in clips
    assert clips.count(new) == 6
