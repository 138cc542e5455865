"""Two versions of a clip heard in turn."""

import numpy as np
import pytest

from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import keyframe_at
from tests.by_hand import CONTROL, SHIFT, at, key
from tests.window.clip.opened import BELL, KEEPER, grip


def test_two_versions_are_flipped_while_they_play_and_the_difference_is_said(
    harbour, qtbot, settled
):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    before = at(harbour, "l4", 10)
    harbour.document.do(
        ChangeKeyframes(cells=(KEEPER,), changes={"level": before.level / 2, "trim": (0.0, 0.5)})
    )
    settled(harbour)
    now = harbour.document.project
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    assert harbour.transport.playing
    assert keyframe_at(harbour.planning.project.layer("l4")[1], 10) == before
    assert "later" in harbour.card.aside.text()
    assert "6.0 dB louder" in harbour.card.aside.text()
    assert harbour.document.project is now
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.project is now, timeout=5000)
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    key(qtbot, harbour, "C", CONTROL | SHIFT)
    settled(harbour)
    assert at(harbour, "l4", 10) == before
    assert harbour.comparing.held is None


def test_a_version_on_a_guarded_layer_is_not_flipped_and_that_is_said(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    harbour.document.do(ChangeLayer(layer="l4", changes={"guarded": True}))
    settled(harbour)
    key(qtbot, harbour, "C")
    assert "guarded" in harbour.foot.note.text()
    assert not harbour.planning.trying


def test_both_versions_are_heard_equally_loud_if_asked(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    level = at(harbour, "l4", 10).level
    harbour.document.do(ChangeKeyframes(cells=(KEEPER,), changes={"level": level / 2}))
    settled(harbour)
    harbour.comparing.match_levels()
    settled(harbour)
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    tried = keyframe_at(harbour.planning.project.layer("l4")[1], 10)
    assert tried.level == pytest.approx(level / 2, rel=0.01)


def test_an_opened_clip_is_painted_with_what_is_trimmed_off_and_single_samples(
    opened, qtbot, settled
):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"trim": (0.2, 0.5)}))
    settled(opened)
    sheet = opened.sheet
    left = sheet.opened.x_of(sheet.opened.shaping.moment_of(0))
    assert left < sheet.opened.x_of(sheet.opened.begins) - 20
    here = sheet.place.place(sheet.opened.x_of(sheet.opened.begins))
    sheet.show_places(here, here + 0.02)
    image = sheet.grab().toImage()
    wave = sheet.opened.wave
    dark = sum(
        image.pixelColor(x, y).lightness() < 90
        for x in range(200, 1200, 4)
        for y in range(round(wave.top()), round(wave.bottom()), 3)
    )
    assert dark > 40


def test_every_grip_stands_where_the_plan_puts_it(opened, qtbot, settled):
    sheet, plan = opened.sheet, opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == BELL)
    axis, found = sheet.traces.axis, sheet.opened
    assert grip(opened, "head").x() == round(sheet.place.x(axis.place(voice.start)))
    assert found.x_of(found.ends) == pytest.approx(sheet.place.x(axis.place(voice.end)), abs=0.5)
    xs = np.array([300.0, 420.0, 777.0])
    assert np.allclose(found.moments_at(xs), [found.moment_at(x) for x in xs], atol=2)
