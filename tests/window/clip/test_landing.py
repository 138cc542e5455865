"""Hits of a clip, landed on frames."""

import pytest
from PySide6.QtCore import QPoint

from cicada.core.reshaping import shaping_of
from cicada.window.sheet.snapping import Targets
from tests.by_hand import SHIFT, drag, key
from tests.window.clip.opened import column


@pytest.mark.parametrize("kind", ["hit", "peak"])
def test_a_hit_dragged_onto_a_frame_is_heard_on_its_first_sample(opened, qtbot, settled, kind):
    qtbot.waitUntil(lambda: bool(opened.sheet.opened.hits), timeout=10_000)
    hit = next(each for each in opened.sheet.opened.hits if each.kind == kind)
    start = hit.at.toPoint()
    drag(qtbot, opened, start, QPoint(column(opened, 20), start.y()))
    settled(opened)
    cell = opened.sheet.opened.cell
    plan = opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    assert shaping.moment_of(hit.sample) == plan.entered(20, voice.visit)
    assert opened.document.undo_title == "land the hit on a frame"


def test_a_hit_set_by_hand_stays_with_the_sound_and_is_landed_by_key(opened, qtbot, settled):
    opened.session.move_playhead(12)
    key(qtbot, opened, "V", SHIFT)
    settled(opened)
    assert opened.document.project.sound("s4").hits == (pytest.approx(6 / 24, abs=1e-6),)
    own = [each for each in opened.sheet.opened.hits if each.own]
    opened.session.move_playhead(14)
    key(qtbot, opened, "V")
    settled(opened)
    cell = opened.session.cell
    plan = opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    moments = [shaping.moment_of(sample) for sample in (own[0].sample,)]
    assert plan.entered(14, voice.visit) in moments


def test_snapping_knows_hits(opened, settled):
    opened.sheet.snapping.kinds = {"hits"}
    sheet = opened.sheet
    targets = Targets(sheet.snapping, sheet.traces, sheet.sounds, sheet.hits, 0)
    assert any("hit of Buoy bell" in what for what in targets.frames.values())
