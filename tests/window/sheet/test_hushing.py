"""Sounds are hushed, and taken off their layers."""

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Hush
from tests.by_hand import SHIFT, at, key
from tests.window.sheet.by_hand import names


def test_hush_from_what_is_sounding_stands_on_its_own_layer(harbour, qtbot, settled):
    harbour.session.choose(Cell("l7", 0))
    harbour.session.move_playhead(60)
    harbour.menus.actions["hush_chosen"].trigger()
    settled(harbour)
    put = at(harbour, "l7", 60)
    assert (put.target, put.sound) == ("sound", at(harbour, "l7", 0).sound)
    assert "it ends Rain bed" in harbour.card.words.text()


def test_a_hush_that_would_cut_another_clip_goes_to_a_layer_of_its_own(harbour, qtbot, settled):
    # On frame 65 the waiting bell's span is under way on the layer of the one that sounds.
    harbour.document.do(ChangeKeyframes(cells=(Cell("l6", 6),), changes={"loops": 5}, what="loops"))
    settled(harbour)
    harbour.session.choose(Cell("l6", 6))
    harbour.session.move_playhead(60)
    key(qtbot, harbour, "H", SHIFT)
    assert names(harbour)[-1] == "Hushes"
    assert isinstance(harbour.session.scene.layers[-1].keyframes[0], Hush)
    settled(harbour)
    assert harbour.sheet.traces.ties[0].hush
