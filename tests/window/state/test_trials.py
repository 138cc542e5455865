"""One thing at a time is tried out, and who tries it knows whether it still is."""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.scene_edits import PutMark
from cicada.window.widgets import menus

BUOY = Cell("l6", 48)


@pytest.fixture
def trying(harbour, settled, qtbot):
    """The demo with a sound tried out in it."""
    harbour.session.choose(BUOY)
    settled(harbour)
    harbour.trying.try_out("s1")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    return harbour


@pytest.fixture
def flipped(harbour, settled, qtbot):
    """The demo with the version of a clip heard that is held."""
    harbour.session.choose(BUOY)
    settled(harbour)
    harbour.comparing.hold()
    harbour.document.do(ChangeKeyframes(cells=(BUOY,), changes={"level": 0.5}))
    settled(harbour)
    harbour.comparing.flip()
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    return harbour


def test_a_look_at_a_command_does_not_end_what_is_heard(trying):
    tried = trying.planning.project
    trying.on_clip.look_at("split")
    trying.on_clip.look_at("")
    assert trying.trying.sound == "s1"
    assert trying.planning.project is tried
    assert trying.planning.trying


def test_a_menu_that_closes_ends_its_own_trial_and_no_flip(flipped, monkeypatch):
    monkeypatch.setattr(menus, "show", lambda menu, _: menu.aboutToHide.emit())
    flipped.on_clip.show("end_on", QPoint(0, 0))
    QApplication.processEvents()
    assert flipped.comparing.hearing_held
    assert flipped.planning.trying
    assert "heard now" in flipped.comparing.sentence()


def test_what_is_tried_out_in_place_of_a_flip_ends_it(flipped):
    other = flipped.planning.trial()
    other.of(PutMark(scene="sc2", frame=3))
    assert not flipped.comparing.hearing_held
    assert "heard now" not in flipped.comparing.sentence()


def test_a_drag_lets_go_of_what_is_tried_out(trying):
    trying.planning.trial().of(PutMark(scene="sc2", frame=3))
    assert trying.trying.sound is None
    assert not trying.transport.playing


def test_an_edit_that_does_not_fit_ends_its_trial_and_is_said(harbour, settled):
    trial = harbour.planning.trial()
    trial.of(PutMark(scene="sc2", frame=3))
    assert not trial.attempt(lambda: PutMark(scene="nowhere", frame=3))
    assert not trial.begun
    assert "scene" in harbour.foot.note.text()
    settled(harbour)
