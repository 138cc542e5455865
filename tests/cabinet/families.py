"""Families of sounds whose members are alike: 40 recipes, each with members that differ a little.

Fixed before anything was tuned to it: members differ by up to so much of an octave, by up to 6 dB,
and by a little noise.
"""

import numpy as np

RATE = 48000
FAMILIES, MEMBERS = 40, 10


def _recipe(random):
    """What a family has in common."""
    return {
        "kind": random.choice(["tone", "bell", "noise", "sweep", "pulse"]),
        "hertz": float(2 ** random.uniform(6.5, 12.5)),
        "seconds": float(random.choice([0.15, 0.4, 0.9, 1.8, 3.0])),
        "rise": float(random.choice([0.002, 0.05, 0.4])),
        "fade": float(random.choice([0.0, 2.0, 8.0, 20.0])),
        "ratios": sorted(random.uniform(1.0, 6.0, 4).tolist()),
        "wide": float(random.uniform(0.15, 1.2)),
        "rate": float(random.uniform(3.0, 14.0)),
        "bend": float(random.uniform(-1.5, 1.5)),
        "seed": int(random.integers(1 << 30)),
    }


def _member(recipe, octaves, random):
    hertz = recipe["hertz"] * 2 ** random.uniform(-octaves, octaves)
    seconds = recipe["seconds"] * random.uniform(0.95, 1.05)
    t = np.arange(int(seconds * RATE)) / RATE
    kind = recipe["kind"]
    if kind == "tone":
        out = sum(np.sin(2 * np.pi * hertz * n * t) / n for n in (1, 2, 3) if hertz * n < 20_000)
    elif kind == "bell":
        ratios = [r for r in recipe["ratios"] if hertz * r < 20_000] or [1.0]
        out = sum(np.sin(2 * np.pi * hertz * r * t) * np.exp(-r * t) for r in ratios)
    elif kind == "sweep":
        turns = np.cumsum(hertz * 2 ** (recipe["bend"] * t / seconds)) / RATE
        out = np.sin(2 * np.pi * turns)
    elif kind == "pulse":
        out = np.sin(2 * np.pi * hertz * t) * (np.sin(2 * np.pi * recipe["rate"] * t) > 0)
    else:
        spectrum = np.fft.rfft(random.standard_normal(len(t)))
        bins = np.maximum(np.fft.rfftfreq(len(t), 1 / RATE), 1.0)
        spectrum *= np.exp(-0.5 * (np.log2(bins / hertz) / recipe["wide"]) ** 2)
        out = np.fft.irfft(spectrum, len(t))
    out = out * np.minimum(1.0, t / recipe["rise"]) * np.exp(-recipe["fade"] * t)
    out = out / np.abs(out).max()
    out = out * 10 ** (random.uniform(-6, 0) / 20) * 0.5
    return (out + 0.001 * random.standard_normal(len(out))).astype(np.float32)


def families(octaves, seed=11):
    """All members: pairs of family and samples."""
    random = np.random.default_rng(seed)
    recipes = [_recipe(random) for _ in range(FAMILIES)]
    return [
        (number, _member(recipe, octaves, random))
        for number, recipe in enumerate(recipes)
        for _ in range(MEMBERS)
    ]
