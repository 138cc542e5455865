"""What an edit costs the clips around it."""

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    PlaceClip,
)
from cicada.core.overlaps import losses
from tests.core.composed import film


def test_a_locked_clip_that_is_cut_and_one_that_is_replaced_are_both_losses():
    locked = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"sync": "locked"})
    before = film(locked)
    cut = PlaceClip(layer="l1", frame=20, sound="s1").apply(before)
    assert losses(before, cut, "sc1", ()) == [(Cell("l1", 10), "s1", 14)]
    replaced = PlaceClip(layer="l1", frame=10, sound="s1").apply(before)
    assert losses(before, replaced, "sc1", ()) == [(Cell("l1", 10), "s1", 0)]
    assert losses(before, replaced, "sc1", (Cell("l1", 10),)) == []


def test_a_free_clip_that_rings_out_loses_nothing_but_an_endless_one_with_its_span_does():
    before = film()
    dropped = PlaceClip(layer="l1", frame=20, sound="s1")
    assert losses(before, dropped.apply(before), "sc1", ()) == []
    endless = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"ends": "span", "loops": 0})
    before = film(endless)
    assert losses(before, dropped.apply(before), "sc1", ()) == [(Cell("l1", 10), "s1", 14)]
