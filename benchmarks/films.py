"""Large made-up projects for the benchmarks."""

import numpy as np

from cicada.core.model import Clip, Layer, Project, Scene, Sound
from cicada.core.tone import InMemory

RATE = 48000
# What the sound of the large films is known by.
TAP = f"blake2b:{7:040x}"


def project(layers, sounds, length, fps=(24, 1)):
    scene = Scene(id="sc", name="Scene", length=length, layers=tuple(layers))
    return Project(
        format="cicada-project",
        version=1,
        fps=fps,
        rate=RATE,
        sounds=tuple(sounds),
        scenes=(scene,),
    )


def many_keyframes(count, layers=100):
    """``count`` free clips spread over some layers."""
    per = count // layers
    rows = [
        Layer(
            id=f"l{number}",
            keyframes=tuple(
                Clip(frame=12 * i + number % 12, sound="s", level=0.5, loops=2) for i in range(per)
            ),
        )
        for number in range(layers)
    ]
    sound = Sound(id="s", name="Tap", frames=30000, rate=44100, channels=1, hash=TAP)
    return project(rows, [sound], 12 * per + 24)


def crowd():
    """1,200 stereo clips in 60 s, 64 voices at once on average, each with 5 ms fades."""
    seconds = 64 * 60 / 1200
    generator = np.random.default_rng(1)
    starts = np.sort(generator.uniform(0, 60 - seconds, 1200))
    rows: list[dict] = [{} for _ in range(80)]
    for number, start in enumerate(starts):
        frame = int(start * 24)
        row = next(r for r in (rows[(number + k) % 80] for k in range(80)) if frame not in r)
        row[frame] = Clip(
            frame=frame, sound=f"s{number % 20}", level=0.1, fade_in=0.005, fade_out=0.005
        )
    layers = [Layer(id=f"l{i}", keyframes=tuple(row.values())) for i, row in enumerate(rows)]
    frames = int(seconds * RATE)
    sounds = [Sound(id=f"s{i}", frames=frames, rate=RATE, channels=2) for i in range(20)]
    return project(layers, sounds, 60 * 24)


class Noise:
    """The sounds of ``crowd``."""

    def __init__(self, made):
        generator = np.random.default_rng(2)
        self.sounds = {
            s.id: generator.uniform(-1, 1, (2, s.frames)).astype(np.float32) for s in made.sounds
        }

    def source(self, sound, first, last, speed):
        return InMemory(self.sounds[sound][:, first:last])
