"""Importing a sound, per format, against the bare library calls it is made of."""

import hashlib
import tempfile
from pathlib import Path

import numpy as np
import soundfile
import soxr

from benchmarks.runner import compare
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest

RATE = 48000
SECONDS = 20
FORMATS = (
    ("wav", "PCM_16"), ("wav", "FLOAT"), ("aiff", "PCM_24"), ("flac", "PCM_16"), ("ogg", "VORBIS"),
    ("mp3", "MPEG_LAYER_III"), ("opus", "OPUS"),
)  # fmt: skip


def figures():
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for suffix, subtype in FORMATS:
            own = 48000 if suffix == "opus" else 44100
            path = folder / f"a-{subtype}.{suffix}"
            generator = np.random.default_rng(1)
            noise = 0.1 * generator.standard_normal((own * SECONDS, 2))
            container = "OGG" if suffix == "opus" else None
            soundfile.write(path, noise, own, subtype=subtype, format=container)
            cache = SoundCache(folder / "cache")
            yield compare(
                f"import of 20 s of {suffix.upper()} {subtype}, to its bare library calls",
                lambda path=path, cache=cache: ingest(path, RATE, cache),
                lambda path=path, own=own, folder=folder: bare(path, own, folder / "bare.raw"),
                1.3,
                rounds=7,
            )


def bare(path, own, target):
    """Hash, decode, hash what was decoded, change its rate, find peaks, write it down."""
    hashlib.blake2b(path.read_bytes())
    samples = soundfile.read(path, dtype="float32", always_2d=True)[0]
    hashlib.blake2b(samples.data)
    if own != RATE:
        samples = soxr.resample(samples, own, RATE, quality="HQ")
    # Lows and highs of one channel in columns of 64: the least there is to peaks.
    planar = np.ascontiguousarray(samples.T)
    for channel in planar:
        whole = len(channel) // 64
        turned = channel[: whole * 64].reshape(64, whole)
        turned.min(axis=0)
        turned.max(axis=0)
    planar.tofile(target)
