"""What plays goes on when the player dies, and when what it reads is damaged."""

import shutil

import numpy as np
import pytest
from PySide6.QtCore import Qt

from cicada.core.model import empty_project
from cicada.playback.messages import Listen, Play
from tests.by_hand import begin, play_on
from tests.window.playing.by_ear import heard_since, render, said_to_player


def dies(window):
    window.transport._link._player.alive = False


def damage(path):
    # In its place: a file cut short would end this process, in which the player is here.
    with path.open("r+b") as file:
        file.seek(5000)
        file.write(b"damaged!")


@pytest.fixture
def said(harbour):
    said = []
    harbour.transport.told.connect(said.append)
    return said


def test_a_player_that_is_gone_is_started_again_at_the_same_sample(harbour, qtbot, settled, said):
    begin(harbour, qtbot, settled, "sc2", 10)
    play_on(harbour, lambda: harbour.session.playhead >= 20)
    harbour.transport.mute(frozenset())
    before, first = harbour.transport.sample, harbour.transport._link._player
    dies(harbour)
    play_on(harbour, lambda: harbour.session.playhead >= 40)
    assert harbour.transport._link._player is not first
    assert harbour.transport.playing
    assert len(said) == 1
    (play,) = said_to_player(harbour, Play)
    assert 0 <= play.start - before < harbour.document.project.rate / 10
    # Begun in the middle it fades in, for 10 ms.
    fades = harbour.document.project.rate // 100
    wanted = render(harbour, harbour.planning.played.run)[play.start :]
    heard = heard_since(harbour, 0)
    starts = int(np.flatnonzero(heard.any(axis=1))[0])
    assert np.array_equal(heard[starts + fades : starts + 9000], wanted[fades:9000])
    harbour.transport.stop()


def test_a_sound_listened_to_goes_on_too(harbour, qtbot, settled):
    settled(harbour)
    sound = harbour.document.project.sounds[0]
    harbour.transport.listen(harbour.sounds.cache.sound_key(sound.hash, 48000), 1.0, 0)
    harbour.transport._timer.stop()
    heard = []
    harbour.transport.listened.connect(heard.append)
    play_on(harbour, lambda: heard and heard[-1] > 4000)
    dies(harbour)
    play_on(harbour, lambda: heard[-1] > 8000)
    assert said_to_player(harbour, Listen)[0].start >= 4000
    harbour.transport.stop()


def test_players_that_all_die_are_given_up_and_can_be_tried_again(harbour, qtbot, settled, said):
    begin(harbour, qtbot, settled, "sc2", 10)
    for _ in range(3):
        dies(harbour)
        harbour.transport.follow()
        harbour.transport._timer.stop()
    assert not harbour.transport.sounding
    assert "again and again" in said[-1]
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Space)
    assert harbour.transport.playing
    harbour.transport.stop()


def test_a_hole_in_the_sound_is_said_once_each_time_it_plays(harbour, qtbot, settled, said):
    begin(harbour, qtbot, settled, "sc1", 0)
    play_on(harbour, lambda: harbour.session.playhead >= 5)
    assert not said
    for wanted in (1, 1, 1):
        harbour.transport._link._player.player.output.missed += 2
        harbour.transport.follow()
        harbour.transport._timer.stop()
        assert len(said) == wanted
    assert "a hole" in said[0]
    harbour.transport.stop()
    begin(harbour, qtbot, settled, "sc1", 0)
    play_on(harbour, lambda: harbour.session.playhead >= 2)
    harbour.transport._link._player.player.output.missed += 1
    play_on(harbour, lambda: len(said) == 2)
    harbour.transport.stop()


def test_what_is_damaged_in_the_cache_is_made_anew_and_heard(harbour, qtbot, settled):
    settled(harbour)
    cache, project = harbour.sounds.cache, harbour.document.project
    sound = project.sound(harbour.planning.plan.voices[0].sound)
    path = cache.path(cache.sound_key(sound.hash, 48000))
    whole = path.read_bytes()
    damage(path)
    harbour.transport.load()
    begin(harbour, qtbot, settled, "sc1", 0)
    play_on(harbour, lambda: not path.exists() or path.read_bytes() == whole)
    qtbot.waitUntil(lambda: path.exists() and path.read_bytes() == whole, timeout=20_000)
    settled(harbour)
    harbour.transport.stop()
    written = begin(harbour, qtbot, settled, "sc1", 0)
    play_on(harbour, lambda: harbour.session.playhead >= 60)
    played = harbour.planning.played
    wanted = render(harbour, harbour.conditions.run() if played is None else played.run)
    count = 2 * harbour.document.project.rate
    assert np.array_equal(heard_since(harbour, written)[:count], wanted[:count])
    harbour.transport.stop()


def test_what_is_damaged_when_a_project_is_opened_is_made_anew_unasked(harbour, qtbot, settled):
    settled(harbour)
    cache = harbour.sounds.cache
    sound = harbour.document.project.sounds[0]
    path = cache.path(cache.sound_key(sound.hash, 48000))
    whole = path.read_bytes()
    damage(path)
    file = harbour.document.path
    harbour.document.new(empty_project("another"))
    settled(harbour)
    harbour.files.open_file(file)
    qtbot.waitUntil(lambda: path.exists() and path.read_bytes() == whole, timeout=20_000)


def test_a_cache_deleted_while_the_window_is_open_is_filled_again(harbour, qtbot, settled):
    settled(harbour)
    folder = harbour.sounds.cache.folder
    before = {path.name for path in folder.rglob("*.npy")}
    shutil.rmtree(folder)
    names = {
        f"{harbour.sounds.cache.sound_key(sound.hash, 48000)}.npy"
        for sound in harbour.document.project.sounds
    }
    assert names & before
    qtbot.waitUntil(
        lambda: names & before <= {path.name for path in folder.rglob("*.npy")}, timeout=20_000
    )
    settled(harbour)
