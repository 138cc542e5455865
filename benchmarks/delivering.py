"""Delivering: a long mix with many voices, and encoding, against the bare calls; memory."""

import os
import subprocess
import sys
import tempfile
from itertools import islice
from pathlib import Path

import numpy as np
import soundfile
from msgspec.structs import replace

from benchmarks.runner import Figure, compare, figure, measure
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Scene, Sound
from cicada.core.planner import plan
from cicada.core.recipes import Encoding, MixRecipe
from cicada.core.tone import InMemory
from cicada.deliver.encoding import encoding_to
from cicada.deliver.levels import BLOCK
from cicada.store.projectfile import save

RATE, MINUTES, VOICES = 48000, 10, 64
SOUNDS, SECONDS = 16, 40
FASTER, MEMORY = 40, 400


def figures():
    yield from mixing()
    yield from encoding()
    yield memory()


def film(file=lambda number: ""):
    """Ten minutes in which 64 voices sound all the time, each at its level and place."""
    frames = MINUTES * 60 * 24
    sounds = tuple(
        Sound(
            id=f"s{n}", name=f"{n}", frames=SECONDS * RATE, rate=RATE, channels=1 + n % 2,
            file=file(n), kept="linked",
        )
        for n in range(SOUNDS)
    )  # fmt: skip
    layers = tuple(
        Layer(
            id=f"l{n}", level=0.05, pan=(n % 5 - 2) / 2,
            keyframes=tuple(
                Clip(frame=at, sound=f"s{n % SOUNDS}") for at in range(n, frames, SECONDS * 24)
            ),
        )
        for n in range(VOICES)
    )  # fmt: skip
    scene = Scene(id="sc", length=frames, layers=layers)
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=RATE, sounds=sounds, scenes=(scene,)
    )


class Noise:
    def __init__(self, project):
        r = np.random.default_rng(1)
        self.sounds = {
            s.id: r.uniform(-1, 1, (s.channels, s.frames)).astype(np.float32)
            for s in project.sounds
        }

    def source(self, sound, first, last, speed):
        return InMemory(self.sounds[sound][:, first:last])


def gains_of(layer, project):
    """What a layer's level and pan come to for each side; one number where they are alike."""
    angle = (layer.pan + 1) * np.pi / 4
    sides = np.minimum(1, np.sqrt(2) * np.array([[np.cos(angle)], [np.sin(angle)]]))
    sides = (sides * layer.level * project.level).astype(np.float32)
    return sides[:1] if layer.pan == 0 else sides


def bare(planned, project, noise):
    """For each voice a product and a sum, of the same samples in the same blocks."""
    gains = {layer.id: gains_of(layer, project) for layer in project.scenes[0].layers}
    waiting, sounding = list(planned.voices)[::-1], []
    scratch = np.empty((2, BLOCK), np.float32)
    for at in range(0, planned.length, BLOCK):
        end = min(at + BLOCK, planned.length)
        out = np.zeros((2, end - at), np.float32)
        while waiting and waiting[-1].start < end:
            sounding.append(waiting.pop())
        for voice in sounding:
            low, high = max(at, voice.start), min(end, voice.end)
            samples = noise.sounds[voice.sound][:, low - voice.start : high - voice.start]
            gain, target = gains[voice.layer], out[:, low - at : high - at]
            into = scratch[: max(len(samples), len(gain)), : high - low]
            np.multiply(samples, gain, into)
            np.add(target, into, target)
        sounding = [voice for voice in sounding if voice.end > end]
        yield out


def mixing():
    project = film()
    planned, noise = plan(project), Noise(project)

    def blocks():
        mixer = Mixer(planned, project, noise)
        for at in range(0, planned.length, BLOCK):
            yield mixer.mix(at, min(BLOCK, planned.length - at))

    def work():
        for _ in blocks():
            pass

    def floor():
        for _ in bare(planned, project, noise):
            pass

    for mixed, wanted in islice(zip(blocks(), bare(planned, project, noise), strict=True), 100):
        # The same samples, but for the 2 ms at the ends of what is cut.
        assert np.abs(mixed - wanted).mean() < 1e-4

    took = measure({"work": work, "floor": floor}, rounds=3)
    yield figure(
        "ten minutes of 64 voices mixed, to the bare array work", took["work"], took["floor"], 1.2
    )
    # How many times as fast as it is heard: the ratio is what is asked for over what was reached.
    yield figure("the same, to a fortieth of real time", took["work"], MINUTES * 60 / FASTER, 1.0)


def encoding():
    noise = np.random.default_rng(2).uniform(-0.3, 0.3, (2, 60 * RATE)).astype(np.float32)
    blocks = [noise[:, at : at + BLOCK] for at in range(0, noise.shape[1], BLOCK)]
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "out"
        for kind, form, subtype, level in (
            ("wav", "WAV", "FLOAT", None), ("vorbis", "OGG", "VORBIS", 0.4),
        ):  # fmt: skip
            how = Encoding(kind=kind, bits=32)

            def work(how=how):
                with encoding_to(path, how, RATE, 2, noise.shape[1], begins=0, seed=1) as encoder:
                    for block in blocks:
                        encoder.write(block)

            def floor(form=form, subtype=subtype, level=level):
                with soundfile.SoundFile(
                    path, "w", RATE, 2, subtype, format=form, compression_level=level
                ) as file:
                    for block in blocks:
                        file.write(np.ascontiguousarray(block.T))

            yield compare(
                f"a minute of {form} {subtype} encoded, to the library alone", work, floor, 1.1,
                rounds=5,
            )  # fmt: skip


# What the process has of its own: pages of the cache that it only maps are everybody's.
MEASURED = """
import re, sys, threading, time
from cicada.cli.main import main
most = 0
def look():
    global most
    while True:
        text = open("/proc/self/status").read()
        most = max(most, int(re.search(r"RssAnon:\\s+(\\d+)", text)[1]))
        time.sleep(0.02)
threading.Thread(target=look, daemon=True).start()
code = main(sys.argv[1:])
print(most, file=sys.stderr)
sys.exit(code)
"""


def memory():
    with tempfile.TemporaryDirectory() as name:
        folder, r = Path(name), np.random.default_rng(3)
        for number in range(SOUNDS):
            sound = r.uniform(-0.5, 0.5, (SECONDS * RATE, 1 + number % 2)).astype(np.float32)
            soundfile.write(folder / f"{number}.wav", sound, RATE, subtype="PCM_16")
        recipe = MixRecipe(id="r", name="Mix", encoding=Encoding(bits=16))
        project = replace(film(lambda number: f"{number}.wav"), recipes=(recipe,))
        save(project, folder / "film.cicada")
        environment = {
            **os.environ, "CICADA_CACHE": f"{name}/cache", "CICADA_DATA": f"{name}/data",
        }  # fmt: skip
        done = subprocess.run(
            [sys.executable, "-c", MEASURED, "deliver", f"{name}/film.cicada", "--recipe", "Mix",
             "--to", name], check=False, env=environment, capture_output=True, text=True,
        )  # fmt: skip
        used = int(done.stderr.strip().splitlines()[-1]) / 1000
    return Figure(
        "memory while ten minutes of 64 voices are delivered",
        round(used, 1), "MB", None, None, MEMORY, used < MEMORY,
    )  # fmt: skip
