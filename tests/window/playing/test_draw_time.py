"""A slower machine is pretended: sheet, sound and picture are as they would be there."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from cicada.core.model import Run
from cicada.core.planner import plan
from tests.by_hand import begin, play_on
from tests.window.playing.by_ear import heard_since, render

KEYS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
EIGHTH = 0.125


@pytest.fixture
def slow(harbour, qtbot, settled, answer):
    """The demo as on a machine that draws eight pictures a second, asked for by its key."""
    harbour.conditions.wait_at_points(on=False)
    answer("8/s")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_D, KEYS)
    settled(harbour)
    return harbour


def test_the_sheet_draws_the_run_of_that_machine_and_the_rail_says_so(slow, settled):
    passes = slow.conditions.run().passes
    wanted = plan(slow.document.project, Run(draw_time=EIGHTH, passes=passes))
    assert slow.planning.plan.stretches == wanted.stretches
    assert slow.rail.draws.isVisibleTo(slow)
    assert slow.rail.draws.text() == "draws 8/s"
    slow.conditions.draw_in(0.0)
    settled(slow)
    assert not slow.rail.draws.isVisibleTo(slow)
    assert all(stretch.shown and not stretch.late for stretch in slow.planning.plan.stretches)


def test_what_is_heard_is_the_plan_of_that_draw_time_sample_for_sample(slow, qtbot, settled):
    slow.conditions.play_times(1)
    written = begin(slow, qtbot, settled)
    play_on(slow, lambda: not slow.transport.playing)
    wanted = render(slow, Run(draw_time=EIGHTH))
    assert np.array_equal(heard_since(slow, written)[: len(wanted)], wanted)


def test_the_picture_is_the_last_that_could_be_drawn(slow, qtbot, settled):
    begin(slow, qtbot, settled, "sc2", 0)
    pictures = {p.frame for p in slow.planning.plan.picture() if p.scene == "sc2"}
    seen = set()
    # The keeper speaks from frame 10 on: there the sound leads, and pictures are dropped.
    play_on(slow, lambda: seen.add(slow.picture.shown_frame) or slow.session.playhead > 40)
    assert set(range(41)) - pictures
    assert {frame for frame in seen if frame} <= pictures
    slow.transport.stop()


def test_another_film_is_drawn_as_it_is(slow, settled):
    slow.document.new(slow.document.project)
    settled(slow)
    assert slow.conditions.draw_time == 0.0


def test_what_is_no_draw_time_is_said_while_it_is_typed(harbour, qtbot, settled, answer):
    answer("fast")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_D, KEYS)
    assert harbour.conditions.draw_time == 0.0
