"""The player in its own process: it plays in real time, reports where it is, and can be ended."""

import time

from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.playback.messages import FILM, IDLE, Load, Play, Stop
from cicada.playback.process import PlayerProcess
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files


def wait_for(condition, seconds=20):
    until = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < until
        time.sleep(0.005)


def rate_of_half_a_second(player):
    """Samples a second; a machine that stood still meanwhile makes it too small."""
    first = player.status()
    wait_for(lambda: player.status().sample > first.sample + 24000)
    later = player.status()
    return (later.sample - first.sample) / (later.clock - first.clock)


def test_a_film_plays_in_real_time_in_the_other_process(demo):
    project = load(demo)
    files = {sound: str(path) for sound, path in sound_files(project, demo).items()}
    player = PlayerProcess(48000, user_cache())
    try:
        player.send(Load(project, plan(project, Run()), files))
        player.send(Play(0))
        wait_for(lambda: player.status().doing == FILM)
        wait_for(lambda: 0.9 < rate_of_half_a_second(player) / 48000 < 1.1)
        player.send(Stop())
        wait_for(lambda: player.status().doing == IDLE)
    finally:
        player.close()


def test_a_player_that_died_says_so_and_takes_nothing_more():
    player = PlayerProcess(48000, user_cache())
    player._process.kill()
    player._process.join()
    assert not player.alive
    assert player.status().doing == IDLE
    player.send(Stop())
    assert not player.send(Stop())
    player._pipe.close()
