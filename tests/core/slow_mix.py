"""The mix evaluated sample by sample from the formulas alone, to check the mixer."""

from math import cos, pi, sin, sqrt

import numpy as np

from cicada.core.model import Hush, clip_of
from tests.core.slow_planner import samples as to_samples


def line_at(line, x, empty):
    """A line's value, by walking along its points."""
    if not line:
        return empty
    value = line[0][1]
    for number, point in enumerate(line):
        if x < point[0]:
            break
        value = point[1]
        if number + 1 < len(line):
            following = line[number + 1]
            shape = point[2] if len(point) > 2 else ""
            if point[0] <= x < following[0] and shape != "step":
                u = (x - point[0]) / (following[0] - point[0])
                u = u * u * (3 - 2 * u) if shape == "smooth" else u
                value = point[1] + u * (following[1] - point[1])
    return value


def steps_of(line):
    """Places at which a line jumps, with the height, found by looking just before them."""
    found = []
    for place in sorted({point[0] for point in line}):
        height = line_at(line, place, 1) - line_at(line, place - 1e-9, 1)
        if abs(height) > 1e-6:
            found.append((place, height))
    return found


def shaped(shape, x):
    x = min(1.0, max(0.0, x))
    return {"linear": x, "power": sin(x * pi / 2), "smooth": x * x * (3 - 2 * x)}[shape]


def spread(line, k, rate, empty):
    value = line_at(line, k / rate, empty)
    over = round(rate / 500)
    for place, height in steps_of(line):
        since = k / rate - place
        if place > 0 and 0 <= since < over / rate:
            value -= height * (1 - since * rate / over)
    return value


def direct_mix(project, plan, sounds, values=None):
    """All samples of the plan, (2, length); ``sounds`` gives one loop of a clip as (1 or 2, n).

    Asked with a clip, what it plays and the part of that. ``values`` gives gains that follow.
    """
    out = np.zeros((2, plan.length))
    pads = {pad.id: pad for pad in project.pads}
    for voice in plan.voices:
        if voice.layer in pads:
            layer, scene = pads[voice.layer], None
            clip = clip_of(layer.does[voice.fire], voice.frame)
        else:
            scene, layer = project.layer(voice.layer)
            clip = next(k for k in layer.keyframes if k.frame == voice.frame)
        for sound, gains in parts_of(project, voice, layer, values):
            here = np.zeros_like(out)
            for number in range(len(voice.pieces)):
                loop = sounds(clip, voice.picked or voice.sound, sound)
                add_piece(here, project, plan, scene, layer, clip, voice, number, loop)
            out += here if gains is None else here * gains
    return out


def parts_of(project, voice, layer, values):
    """What a voice plays, with the gains of it that follow a value."""
    gains, plays = None, voice.picked or voice.sound
    if layer.follows is not None:
        points = layer.follows.points
        gains = values(layer.follows.value, lambda v: points_at(points, v))
    blend = next((blend for blend in project.blends if blend.id == plays), None)
    if blend is None:
        return [(plays, gains)]
    found = []
    for index, part in enumerate(blend.parts):
        own = values(blend.value, lambda v, index=index: blended(blend, index, v))
        found.append((part.sound, own if gains is None else own * gains))
    return found


def points_at(points, v):
    return float(np.interp(v, [p[0] for p in points], [p[1] for p in points]))


def blended(blend, index, v):
    """The gain of a part of a blend by the value."""
    parts = blend.parts
    if v <= parts[0].at or v >= parts[-1].at:
        return float(index == (0 if v <= parts[0].at else len(parts) - 1))
    low = max(i for i, part in enumerate(parts) if part.at <= v)
    x = (v - parts[low].at) / (parts[low + 1].at - parts[low].at)
    up, down = (x, 1 - x) if blend.curve == "linear" else (sin(x * pi / 2), cos(x * pi / 2))
    return {low: down, low + 1: up}.get(index, 0.0)


def in_a_row(playlist, project, sounds):
    """A playlist put together from its sounds, each given as (1, n): shape (1, N)."""
    at, pieces = 0, []
    for part in playlist.parts:
        n = sounds[part.sound].shape[1]
        tail = min(to_samples(part.tail, project.rate), n // 2)
        for _ in range(part.loops):
            pieces.append((at, sounds[part.sound]))
            at += n - tail
    length = at + tail
    out = np.zeros((1, length))
    for start, samples in pieces:
        whole = samples.shape[1]
        heard = min(whole, length - start)
        piece = samples[:, :heard].astype(float)
        ramp = min(round(project.rate / 500), heard // 2) if heard < whole else 0
        for i in range(ramp):
            piece[:, heard - 1 - i] *= (i + 1) / (ramp + 1)
        out[:, start : start + heard] += piece
    return out


def add_piece(out, project, plan, scene, layer, clip, voice, number, loop):
    rate = plan.rate
    start, end, clip_start = voice.pieces[number]
    n = loop.shape[1]
    overlap = min(to_samples(clip.loop_overlap, rate), n // 2)
    offset = min(to_samples(clip.offset, rate), n)
    delay = to_samples(clip.delay, rate)
    fade_in, fade_out = to_samples(clip.fade_in, rate), to_samples(clip.fade_out, rate)
    own = delay + clip.loops * (n - overlap) + overlap - offset if clip.loops else None
    total = own
    if clip.sync == "locked":
        later = sorted(k.frame for k in layer.keyframes if k.frame > clip.frame)
        following = later[0] if later else scene.length
        ender = next((k for k in layer.keyframes if later and k.frame == later[0]), None)
        hit = isinstance(ender, Hush) and (
            ender.target in ("layer", "all") or ender.sound in (voice.sound, voice.picked)
        )
        base = plan.timebase
        span = base.start(following) - base.start(clip.frame)
        if not hit:
            total = span if own is None else min(own, span)
    ramp = min(round(rate / 500), (end - start) // 2)
    clip_end = clip_start + end - start
    soft_end = clip_end == own or any(b == end and a < b for a, b in voice.fades)
    soft_end = soft_end or bool(fade_out and total is not None and clip_end == total)
    for t in range(start, end):
        k = clip_start + t - start
        if k < delay:
            continue
        gain = clip.level * layer.level * project.level
        if fade_in:
            gain *= shaped(clip.fade_shape, (k - delay) / fade_in)
        if fade_out and total is not None:
            gain *= shaped(clip.fade_shape, (total - k) / fade_out)
        for a, b in voice.fades:
            gain *= min(1.0, max(0.0, (b - t) / (b - a)))
        if voice.rise:
            a, b = voice.rise
            gain *= min(1.0, max(0.0, (t - a) / (b - a)))
        if clip_start and t - start < ramp:
            gain *= (t - start + 1) / (ramp + 1)
        if not soft_end and end - 1 - t < ramp:
            gain *= (end - t) / (ramp + 1)
        j = 0
        while True:
            begins = delay - offset + j * (n - overlap)
            if begins > k or (clip.loops and j >= clip.loops):
                break
            if k < begins + n:
                along = k - begins if clip.line_over == "loop" else k - delay
                level = spread(clip.level_line, along, rate, 1.0)
                p = clip.pan + layer.pan + spread(clip.pan_line, along, rate, 0.0)
                p = min(1.0, max(-1.0, p))
                left = min(1, sqrt(2) * cos((p + 1) * pi / 4))
                right = min(1, sqrt(2) * sin((p + 1) * pi / 4))
                out[0, t] += loop[0, k - begins] * gain * level * left
                out[1, t] += loop[-1, k - begins] * gain * level * right
            j += 1
