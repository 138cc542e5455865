"""The meters beside the card follow what is audible, hold what was over, and go there."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeProject
from cicada.jobs.measuring import film_levels
from cicada.window.playing.layer_meters import ROW
from cicada.window.playing.meter_lines import Falling, share
from tests.by_hand import CONTROL, LEFT, begin, play_on, player
from tests.window.clip.opened import BELL

SECOND = 48000


@pytest.fixture
def metered(harbour, qtbot, settled):
    """The window with its meters shown by their key."""
    harbour.conditions.wait_at_points(on=False)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_9, CONTROL)
    settled(harbour)
    assert harbour.meters.isVisibleTo(harbour)
    return harbour


def test_while_it_plays_each_layer_and_the_whole_are_shown(metered, qtbot, settled):
    begin(metered, qtbot, settled, "sc2", 0)
    play_on(metered, lambda: metered.session.playhead > 60)
    metering = metered.metering
    assert metering.whole.integrated is not None
    assert {"l4", "l5", "l6"} <= set(metering.highest)
    assert "LUFS so far" in metered.meters.whole.accessibleDescription()
    image = metered.meters.grab().toImage()
    assert len({image.pixelColor(x, 40).name() for x in range(0, image.width(), 3)}) > 2
    metered.transport.stop()


def test_overs_are_held_with_their_frame_and_gone_to(metered, qtbot, settled):
    metered.document.do(ChangeProject(changes={"level": 4.0}))
    settled(metered)
    written = begin(metered, qtbot, settled, "sc2", 0)
    plan, began = metered.planning.plan, metered.planning.plan.visits[1].start
    play_on(metered, lambda: metered.session.playhead > 60)
    metered.transport.stop()
    overs = metered.metering.overs
    plain = {over for over in overs if not over.true}
    assert overs.keys() - plain
    heard = np.abs(player(metered).output.recorded()[written:]).max(axis=1)
    frames = {plan.frame_at(began + int(at))[1] for at in np.flatnonzero(heard > 1.0)}
    assert plain
    assert {over.frame for over in plain} <= frames
    assert frames <= {over.frame + step for over in overs for step in (0, 1)}
    button = metered.meters.overs
    assert button.isVisibleTo(metered)
    metered.meters._list_overs()
    worst = max(overs, key=overs.get)
    metered.session.show_scene("sc1")
    button.menu().actions()[0].trigger()
    assert (metered.session.scene_id, metered.session.playhead) == (worst.scene, worst.frame)


def test_what_is_played_next_begins_with_no_overs(metered, qtbot, settled):
    metered.document.do(ChangeProject(changes={"level": 4.0}))
    settled(metered)
    begin(metered, qtbot, settled, "sc2", 0)
    play_on(metered, lambda: metered.metering.overs)
    metered.transport.stop()
    metered.document.do(ChangeProject(changes={"level": 0.1}))
    settled(metered)
    begin(metered, qtbot, settled, "sc2", 0)
    play_on(metered, lambda: metered.session.playhead > 5)
    assert not metered.metering.overs
    assert not metered.meters.overs.isVisibleTo(metered)
    metered.transport.stop()


def test_a_click_measures_a_layer_closely_and_another_lets_it_go(metered, qtbot, settled):
    layers = metered.meters.layers
    metered.session.show_scene("sc2")
    qtbot.mouseClick(layers, LEFT, pos=QPoint(40, ROW + 5))
    assert metered.metering.layer == metered.session.scene.layers[1].id
    assert player_layer(metered, qtbot, settled) == metered.metering.layer
    qtbot.keyClick(layers, Qt.Key.Key_Down)
    assert metered.metering.layer == metered.session.scene.layers[2].id
    qtbot.mouseClick(layers, LEFT, pos=QPoint(40, 2 * ROW + 5))
    assert metered.metering.layer == ""


def player_layer(window, qtbot, settled):
    """The layer that the player was told to measure, also one that was only then started."""
    begin(window, qtbot, settled, "sc2")
    window.transport.stop()
    return player(window)._meters.layer


def test_the_whole_film_is_measured_in_a_worker_and_anew_after_an_edit(metered, qtbot, settled):
    metering = metered.metering
    qtbot.waitUntil(lambda: metering.film is not None, timeout=20_000)
    project = metered.document.project
    files, cache = metered.presence.standing.files, metered.sounds.cache.folder
    assert metering.film == film_levels(project, files, cache)
    before = metering.film
    metered.document.do(ChangeKeyframes(cells=(BELL,), changes={"level": 3.0}))
    qtbot.waitUntil(lambda: metering.film not in (None, before), timeout=20_000)
    assert metering.film.true_peak > before.true_peak
    assert "whole film" in metered.meters.whole._film_words()


def test_an_empty_film_has_nothing_to_measure(window, qtbot, settled):
    window.document.new(empty_project("Ours"))
    settled(window)
    window.lower_half.show_beside(window.meters)
    qtbot.waitUntil(lambda: window.metering.film is not None, timeout=20_000)
    assert window.metering.film.loudness is None
    assert "silent" in window.meters.whole._film_words()
    window.meters.grab()


def test_a_peak_rises_at_once_and_falls_evenly():
    falling = Falling()
    assert falling.take(0.5, 10.0) == 0.5
    assert falling.take(0.0, 10.2) == pytest.approx(0.5 * 10 ** (-6 / 20))
    assert falling.take(0.9, 10.3) == 0.9
    assert falling.take(0.0, 60.0) < 0.1
    assert (share(0.0), share(1.0), share(10.0)) == (0.0, 1.0, 1.0)
