"""Levels matched, loops listened to, styles kept."""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.reshaping import shaping_of
from cicada.jobs.measuring import loudnesses
from cicada.window.drawing.heads import LEVEL_X
from tests.by_hand import LEFT, at, drag, key
from tests.window.clip.opened import BELL, KEEPER, bell


def test_a_clip_is_made_as_loud_as_a_figure_says(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    harbour.on_clip.matching.to_figure(-23.0)
    settled(harbour)
    clip = at(harbour, "l4", 10)
    layer = next(x for x in harbour.session.scene.layers if x.id == "l4")
    files = harbour.presence.standing.files
    project, cache = harbour.document.project, harbour.sounds.cache.folder
    (loud,) = loudnesses(project, files, cache, [(clip, layer.level)])
    assert loud == pytest.approx(-23.0, abs=0.05)


def test_a_clip_is_made_as_loud_as_another(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    harbour.on_clip.matching.to_clip(BELL)
    settled(harbour)
    scene = harbour.session.scene
    levels = {layer.id: layer.level for layer in scene.layers}
    pairs = [(at(harbour, "l4", 10), levels["l4"]), (at(harbour, "l6", 6), levels["l6"])]
    found = loudnesses(
        harbour.document.project, harbour.presence.standing.files,
        harbour.sounds.cache.folder, pairs,
    )  # fmt: skip
    assert found[0] == pytest.approx(found[1], abs=0.05)


def test_the_level_of_the_whole_mix_is_dragged_in_its_head(harbour, qtbot, settled):
    settled(harbour)
    place = harbour.sheet.place
    x = LEVEL_X + 1
    drag(qtbot, harbour, QPoint(x, place.foot + 18), QPoint(x, place.foot + 23))
    settled(harbour)
    assert harbour.document.project.level == pytest.approx(0.5)
    assert harbour.document.undo_title
    qtbot.mouseDClick(harbour.sheet.viewport(), LEFT, pos=QPoint(x, place.foot + 18))
    assert harbour.document.project.level == 1.0


def test_listening_to_the_join_begins_just_before_it(harbour, qtbot, settled):
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "J")
    play = next(m for m in harbour.transport._link._player.heard[::-1] if hasattr(m, "repeat"))
    voice = next(v for v in harbour.planning.plan.voices if (v.layer, v.frame) == BELL)
    timing = shaping_of(harbour.document.project, BELL).timing
    join = voice.start + timing.step
    assert play.start < join < play.repeat[1]
    assert join - play.start <= 48000


def test_a_hard_edge_is_offered_to_be_softened_and_never_forced(opened, qtbot, settled):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"trim": (0.1, 0.4)}))
    settled(opened)
    assert bell(opened).fade_in == 0
    assert "hard" in opened.card.aside.text()
    opened.card.aside.linkActivated.emit("soften")
    settled(opened)
    assert (bell(opened).fade_in, bell(opened).fade_out) == (0.005, 0.005)
    assert "hard" not in opened.card.aside.text()


def test_a_style_is_kept_and_put_on_other_clips(harbour, qtbot, settled, answer):
    changes = {"loops": 2, "fade_out": 0.3, "level": 0.4}
    harbour.document.do(ChangeKeyframes(cells=(BELL,), changes=changes))
    harbour.session.choose(BELL)
    answer("Far away")
    harbour.on_clip.styling.keep_style()
    assert [style.name for style in harbour.document.project.styles] == ["Far away"]
    harbour.session.choose_all([KEEPER, Cell("l9", 24)])
    menu = QMenu(harbour)
    harbour.on_clip.styling.menu(menu)
    menu.actions()[0].trigger()
    settled(harbour)
    for layer, frame in (KEEPER, ("l9", 24)):
        clip = at(harbour, layer, frame)
        assert (clip.loops, clip.fade_out, clip.level) == (2, 0.3, 0.4)
        assert clip.sound != "s4"
    menu.deleteLater()
