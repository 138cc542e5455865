"""Frames are heard as the playhead is dragged over them."""

import pytest

from cicada.core.model import Run
from cicada.playback.messages import (
    LetGo,
    Scrub,
    Step,
)
from tests.by_hand import begin, play_on, player
from tests.window.playing.by_ear import heard_since, render, said_to_player


def test_playing_and_pressing_and_scrubbing_change_nothing_in_the_project(harbour, qtbot, settled):
    before = harbour.document.project
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    harbour.transport.press()
    play_on(harbour, lambda: harbour.session.playhead > 125)
    harbour.transport.stop()
    harbour.scrubbing.scrub(30)
    harbour.scrubbing.let_go()
    assert harbour.document.project is before
    assert not harbour.document.dirty


@pytest.mark.parametrize("frame", [3, 40, 90, 200])
def test_dragging_and_stepping_sound_the_frame_in_every_mode(harbour, qtbot, settled, frame):
    harbour.transport.start()
    harbour.transport._timer.stop()
    begins = harbour.planning.plan.entered(frame, 1)
    harbour.scrubbing.scrub(frame)
    assert said_to_player(harbour, Scrub)[-1].start == begins
    assert "pass 1" in harbour.rail.note.text()
    harbour.scrubbing.let_go()
    assert isinstance(harbour.transport._link._player.heard[-1], LetGo)
    harbour.going_about.go_to(frame)
    step = said_to_player(harbour, Step)[-1]
    assert step.start == begins
    written = len(player(harbour).output.recorded())
    for _ in range(12):
        player(harbour).step()
    heard = heard_since(harbour, written)
    sounds = render(harbour, Run(passes=3))[begins : begins + 2000]
    assert heard.any() == sounds.any()
