"""The player, driven without a clock: what comes out is the render, and nothing clicks."""

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.media.opened import OpenedSounds
from cicada.playback.messages import (
    FILM,
    IDLE,
    LISTENING,
    Listen,
    Load,
    Play,
    Repeat,
    Scrub,
    Stop,
)
from cicada.playback.output import OutputFailed, RecordingOutput, SilentOutput
from cicada.playback.player import BLOCK, Player, same_moment
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files

RATE = 48000
# The steepest change from one sample to the next that the demo's own sounds make is below this.
CLICK = 0.35


class Virtual:
    """Time that only passes when somebody sleeps."""

    def __init__(self):
        self.now = 100.0

    def clock(self):
        return self.now

    def sleep(self, seconds):
        self.now += seconds


class Film:
    def __init__(self, demo):
        self.project = load(demo)
        self.plan = plan(self.project, Run())
        self.files = {sound: str(path) for sound, path in sound_files(self.project, demo).items()}
        sources = OpenedSounds(self.project, sound_files(self.project, demo), user_cache())
        self.render = Mixer(self.plan, self.project, sources).mix(0, self.plan.length).T

    def player(self):
        player = Player(RecordingOutput(RATE), user_cache())
        player.handle(Load(self.project, self.plan, self.files))
        return player


@pytest.fixture(scope="module")
def film(demo):
    return Film(demo)


def run(player, blocks):
    for _ in range(blocks):
        player.step()
    return player.output.recorded()


def test_what_is_played_is_the_render_sample_for_sample(film):
    player = film.player()
    player.handle(Play(0))
    heard = run(player, film.plan.length // BLOCK + 2)
    assert np.array_equal(heard[: film.plan.length], film.render)
    assert not heard[film.plan.length :].any()
    assert player.status(0.0).doing == IDLE


def test_playing_from_the_middle_fades_in_and_is_then_the_render(film):
    player = film.player()
    player.handle(Play(200_000))
    heard = run(player, 40)
    assert abs(heard[0]).max() < 0.01
    assert np.array_equal(heard[480:], film.render[200_480 : 200_000 + len(heard)])


def test_stopping_falls_silent_within_ten_milliseconds_without_a_click(film):
    player = film.player()
    player.handle(Play(120_000))
    run(player, 20)
    player.handle(Stop())
    heard = run(player, 4)
    assert np.abs(np.diff(heard, axis=0)).max() < CLICK
    assert not heard[20 * BLOCK + 480 :].any()


def test_a_new_plan_takes_over_at_the_same_frame_without_a_click_or_a_gap(film):
    quieter = replace(film.project, level=0.4)
    new = plan(quieter, Run())
    player = film.player()
    player.handle(Play(100_000))
    run(player, 10)
    player.handle(Load(quieter, new, film.files))
    heard = run(player, 30)
    assert np.abs(np.diff(heard, axis=0)).max() < CLICK
    at = 10 * BLOCK + 480
    wanted = film.render[100_000 + at : 100_000 + len(heard)] / 2
    assert np.abs(heard[at:] - wanted).max() < 1e-6


def test_a_film_cut_shorter_goes_on_at_the_nearest_earlier_frame(film):
    scenes = list(film.project.scenes)
    scenes[0] = replace(scenes[0], length=20)
    shorter = plan(replace(film.project, scenes=tuple(scenes)), Run())
    at = film.plan.entered(40, 0)
    assert shorter.frame_at(same_moment(film.plan, shorter, at))[1] == 19


def test_repeating_goes_round_with_a_cross_over(film):
    player = film.player()
    player.handle(Play(0, (48_000, 60_000)))
    heard = run(player, 200)
    assert np.array_equal(heard[:60_000], film.render[:60_000])
    again = heard[60_480:72_000]
    assert np.array_equal(again, film.render[48_480:60_000])
    assert np.abs(np.diff(heard, axis=0)).max() < CLICK
    player.handle(Repeat(None))
    run(player, 2000)
    assert player.status(0.0).doing == IDLE


def test_scrubbing_sounds_a_slice_with_soft_edges(film):
    player = film.player()
    player.handle(Scrub(150_000, 152_000))
    heard = run(player, 8)
    assert np.array_equal(heard[300:1700], film.render[150_300:151_700])
    assert abs(heard[0]).max() < 0.01
    assert not heard[2000:].any()


def test_listening_plays_one_sound_once(film):
    player = film.player()
    sound = film.project.sound("s9")
    player.handle(Listen(user_cache().sound_key(sound.hash, RATE), 0.5))
    run(player, 4)
    assert player.status(0.0).doing == LISTENING
    heard = run(player, 60)
    assert heard.any()
    assert not heard[-BLOCK:].any()


def test_the_position_is_that_of_the_sample_that_is_audible(film):
    time = Virtual()
    player = Player(SilentOutput(RATE, clock=time.clock, sleep=time.sleep), user_cache())
    player.handle(Load(film.project, film.plan, film.files))
    for _ in range(30):
        player.step()
    player.handle(Play(0))
    begun = time.now
    for _ in range(94):
        player.step()
    status = player.status(time.now)
    played = (time.now - begun) * RATE
    assert status.doing == FILM
    assert status.sample == pytest.approx(played - 0.1 * RATE, abs=1)


class Failing(RecordingOutput):
    def write(self, block):
        raise OutputFailed("the sound device has gone", remedy="connect it again")


def test_a_device_that_goes_is_replaced_by_the_silent_one(film):
    player = Player(Failing(RATE), user_cache(), lambda failure: RecordingOutput(RATE))
    player.handle(Load(film.project, film.plan, film.files))
    player.handle(Play(0))
    run(player, 3)
    assert player.status(0.0).doing == FILM
