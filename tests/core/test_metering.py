"""True peaks, sides, and the peaks of each layer while they are mixed."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.answers import Follows, Input, Value
from cicada.core.layer_meter import LayerMeter
from cicada.core.metering import SignalMeter
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.true_peak import TruePeak
from tests.core.test_mix import Noise, shaped_films

RATE = 48000


def faded(signal):
    along = np.arange(len(signal))
    return signal * np.minimum(1, np.minimum(along, along[::-1]) / 1000)


@given(st.floats(0.002, 0.45), st.floats(0, 6.3), st.integers(64, 3000))
def test_the_true_peak_of_a_sine_is_its_amplitude(share, phase, block):
    signal = faded(0.5 * np.sin(2 * np.pi * share * np.arange(9000) + phase))
    meter = TruePeak(1)
    for first in range(0, len(signal), block):
        meter.add(signal[None, first : first + block])
    # Whether one of 16 places falls on its top takes a whole turn.
    if share > 0.01:
        assert 20 * np.log10(meter.held[0] / 0.5) == pytest.approx(0, abs=0.1)


def test_where_nothing_is_between_samples_it_is_the_highest_sample():
    signal = np.zeros((2, 500))
    signal[0, 200] = 0.7
    meter = TruePeak()
    assert meter.add(signal) == (pytest.approx(0.7), 200)
    assert meter.held.tolist() == pytest.approx([0.7, 0.0])


def test_a_peak_past_full_scale_is_said_each_time_and_where():
    # A quarter of the rate, half way between its tops: 3 dB above its samples.
    wave = faded(1.3 * np.sin(np.pi / 2 * np.arange(4800) + np.pi / 4))
    meter, said = SignalMeter(RATE), []
    for _ in range(2):
        for first in range(0, 4800, 400):
            over = meter.add(np.stack([wave, wave])[:, first : first + 400].astype(np.float32))
            if over is not None:
                said.append(over)
    assert np.abs(wave).max() < 0.93
    assert len(said) == 3
    assert max(over.peak for over in said) == pytest.approx(1.3, abs=0.01)
    assert all(0 < over.back <= 3200 for over in said)


@pytest.mark.parametrize(
    ("left", "right", "balance", "correlation"),
    [(1, 1, 0, 1), (1, -1, 0, -1), (1, 0, -1, None), (0, 1, 1, None), (0, 0, None, None)],
)
def test_balance_and_correlation_of_two_sides(left, right, balance, correlation):
    noise = np.random.default_rng(1).uniform(-0.5, 0.5, 4096).astype(np.float32)
    meter = SignalMeter(RATE)
    for first in range(0, 4096, 512):
        part = noise[first : first + 512]
        meter.add(np.stack([left * part, right * part]))
    metered = meter.metered
    for found, wanted in ((metered.balance, balance), (metered.correlation, correlation)):
        assert found == (None if wanted is None else pytest.approx(wanted, abs=1e-3))


@settings(max_examples=20)
@given(shaped_films(), st.lists(st.integers(1, 3000), min_size=1, max_size=6), st.data())
def test_metering_changes_no_sample_and_has_the_peak_of_each_layer_by_itself(film, blocks, data):
    project, run = film
    project = replace(project, level=0.5)
    planned, sources = plan(project, run), Noise()
    ids = [layer.id for _, layer in project.all_layers()]
    chosen = data.draw(st.sampled_from(ids))
    plain, metered = (Mixer(planned, project, sources) for _ in range(2))
    metered.meter = LayerMeter(project, chosen)
    bare = replace(project, level=1.0, scenes=tuple(replace(s, master=()) for s in project.scenes))
    alone = {
        layer: Mixer(planned, bare, sources, silent=set(ids) - {layer}) for layer in ids
    }  # fmt: skip
    at = 0
    for size in blocks:
        assert np.array_equal(metered.mix(at, size), plain.mix(at, size))
        peaks, kept = metered.meter.take()
        for layer, peak in zip(ids, peaks, strict=True):
            wanted = alone[layer].mix(at, size)
            assert peak == pytest.approx(np.abs(wanted).max(initial=0.0), rel=1e-4, abs=1e-6)
            if layer == chosen:
                assert np.allclose(np.concatenate(kept, axis=1), wanted, rtol=1e-4, atol=1e-5)
        at += size


def test_layers_turned_down_to_nothing_or_by_a_value_are_metered_as_silent():
    clip = Clip(frame=0, sound="s1", loops=0)
    layers = (
        Layer(id="heard", keyframes=(clip,)),
        Layer(id="down", level=0.0, keyframes=(clip,)),
        Layer(id="followed", follows=Follows(value="v", points=((0.5, 0.0), (1.0, 1.0))),
              keyframes=(clip,)),
    )  # fmt: skip
    project = Project(
        format="cicada-project", version=2, fps=(24, 1), rate=8000,
        values=(Value(id="v", start=1.0),),
        sounds=(Sound(id="s1", frames=4000, rate=8000, channels=2),),
        scenes=(Scene(id="sc", length=96, layers=layers),),
    )  # fmt: skip
    run = Run(inputs=(Input(at=800, value="v", to=0.0, over=2.0),))
    planned, sources = plan(project, run), Noise()
    plain, metered = (Mixer(planned, project, sources) for _ in range(2))
    metered.meter = LayerMeter(project)
    for at in range(0, 28_000, 500):
        assert np.array_equal(metered.mix(at, 500), plain.mix(at, 500))
        if at == 10_000:
            metered.meter.take()
    peaks, _ = metered.meter.take()
    assert peaks[0] > 0.5
    assert peaks[1:].tolist() == [0.0, 0.0]
