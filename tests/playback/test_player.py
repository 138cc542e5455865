"""The player, driven without a clock: what comes out is the render, and nothing clicks."""

from concurrent.futures import Future
from random import Random

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.answers import Fire, Follows, Input, Pad, Value
from cicada.core.live import awaiting
from cicada.core.mix import Mixer
from cicada.core.model import PressPoint, Run
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.playback.messages import (
    FILM,
    IDLE,
    LISTENING,
    SCRUBBING,
    Began,
    Count,
    CountIn,
    Give,
    Given,
    LetGo,
    Listen,
    Load,
    Mute,
    Pace,
    Play,
    Press,
    Pressed,
    Repeat,
    Scrub,
    Step,
    Stop,
)
from cicada.playback.output import LATENCY, RecordingOutput, SilentOutput
from cicada.playback.player import BLOCK, Player
from tests.playback.sound_server import RATE

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


def pressed(player):
    return [report.sample for report in player.reports if isinstance(report, Pressed)]


class Beside:
    """Has things made ready after so many blocks, or when told."""

    def __init__(self, blocks=None):
        self.blocks, self.asked = blocks, []

    def __call__(self, make):
        future = Future()
        self.asked.append([self.blocks, make, future])
        return future

    def passes(self):
        """A block is mixed."""
        for each in self.asked:
            each[0] -= 1
        while self.asked and self.asked[0][0] <= 0:
            self.finish()

    def finish(self):
        _, make, future = self.asked.pop(0)
        future.set_result(make())


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


def test_a_range_is_played_as_often_as_asked(film):
    player = film.player()
    player.handle(Play(0, (0, 12_000), 3))
    heard = run(player, 80)
    assert np.array_equal(heard[24_480:36_000], film.render[480:12_000])
    assert not heard[36_480:].any()


def test_stepping_sounds_a_slice_with_soft_edges(film):
    player = film.player()
    player.handle(Step(150_000, 155_000))
    heard = run(player, 12)
    assert np.array_equal(heard[300:4700], film.render[150_300:154_700])
    assert abs(heard[0]).max() < 0.01
    assert not heard[5000:].any()


def dragged(film, frames, blocks=3):
    """What is heard while a hand passes over these frames, and then lets go."""
    player, base = film.player(), film.plan.timebase
    for frame in frames:
        player.handle(Scrub(base.start(frame), base.start(frame + 1)))
        run(player, blocks)
    player.handle(LetGo())
    heard = run(player, 60)
    return player, heard


# What is passed over nine times as fast is as much steeper, but for what is too high to be heard.
DRAGS = [(range(70, 110), 1), (range(110, 70, -1), 1), (range(60, 200, 7), 3)]


@pytest.mark.parametrize(("frames", "steeper"), DRAGS)
def test_dragging_sounds_what_is_passed_over_both_ways_without_a_click(film, frames, steeper):
    player, heard = dragged(film, frames)
    assert np.abs(heard).max() > 0.02
    assert np.abs(np.diff(heard, axis=0)).max() < CLICK * steeper
    assert player.status(0.0).doing == IDLE
    assert not heard[-10 * BLOCK :].any()


def test_dragging_backwards_sounds_the_run_backwards(film):
    player, start = film.player(), 170_000
    player.handle(Scrub(start, start + 2000))
    player._feed.sample = player._feed._goal = float(start)
    player.handle(Scrub(start - 24_000, start - 22_000))
    heard = run(player, 4)
    assert player._feed.sample < start
    # Its speed is known, so the same place is found: what comes now is what was passed over.
    at, speed = player._feed.sample, player._feed._speed
    assert speed < -1
    run(player, 1)
    speeds = speed + (player._feed._speed - speed) * (np.arange(BLOCK) + 1) / BLOCK
    places = at + np.cumsum(speeds)
    nearest = film.render[np.round(places).astype(int), 0]
    heard = player.output.recorded()[-BLOCK:, 0]
    assert np.corrcoef(heard, nearest)[0, 1] > 0.8


def test_a_frame_the_hand_rests_on_is_repeated_more_softly(film):
    base = film.plan.timebase
    player = film.player()
    player.handle(Scrub(base.start(120), base.start(121)))
    heard = run(player, 100)
    again = heard[50 * BLOCK :]
    there = film.render[base.start(120) : base.start(120) + 4000]
    assert 0 < np.abs(again).max() <= 0.5 * np.abs(there).max() + 1e-6
    assert np.abs(np.diff(heard, axis=0)).max() < CLICK
    assert player.status(0.0).doing == SCRUBBING


def test_half_as_fast_is_the_mix_twice_as_long_and_an_octave_deeper(film):
    import soxr

    player = film.player()
    player.handle(Pace(0.5, at_pitch=False))
    player.handle(Play(0))
    heard = run(player, 400)
    wanted = soxr.resample(film.render[:120_000], 1000, 2000)
    assert np.abs(heard[: 400 * BLOCK] - wanted[: 400 * BLOCK]).max() < 1e-3
    assert player.status(0.0).sample == pytest.approx(200 * BLOCK)


def test_a_quarter_as_fast_at_pitch_keeps_the_pitch_and_where_things_are(film):
    player = film.player()
    player.handle(Pace(0.25, at_pitch=True))
    player.handle(Play(144_000))
    heard = run(player, 400)[:, 0]
    there = film.render[144_000 : 144_000 + 100 * BLOCK, 0]
    # As loud in every fifth, and the same middle of the spectrum.
    for part, source in zip(np.array_split(heard, 5), np.array_split(there, 5), strict=True):
        assert np.sqrt((part**2).mean()) == pytest.approx(np.sqrt((source**2).mean()), rel=0.35)
    assert centre(heard) == pytest.approx(centre(there), rel=0.1)
    assert np.abs(np.diff(heard)).max() < CLICK


def centre(samples):
    power = np.abs(np.fft.rfft(samples)) ** 2
    return (power * np.arange(len(power))).sum() / power.sum() / len(power)


def test_a_clip_muted_for_now_is_heard_no_more_and_its_neighbours_are(film):
    player = film.player()
    voice = max(film.plan.voices, key=lambda v: min(v.end, 480_000) - max(v.start, 240_000))
    clip = (voice.layer, voice.frame)
    player.handle(Play(0))
    player.handle(Mute((clip,)))
    heard = run(player, 900)
    sources = player._ready.played
    assert all(voice.cell != clip for voice in sources._voices)
    without = sources.mix(480, len(heard) - 480).T
    assert np.array_equal(heard[480:], without)
    assert not np.array_equal(heard[480:], film.render[480 : len(heard)])


def waiting_film(film):
    """The demo as it waits at its first scene, with an endless bed under it."""
    scene = film.project.scenes[0]
    scene = replace(scene, press_points=(PressPoint(frame=10),))
    return replace(film.project, scenes=(scene, *film.project.scenes[1:]))


@pytest.mark.parametrize("blocks", [0, 1, 7])
def test_what_is_heard_with_presses_is_the_render_of_the_run_with_them(film, blocks):
    project, beside = waiting_film(film), Beside(blocks)
    player = Player(RecordingOutput(RATE), user_cache(), None, beside)

    def passing(number):
        for _ in range(number):
            beside.passes()
            player.step()

    first = plan(project, awaiting(Run(), RATE))
    player.handle(
        Load(project, plan(project, Run()), film.files, played=first, live=Run(press_points="wait"))
    )
    passing(blocks + 1)
    player.handle(Play(0))
    passing(20)
    player.handle(Press())
    passing(80)
    assert not pressed(player)
    presses = []
    for number in range(4):
        asked = player._film.at if player._film else None
        player.handle(Press())
        passing(300)
        presses += pressed(player)
        if pressed(player):
            # Not later than what planning it takes, half as much again and a block; twice at first,
            # and once more where the run was just being planned on. What ends fades out before it.
            most = RATE // 500 + ((blocks * 2.5 + 1) * BLOCK if blocks else 0)
            assert 0 <= presses[-1] - asked <= most + (not number) * blocks * BLOCK
        player.reports.clear()
    assert presses
    kept = Run(press_points="wait", presses=tuple(presses))
    sources = player._ready.drawn._tones._sources
    heard = player.output.recorded()
    heard = heard[(blocks + 1) * BLOCK :]
    wanted = Mixer(plan(project, kept), project, sources).mix(0, len(heard)).T
    stands = [e.at for e in plan(project, kept).events if e.kind == "waiting" and e.until is None]
    known = min([len(heard), *stands])
    assert np.array_equal(heard[:known], wanted[:known])


@pytest.mark.parametrize("blocks", [0, 3])
def test_what_is_heard_of_pads_and_values_in_a_long_run_is_the_render_of_them(film, blocks):
    beside, rounds = Beside(blocks), Random(blocks)
    project = waiting_film(film)
    pads = tuple(
        Pad(id=sound.id, does=(Fire(sound=sound.id, if_sounding="restart"),), follows=follows)
        for sound, follows in zip(
            project.sounds[:3],
            (None, Follows(value="v", points=((0.0, 0.2), (1.0, 1.0))), None),
            strict=True,
        )
    )
    project = replace(project, version=2, pads=pads, values=(Value(id="v"),))
    player = Player(RecordingOutput(RATE), user_cache(), None, beside)
    first, live = plan(project, awaiting(Run(), RATE)), Run(press_points="wait")
    player.handle(Load(project, plan(project, Run()), film.files, played=first, live=live))
    for _ in range(blocks + 1):
        beside.passes()
        player.step()
    player.handle(Play(0))
    # Longer than a live run is planned ahead, with silence from its user in the middle.
    for number in range(900):
        if number < 300 or number > 700:
            if not rounds.randrange(25):
                player.handle(Give(Input(at=0, pad=rounds.choice(pads).id)))
            if not rounds.randrange(25):
                player.handle(Give(Input(at=0, value="v", to=rounds.random(), over=0.03)))
        beside.passes()
        player.step()
    given = tuple(report.input for report in player.reports if isinstance(report, Given))
    assert len(given) > 20
    kept = Run(press_points="wait", inputs=(*given, Input(at=900 * BLOCK)))
    sources = player._ready.drawn._tones._sources
    heard = player.output.recorded()[(blocks + 1) * BLOCK :]
    wanted = Mixer(plan(project, kept), project, sources).mix(0, len(heard)).T
    assert np.abs(heard - wanted).max() < 1e-5


def test_what_is_given_counts_even_after_all_that_is_known_yet(film):
    project = waiting_film(film)
    pad = Pad(id="p", does=(Fire(sound=project.sounds[0].id),))
    project = replace(project, version=2, pads=(pad,))
    player = Player(RecordingOutput(RATE), user_cache())
    first, live = plan(project, awaiting(Run(), RATE)), Run(press_points="wait")
    player.handle(Load(project, plan(project, Run()), film.files, played=first, live=live))
    player.handle(Play(0))
    run(player, 20)
    # As where planning took so long that much was heard meanwhile.
    player._ahead = 2 * RATE
    player.handle(Give(Input(at=0, pad="p"), 1))
    (given,) = (report.input for report in player.reports if isinstance(report, Given))
    assert given.at > 2 * RATE
    heard = run(player, 300)
    kept = Run(press_points="wait", inputs=(given, Input(at=len(heard))))
    sources = player._ready.drawn._tones._sources
    wanted = Mixer(plan(project, kept), project, sources).mix(0, len(heard)).T
    assert np.abs(heard - wanted).max() < 1e-5


def test_what_is_asked_for_while_a_film_is_made_ready_waits_for_it_and_silence_does_not(film):
    beside = Beside()
    player = Player(RecordingOutput(RATE), user_cache(), None, beside)
    player.handle(Load(film.project, film.plan, film.files))
    player.handle(Play(0))
    assert not run(player, 4).any()
    beside.finish()
    heard = run(player, 40)
    assert np.array_equal(heard[4 * BLOCK :], film.render[: 40 * BLOCK])
    player.handle(Load(film.project, film.plan, film.files))
    player.handle(Play(0))
    player.handle(Stop())
    assert not run(player, 4)[45 * BLOCK :].any()
    beside.finish()
    heard = run(player, 10)[48 * BLOCK :]
    assert np.abs(heard).max() < 1e-2
    assert not heard[BLOCK:].any()
    assert player.status(0.0).plays == 2


def test_silence_asked_for_twice_does_not_click(film):
    player = film.player()
    player.handle(Play(120_000))
    run(player, 20)
    player.handle(Stop())
    player.handle(Stop())
    assert np.abs(np.diff(run(player, 4), axis=0)).max() < CLICK


def test_listening_plays_one_sound_once(film):
    player = film.player()
    sound = film.project.sound("s9")
    player.handle(Listen(user_cache().sound_key(sound.hash, RATE), 0.5))
    run(player, 4)
    assert player.status(0.0).doing == LISTENING
    heard = run(player, 60)
    assert heard.any()
    assert not heard[-BLOCK:].any()


def test_a_peak_between_two_looks_at_the_meter_is_told_once_it_is_audible(film):
    time = Virtual()
    player = Player(SilentOutput(RATE, clock=time.clock, sleep=time.sleep), user_cache())
    player.handle(Load(film.project, film.plan, film.files))
    loudest = int(np.abs(film.render).max(axis=1).argmax())
    player.handle(Play(max(0, loudest - 30 * BLOCK)))
    told, looks = [], 0
    while player.status(time.now).doing == FILM or looks < 20:
        # A window that looks seven times as rarely as a block is mixed.
        for _ in range(7):
            player.step()
        looks += 1
        audible = player.status(time.now).written
        while player.readings and player.readings[0].written < audible:
            reading = player.readings.popleft()
            told.append((max(reading.left, reading.right), reading.sample))
    peak, sample = max(told)
    assert peak == pytest.approx(np.abs(film.render[loudest]).max(), rel=1e-3)
    assert sample <= loudest < sample + BLOCK


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
    assert status.sample == pytest.approx(played - LATENCY * RATE, abs=1)


@pytest.mark.parametrize("at_pitch", [True, False])
def test_a_live_run_played_slower_is_over_when_its_film_is(film, at_pitch):
    player = Player(RecordingOutput(RATE), user_cache())
    project = replace(waiting_film(film), scenes=waiting_film(film).scenes[:1])
    first = plan(project, awaiting(Run(), RATE))
    player.handle(
        Load(project, plan(project, Run()), film.files, played=first, live=Run(press_points="wait"))
    )
    player.handle(Pace(0.5, at_pitch=at_pitch))
    player.handle(Play(0))
    run(player, 150)
    player.handle(Press())
    (press,) = pressed(player)
    length = plan(project, Run(press_points="wait", presses=(press,))).length
    run(player, 2 * length // BLOCK - 150 - 4)
    assert player.status(0.0).doing == FILM
    run(player, 12)
    assert player.status(0.0).doing == IDLE


def test_a_new_hand_after_one_that_let_go_begins_where_it_is(film):
    base, player = film.plan.timebase, film.player()
    player.handle(Scrub(base.start(20), base.start(21)))
    run(player, 2)
    player.handle(LetGo())
    player.handle(Scrub(base.start(200), base.start(201)))
    run(player, 1)
    assert player._feed.sample >= base.start(200)
    assert player._feed.held


def began(player):
    return [report for report in player.reports if isinstance(report, Began)]


@pytest.mark.parametrize("heard", [True, False])
def test_a_film_is_counted_in_with_clicks_and_begins_to_the_sample_where_it_says(film, heard):
    player = film.player()
    player.step()
    start = 3 * RATE
    player.handle(Play(start, count_in=CountIn((0, RATE // 2), RATE), heard=heard))
    run(player, 30)
    # Another plan that comes meanwhile counts no further.
    player.handle(Load(film.project, film.plan, film.files))
    run(player, 200)
    (said,) = began(player)
    assert (said.sample, said.written, said.plays) == (start, BLOCK + RATE, 1)
    out = player.output.recorded()
    clicks = np.abs(out[:RATE]).max(axis=1) > 0.05
    assert np.flatnonzero(clicks[: RATE // 4]).min() < BLOCK + 500
    assert np.flatnonzero(clicks[RATE // 2 + BLOCK - 100 :]).min() < 600
    assert not clicks[RATE // 4 : RATE // 2].any()
    after = out[said.written : said.written + RATE]
    wanted = film.render[start : start + RATE] if heard else np.zeros((RATE, 2))
    np.testing.assert_allclose(after, wanted, atol=1e-6)
    at = player.status(0.0)
    assert at.sample == start + at.written - said.written


def test_while_it_is_counted_in_the_film_stands_at_its_beginning(film):
    player = film.player()
    player.handle(Play(RATE, count_in=CountIn((0,), RATE)))
    run(player, 50)
    status = player.status(0.0)
    assert (status.doing, status.sample, status.pace) == (FILM, RATE, 0.0)


def test_what_is_counted_in_by_itself_is_over_with_its_last_click(film):
    player = film.player()
    player.handle(Count(CountIn((0, 12_000), 24_000)))
    run(player, 60)
    assert began(player)[0].written == 24_000
    assert player.status(0.0).doing == IDLE
    assert not player.output.recorded()[24_000:].any()
