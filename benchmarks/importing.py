"""Importing a sound, per format, against the bare library calls it is made of; and its peaks."""

import hashlib
import os
import shutil
import subprocess
import sys
import tempfile
from itertools import count
from pathlib import Path

import av
import numpy as np
import soundfile
import soxr

from benchmarks.runner import compare
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest
from cicada.media.peaks import PeakGatherer

RATE = 48000
SECONDS = 20
FORMATS = (
    ("wav", "PCM_16"), ("wav", "FLOAT"), ("aiff", "PCM_24"), ("flac", "PCM_16"), ("ogg", "VORBIS"),
    ("mp3", "MPEG_LAYER_III"), ("opus", "OPUS"), ("m4a", "AAC"),
)  # fmt: skip
CHUNK = 1 << 16
TINY = 3000
BARE = """
import hashlib, os, sys
import numpy as np, soundfile
os.mkdir(sys.argv[2])
for name in os.listdir(sys.argv[1]):
    path = os.path.join(sys.argv[1], name)
    with open(path, "rb") as file:
        content = hashlib.blake2b(file.read(), digest_size=20).hexdigest()
    samples, _ = soundfile.read(path, dtype="float32", always_2d=True)
    np.save(os.path.join(sys.argv[2], content), np.ascontiguousarray(samples.T))
"""


def figures():
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for suffix, subtype in FORMATS:
            own = 48000 if suffix in ("opus", "m4a") else 44100
            path = folder / f"a-{subtype}.{suffix}"
            make(path, own, subtype)

            def whole(path=path, folder=folder):
                # An empty cache each time, or there would be nothing to do.
                shutil.rmtree(folder / "cache", ignore_errors=True)
                ingest(path, RATE, SoundCache(folder / "cache"))

            def floor(path=path, own=own, folder=folder):
                shutil.rmtree(folder / "bare", ignore_errors=True)
                (folder / "bare").mkdir()
                bare(path, own, folder / "bare" / "samples.raw")

            yield compare(
                f"import of 20 s of {suffix.upper()} {subtype}, to its bare library calls",
                whole,
                floor,
                1.15,
                rounds=9,
            )
    yield from tiny_sounds()
    samples = np.random.default_rng(2).standard_normal((RATE * 600, 2), np.float32)
    yield compare(
        "peaks of ten minutes of stereo, to the lowest and highest of chunks",
        lambda: gathered(samples),
        lambda: chunked(samples),
        3.3,
        rounds=5,
    )


def tiny_sounds():
    """Thousands of sounds as a game has them, by the command, against bare calls in a process."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "tiny").mkdir()
        noise = np.random.default_rng(3)
        for number in range(TINY):
            sound = noise.uniform(-0.1, 0.1, 2000).astype(np.float32)
            soundfile.write(folder / "tiny" / f"{number}.wav", sound, RATE, subtype="PCM_16")
        rounds = count()

        def run(*words, **folders):
            subprocess.run([sys.executable, *words], check=True, env={**os.environ, **folders},
                           stdout=subprocess.DEVNULL)  # fmt: skip

        # A folder of its own each time: what was deleted a moment ago makes a disk slow.
        def whole():
            own = folder / str(next(rounds))
            own.mkdir()
            places = {"CICADA_CACHE": f"{own}/cache", "CICADA_DATA": f"{own}/data"}
            run("-m", "cicada", "new", f"{own}/a.cicada", **places)
            run("-m", "cicada", "import", f"{own}/a.cicada", f"{name}/tiny", **places)

        def floor():
            run("-c", "import soundfile")
            run("-c", BARE, f"{name}/tiny", f"{name}/{next(rounds)}")

        yield compare(
            f"import of {TINY} tiny sounds, to bare calls in as many processes", whole, floor,
            1.3, rounds=3,
        )  # fmt: skip


def make(path, own, subtype):
    noise = 0.1 * np.random.default_rng(1).standard_normal((own * SECONDS, 2))
    if path.suffix != ".m4a":
        container = "OGG" if path.suffix == ".opus" else None
        soundfile.write(path, noise, own, subtype=subtype, format=container)
        return
    with av.open(str(path), "w") as file:
        track = file.add_stream("aac", rate=own)
        track.layout = "stereo"
        plain = np.ascontiguousarray(noise.T.astype(np.float32))
        for start in range(0, plain.shape[1], 1024):
            block = np.ascontiguousarray(plain[:, start : start + 1024])
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = own, start
            file.mux(track.encode(frame))
        file.mux(track.encode())


def bare(path, own, target):
    """Hash, decode, hash what was decoded, change its rate, find peaks, write it down."""
    hashlib.blake2b(path.read_bytes())
    samples = decoded(path)
    hashlib.blake2b(samples.data)
    if own != RATE:
        samples = soxr.resample(samples, own, RATE, quality="HQ")
    # Lows and highs of each channel in columns of 64: the least there is to peaks.
    planar = np.ascontiguousarray(samples.T)
    for channel in planar:
        whole = len(channel) // 64
        turned = channel[: whole * 64].reshape(64, whole)
        turned.min(axis=0)
        turned.max(axis=0)
    planar.tofile(target)


def decoded(path):
    if path.suffix != ".m4a":
        return soundfile.read(path, dtype="float32", always_2d=True)[0]
    with av.open(str(path)) as file:
        plain = av.AudioResampler(format="flt", layout="stereo")
        frames = [made for frame in file.decode(audio=0) for made in plain.resample(frame)]
        frames += plain.resample(None)
        return np.concatenate([frame.to_ndarray().reshape(-1, 2) for frame in frames])


def gathered(samples):
    """As they come in an import, block by block."""
    gatherer = PeakGatherer()
    for start in range(0, len(samples), CHUNK):
        gatherer.append(samples[start : start + CHUNK])
    return gatherer.peaks(len(samples))


def chunked(samples):
    for start in range(0, len(samples), CHUNK):
        piece = samples[start : start + CHUNK]
        piece.min()
        piece.max()
