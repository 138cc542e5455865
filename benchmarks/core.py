"""Planning, mixing, and the project file."""

import sys
from dataclasses import make_dataclass

import msgspec
import numpy as np

from benchmarks.films import Noise, crowd, many_keyframes
from benchmarks.runner import compare, figure, measure
from cicada.core.mix import Mixer
from cicada.core.model import Project, Run
from cicada.core.plan import Voice
from cicada.core.planner import plan
from cicada.deliver.levels import BLOCK
from cicada.store.projectfile import dumps, loads

LIVE = 1024


def figures():
    yield from planning()
    yield from mixing()
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
