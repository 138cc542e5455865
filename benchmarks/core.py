"""Planning, mixing, and the project file."""

import sys
from dataclasses import make_dataclass

import msgspec
import numpy as np
from msgspec.structs import replace

from benchmarks.films import RATE, Noise, crowd, many_keyframes, project
from benchmarks.runner import absolute, compare, figure, measure
from cicada.core.answers import Blend, BlendPart, Value
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Run, Sound
from cicada.core.plan import Voice
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from cicada.deliver.levels import BLOCK
from cicada.playback.messages import FILM, Load
from cicada.playback.meters import Meters, packed
from cicada.playback.player import BLOCK as BLOCK_PLAYED
from cicada.store.projectfile import dumps, loads

LIVE = 1024
# Blocks played in one go, and how often, where a share of the processor is measured.
AT_ONCE, ROUNDS = 90, 15


def figures():
    yield from planning()
    yield from mixing()
    yield from blends()
    yield from meters()
    yield from files()


def planning():
    names = [field.name for field in msgspec.structs.fields(Voice)]
    plain = make_dataclass("Plain", names, frozen=True, slots=True)
    small, large = many_keyframes(10_000), many_keyframes(20_000)
    values = [getattr(plan(small).voices[0], name) for name in names]
    took = measure(
        {
            "small": lambda: plan(small, Run()),
            "large": lambda: plan(large, Run()),
            "floor": lambda: [plain(*values) for _ in range(10_000)],
        }
    )
    yield figure(
        "planning 10,000 keyframes, to building as many records", took["small"], took["floor"], 10
    )
    yield figure("planning 20,000 keyframes, to planning 10,000", took["large"], took["small"], 2.3)


def mixing():
    made = crowd()
    noise, planned = Noise(made), plan(made)
    pieces = [(v.start, v.end, noise.sounds[v.sound], np.float32(0.1)) for v in planned.voices]

    def floor():
        out = np.zeros((2, planned.length), np.float32)
        for start, end, samples, level in pieces:
            out[:, start:end] += samples * level
        return out

    def blocks():
        mixer = Mixer(planned, made, noise)
        for at in range(0, planned.length, BLOCK):
            yield mixer.mix(at, min(BLOCK, planned.length - at))

    def render():
        for _ in blocks():
            pass

    # The same mix, but for the fades.
    assert np.abs(np.concatenate(list(blocks()), axis=1) - floor()).mean() < 0.01
    yield compare(
        "rendering 1,200 clips in 60 s, to one addition for each clip", render, floor, 1.2
    )
    yield live(planned, made, noise)


def live(planned, made, noise):
    """Playing on, block by block, against the bare calls on the very same samples."""
    mixer = Mixer(planned, made, noise)
    begin, count, rounds = 10 * 48000, 20, 31
    end = begin + (rounds + 1) * count * LIVE
    mixer.mix(begin - LIVE, LIVE)
    slices = iter([bare_slices(planned, noise, at) for at in range(begin, end, LIVE)])
    starts = iter(range(begin, end, LIVE))
    level = np.float32(0.1)

    def blocks():
        for _ in range(count):
            mixer.mix(next(starts), LIVE)

    def bare():
        for _ in range(count):
            out = np.zeros((2, LIVE), np.float32)
            scratch = np.empty((2, LIVE), np.float32)
            for samples in next(slices):
                if samples.shape[1] == LIVE:
                    np.multiply(samples, level, scratch)
                    np.add(out, scratch, out)
                else:
                    into, target = scratch[:, : samples.shape[1]], out[:, : samples.shape[1]]
                    np.multiply(samples, level, into)
                    np.add(target, into, target)

    name = "20 live blocks of 1024 with 64 voices, to their bare calls"
    return compare(name, blocks, bare, 1.6, rounds)


def bare_slices(planned, noise, at):
    """What each voice sounding in the block at ``at`` has to add to it."""
    return [
        noise.sounds[v.sound][:, max(at, v.start) - v.start : min(at + LIVE, v.end) - v.start]
        for v in planned.voices
        if v.start < at + LIVE and v.end > at
    ]


def files():
    made = many_keyframes(10_000)
    text = dumps(made)
    encoder, decoder = msgspec.json.Encoder(), msgspec.json.Decoder(Project)
    yield compare(
        "writing out 10,000 keyframes, to bare msgspec",
        lambda: dumps(made),
        lambda: encoder.encode(made),
        2.5,
    )
    yield compare(
        "reading in 10,000 keyframes, to bare msgspec",
        lambda: loads(text),
        lambda: decoder.decode(text),
        2.0,
    )


if __name__ == "__main__":
    for each in figures():
        print(each, file=sys.stderr)


def blends():
    """What a blend of four parts costs, standing and moving, to as many layers of one sound."""
    count, value = 8, Value(id="v")
    names = ("s", "t", "u", "w")
    sounds = [Sound(id=name, frames=RATE, rate=RATE, channels=2) for name in names]
    parts = tuple(BlendPart(sound=name, at=n / 3) for n, name in enumerate(names))
    alone = replace(steady(count), sounds=tuple(sounds))
    layers = tuple(
        replace(layer, keyframes=(replace(layer.keyframes[0], sound="b"),))
        for layer in alone.scenes[0].layers
    )
    blend = Blend(id="b", value="v", parts=parts)
    for words, moves, target in (("standing", (), 2.5), ("moving", ((0.0, 0.0), (1440.0, 1.0)), 6)):
        lines = {"v": moves} if moves else {}
        scene = replace(alone.scenes[0], layers=layers, value_lines=lines)
        made = replace(
            alone, version=2, values=(replace(value, start=0.5),), blends=(blend,), scenes=(scene,)
        )
        one, four = (Mixer(plan(each), each, SteadyNoise()) for each in (alone, made))
        at = {one: 0, four: 0}

        def blocks(mixer, at=at):
            for _ in range(AT_ONCE):
                mixer.mix(at[mixer], BLOCK_PLAYED)
                at[mixer] += BLOCK_PLAYED

        name = f"a blend of four parts at a {words} value, to one sound"
        yield compare(name, lambda m=four: blocks(m), lambda m=one: blocks(m), target, ROUNDS)


def meters():
    """What metering adds to each block that is played, as a share of the time the block lasts."""
    for count, target in ((8, 2.0), (64, 8.0)):
        made = steady(count)
        noise, planned = SteadyNoise(), plan(made)
        plain, metered = Mixer(planned, made, noise), Mixer(planned, made, noise)
        measuring = Meters(RATE)
        measuring.watch(metered, Load(made, planned, {}))
        at = {plain: 0, metered: 0}

        def blocks(mixer, at=at, measuring=measuring):
            for _ in range(AT_ONCE):
                block = mixer.mix(at[mixer], BLOCK_PLAYED)
                if mixer.meter is not None:
                    where = (at[mixer], 1, 0, FILM, at[mixer])
                    packed(measuring.read(block, where, 1.0, mixer))
                at[mixer] += BLOCK_PLAYED

        took = measure(
            {"plain": lambda m=plain: blocks(m), "metered": lambda m=metered: blocks(m)}, ROUNDS
        )
        share = (took["metered"] - took["plain"]) / (AT_ONCE * BLOCK_PLAYED / RATE)
        name = f"meters of the whole and {count} layers, of a core"
        yield absolute(name, 100 * share, "%", target)


def steady(count):
    """A minute of so many layers, each of which sounds all the time."""
    layers = [
        Layer(id=f"l{n}", keyframes=(Clip(frame=0, sound="s", loops=0, level=1 / count),))
        for n in range(count)
    ]
    sound = Sound(id="s", frames=RATE, rate=RATE, channels=2)
    return project(layers, [sound], 60 * 24)


class SteadyNoise:
    """A second of noise."""

    def __init__(self):
        random = np.random.default_rng(1)
        self._noise = InMemory(random.uniform(-0.5, 0.5, (2, RATE)).astype(np.float32))

    def source(self, sound, first, last, speed):
        return self._noise
