"""What comes out, measured and told: every block once, with what is over and where."""

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.metering import NOTHING, Metered
from cicada.media.cache import user_cache
from cicada.playback.messages import FILM, IDLE, Load, Meter, Pace, Play, Stop
from cicada.playback.meters import MOST_LAYERS, ROWS, SIZE, Reading, Ring, packed, unpacked
from cicada.playback.output import RecordingOutput
from cicada.playback.player import BLOCK, Player
from tests.playback.sound_server import RATE


def reading(number, layers=3):
    loud = Metered(-20.5, None, -23.0, (0.5, 0.25), 0.1, None)
    peaks = np.linspace(0, 1, layers).astype(np.float32)
    where = (number * BLOCK, 2, 7, FILM, number * 511.5)
    return Reading(*where, 0.5, 0.25, -1.0, 0.0, -1.0, loud, NOTHING, peaks)


def same(one, other):
    return one[:-1] == other[:-1] and np.array_equal(one.layers, other.layers)


@pytest.mark.parametrize("layers", [0, 1, 3, MOST_LAYERS])
def test_a_reading_is_read_as_it_was_written(layers):
    row = np.zeros(2000)
    written = packed(reading(5, layers))
    row[: len(written)] = written
    assert same(unpacked(row), reading(5, layers))


def test_of_more_layers_than_there_is_room_for_the_first_are_told():
    ring = Ring(memoryview(np.zeros(SIZE)))
    ring.write(reading(1, MOST_LAYERS + 50))
    (found,) = ring.read()
    assert len(found.layers) == MOST_LAYERS


def test_each_row_is_read_once_and_in_order_and_who_is_late_misses_the_oldest():
    memory = np.zeros(SIZE)
    writer, reader = Ring(memoryview(memory)), Ring(memoryview(memory))
    for number in range(10):
        writer.write(reading(number))
    assert [each.written // BLOCK for each in reader.read()] == list(range(10))
    assert list(reader.read()) == []
    for number in range(10, 10 + 2 * ROWS):
        writer.write(reading(number))
    found = [each.written // BLOCK for each in reader.read()]
    assert found == list(range(found[0], 10 + 2 * ROWS))
    assert ROWS - 32 < len(found) <= ROWS


@pytest.fixture
def player():
    return Player(RecordingOutput(RATE), user_cache())


def play(player, film, blocks, level=1.0, start=0):
    project = replace(film.project, level=level)
    player.handle(Load(project, film.plan, film.files, number=3))
    player.handle(Play(start))
    for _ in range(blocks):
        player.step()
    return list(player.readings)


def test_each_block_has_its_peaks_its_place_and_its_plan(player, film):
    found = play(player, film, 60)
    heard = player.output.recorded().T
    for number, each in enumerate(found):
        block = heard[:, number * BLOCK : (number + 1) * BLOCK]
        assert (each.left, each.right) == tuple(np.abs(block).max(axis=1).tolist())
        assert (each.written, each.sample, each.load) == (number * BLOCK, number * BLOCK, 3)
        assert (each.doing, each.plays) == (FILM, 1)
        assert len(each.layers) == sum(len(scene.layers) for scene in film.project.scenes)


def test_the_first_sample_past_full_scale_is_told_with_its_place(player, film):
    found = play(player, film, 400, level=4.0)
    heard = np.abs(player.output.recorded()).max(axis=1)
    for each in found:
        block = heard[each.written : each.written + BLOCK]
        over = np.flatnonzero(block > 1.0)
        assert each.over_at == (each.sample + over[0] if len(over) else -1)
    assert any(each.over_at >= 0 for each in found)
    true = [each for each in found if each.true_over]
    assert true
    assert all(each.true_over > 1 and abs(each.true_at - each.sample) < 9 * BLOCK for each in true)


def test_loudness_goes_on_while_it_plays_and_begins_anew_with_the_next(player, film):
    found = play(player, film, 200)
    assert found[10].whole.momentary is None
    assert found[-1].whole.integrated is not None
    player.readings.clear()
    player.handle(Stop())
    player.handle(Play(0))
    player.step()
    assert player.readings[0].whole == NOTHING


def test_the_chosen_layer_is_measured_closely(player, film):
    player.handle(Meter("l6"))
    found = play(player, film, 250, start=int(3 * RATE))
    assert found[-1].chosen != NOTHING
    assert found[-1].chosen != found[-1].whole
    player.handle(Meter(""))
    player.step()
    assert player.readings[-1].chosen == NOTHING


def test_while_nothing_plays_there_is_nothing_to_tell_but_silence(player, film):
    player.step()
    (silent,) = player.readings
    assert (silent.doing, silent.left, silent.right, silent.over_at) == (IDLE, 0.0, 0.0, -1.0)


def test_slower_an_over_stands_at_the_sample_of_the_run(player, film):
    player.handle(Pace(0.5, at_pitch=False))
    found = play(player, film, 800, level=4.0)
    overs = [each for each in found if each.over_at >= 0]
    assert overs
    assert all(each.sample <= each.over_at < each.sample + BLOCK / 2 for each in overs)
