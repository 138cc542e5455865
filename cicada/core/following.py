"""How loud what follows a value is along a run (live.md, sections L1, L2 and L7)."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Collection, Sequence
from itertools import pairwise
from math import pi

import numpy as np
from msgspec.structs import replace

from cicada.core.answers import Blend, Follows, Value
from cicada.core.arrays import Samples
from cicada.core.lines import Curve, Gains, spread_jump
from cicada.core.model import Layer, Project
from cicada.core.motion import Motion, SceneLines

Gain = Callable[[Gains], Gains]
"""The gain at each of some numbers."""
# A jump of a value by less than this is none: glides begin at whole numbers of 2^-32.
SAME = 1e-9
# Gains are reckoned for so many samples at once: for each block alone that took six times as long.
AHEAD = 4096


class ValueTrack:
    """What a value is along a run. ``jumps`` are (run sample, before, after), in order."""

    def __init__(self, motion: Motion, project: Project, value: str) -> None:
        made = project.value(value)
        self._low, self._high = made.low, made.high
        lines = {scene.id: scene.value_lines.get(value, ()) for scene in project.scenes}
        self._reading = SceneLines(motion, lines, made.begins)
        given = [glide for glide in motion.plan.glides if glide.value == value]
        # Of those of one moment the last holds, and the first knows what was before.
        self._glides = [a for a, b in pairwise([*given, None]) if a and (not b or a.at != b.at)]
        self._before = {glide.at: glide.start for glide in reversed(given)}
        self._ats = [glide.at for glide in self._glides]
        self._asked, self._found = (0, 0), np.empty(0)
        self.jumps = self._find_jumps()
        self._moving = _merged(self._find_moving())
        self._moving_starts = [start for start, _ in self._moving]

    def _at(self, number: int, moments: Gains, reading: Gains) -> Gains:
        """The value by glide number ``number`` (-1: none yet), clamped."""
        if number < 0:
            found = reading
        else:
            glide = self._glides[number]
            wanted = reading if glide.to is None else np.full(len(moments), glide.to)
            if glide.over:
                x = np.minimum(1.0, (moments - glide.at) / glide.over)
                found = (1.0 - x) * glide.start + x * wanted
            else:
                found = wanted
        return np.asarray(np.clip(found, self._low, self._high))

    def values(self, start: int, end: int) -> Gains:
        """The value at each run sample of ``start..end``; not to be changed."""
        if (start, end) == self._asked:
            return self._found
        found = np.empty(end - start)
        number = bisect_right(self._ats, start) - 1
        at = start
        while at < end:
            following = self._ats[number + 1] if number + 1 < len(self._ats) else end
            until = min(end, following)
            moments = np.arange(at, until, dtype=np.float64)
            reads = number < 0 or self._glides[number].to is None
            reading = self._reading.values(at, until) if reads else moments
            found[at - start : until - start] = self._at(number, moments, reading)
            at, number = until, number + 1
        self._asked, self._found = (start, end), found
        return found

    def about(self, moments: Gains) -> Gains:
        """The value at run samples, ascending, near enough to be drawn."""
        reading = self._reading.about(moments)
        numbers = np.searchsorted(self._ats, moments, side="right") - 1
        found = np.empty(len(moments))
        for number in np.unique(numbers).tolist():
            here = numbers == number
            found[here] = self._at(number, moments[here], reading[here])
        return found

    def _find_jumps(self) -> list[tuple[float, float, float]]:
        found = []
        for moment, before, after in self._reading.jumps:
            number = bisect_left(self._ats, moment) - 1
            if number < 0 or self._glides[number].to is None:
                place, both = np.full(2, moment), np.array([before, after])
                was, now = self._at(number, place, both)
                found.append((moment, float(was), float(now)))
        for at, was in self._before.items():
            found.append((float(at), was, float(self.values(at, at + 1)[0])))
        return sorted((m, was, now) for m, was, now in found if abs(now - was) > SAME)

    def _find_moving(self) -> list[tuple[int, int]]:
        found = []
        reading = self._reading.moving
        last = 1 << 62
        read_from: int | None = -last
        for number, glide in enumerate(self._glides):
            until = self._ats[number + 1] if number + 1 < len(self._ats) else last
            if read_from is not None:
                found += _within(reading, read_from, glide.at)
            read_from = glide.at if glide.to is None else None
            if glide.over and (glide.to is None or glide.to != glide.start):
                found.append((glide.at, min(until, glide.at + glide.over)))
        if read_from is not None:
            found += _within(reading, read_from, last)
        ramp = self._reading.motion.ramp
        found += [(int(moment), int(moment) + ramp + 1) for moment, _, _ in self.jumps]
        return found

    def moving(self, start: int, end: int) -> list[tuple[int, int]]:
        """The stretches of run samples ``start..end`` in which it is not constant."""
        first = max(0, bisect_right(self._moving_starts, start) - 1)
        last = bisect_left(self._moving_starts, end)
        return [(a, b) for a, b in self._moving[first:last] if b > start]


def _within(stretches: list[tuple[int, int]], low: int, high: int) -> list[tuple[int, int]]:
    return [(max(a, low), min(b, high)) for a, b in stretches if a < high and b > low]


def _merged(stretches: list[tuple[int, int]]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    for start, end in sorted(stretches):
        if found and start <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], end)
        else:
            found.append((start, end))
    return found


class FollowedGain:
    """A gain that follows a value, its jumps spread over the 2 ms that follow."""

    def __init__(self, track: ValueTrack, gain: Gain, ramp: int) -> None:
        self.track, self._gain, self._ramp = track, gain, ramp
        self._jumps = []
        for moment, before, after in track.jumps:
            was, now = gain(np.array([before, after]))
            if was != now:
                self._jumps.append((moment, float(now - was)))
        self._moments = [moment for moment, _ in self._jumps]
        # What was asked for last and a little more: every voice that follows it asks for it.
        self._low, self._high = 0, 0
        self._ahead: Samples | None = None

    def block(self, start: int, end: int) -> Samples | None:
        """The gain at each run sample of ``start..end``; None where it is 0."""
        if not (self._low <= start and end <= self._high):
            self._low, self._high = start, max(end, start + AHEAD)
            gains = self.gains(self._low, self._high).astype(np.float32)
            self._ahead = gains if gains.any() else None
        return None if self._ahead is None else self._ahead[start - self._low : end - self._low]

    def gains(self, start: int, end: int) -> Gains:
        """The gain at each run sample of ``start..end``."""
        gains = np.array(self._gain(self.track.values(start, end)))
        first = bisect_right(self._moments, start - self._ramp)
        last = bisect_left(self._moments, end)
        if first < last:
            moments = np.arange(start, end, dtype=np.float64)
            for moment, height in self._jumps[first:last]:
                spread_jump(gains, moments, moment, height, self._ramp)
        return gains

    def about(self, moments: Gains) -> Gains:
        """The gain at run samples, ascending, near enough to be drawn."""
        return self._gain(self.track.about(moments))

    def standing(self, moment: int) -> float:
        """The gain at a moment where the value is constant."""
        return float(self._gain(self.track.values(moment, moment + 1))[0])


def blend_gain(blend: Blend, number: int) -> Gain:
    """The gain of one part of a blend by the value it follows."""
    ats = [part.at for part in blend.parts]
    here = ats[number]
    power = blend.curve == "power"

    def rises(values: Gains, low: float, high: float) -> Gains:
        x = np.clip((values - low) / (high - low), 0.0, 1.0)
        # Exactly silent where the neighbour is alone.
        return np.where(x >= 1.0, 1.0, np.sin(x * (pi / 2))) if power else x

    def falls(values: Gains, low: float, high: float) -> Gains:
        x = np.clip((values - low) / (high - low), 0.0, 1.0)
        return np.where(x >= 1.0, 0.0, np.cos(x * (pi / 2))) if power else 1.0 - x

    def gain(values: Gains) -> Gains:
        least, most = values.min(initial=here), values.max(initial=here)
        found = np.ones(len(values))
        if number and least < here:
            found = np.where(values < here, rises(values, ats[number - 1], here), found)
        if number + 1 < len(ats) and most > here:
            found = np.where(values > here, falls(values, here, ats[number + 1]), found)
        return found

    return gain


def layer_gain(follows: Follows) -> Gain:
    """The gain of a layer that follows a value."""
    curve = Curve(follows.points)
    return curve.values


class Following:
    """What the voices of a plan follow, and what each is made of."""

    def __init__(self, project: Project, motion: Motion, silent: Collection[str] = ()) -> None:
        """``silent`` are the ids of scenes in which pads are not heard that are not soloed."""
        self._project, self._motion = project, motion
        scenes = [scene.id for scene in project.scenes if scene.id in silent]
        self._gated = {pad.id for pad in project.pads if scenes and not pad.solo}
        self._gate = self._open_outside(scenes) if self._gated else None
        self._blends = {blend.id: blend for blend in project.blends}
        self._tracks: dict[str, ValueTrack] = {}
        self._parts: dict[str, list[FollowedGain]] = {}
        self._layers: dict[str, FollowedGain] = {}

    def track(self, value: str) -> ValueTrack:
        """What a value is along the run."""
        if value not in self._tracks:
            self._tracks[value] = ValueTrack(self._motion, self._project, value)
        return self._tracks[value]

    def _open_outside(self, scenes: Collection[str]) -> FollowedGain:
        """A gain that is 0 while one of these scenes runs, and 1 otherwise."""
        gate = Value(id="", start=1.0)
        drawn = tuple(
            replace(scene, value_lines={gate.id: ((0.0, 0.0 if scene.id in scenes else 1.0),)})
            for scene in self._project.scenes
        )
        project = replace(self._project, values=(gate,), scenes=drawn)
        track = ValueTrack(self._motion, project, gate.id)
        return FollowedGain(track, lambda values: values, self._motion.ramp)

    def _followed(self, value: str, gain: Gain) -> FollowedGain:
        return FollowedGain(self.track(value), gain, self._motion.ramp)

    def parts(self, played: str, layer: Layer) -> list[tuple[str, list[FollowedGain]]]:
        """The sounds that what is played is made of, each with the gains it follows there."""
        common = [self._gate] if self._gate is not None and layer.id in self._gated else []
        if layer.follows is not None:
            if layer.id not in self._layers:
                gain = layer_gain(layer.follows)
                self._layers[layer.id] = self._followed(layer.follows.value, gain)
            common.append(self._layers[layer.id])
        blend = self._blends.get(played)
        if blend is None:
            return [(played, common)]
        if played not in self._parts:
            self._parts[played] = [
                self._followed(blend.value, blend_gain(blend, number))
                for number in range(len(blend.parts))
            ]
        return [
            (part.sound, [*common, gain])
            for part, gain in zip(blend.parts, self._parts[played], strict=True)
        ]


def together(follows: Sequence[FollowedGain], start: int, end: int) -> Samples | None:
    """The product of some gains over a block; None where one of them is 0."""
    product: Samples | None = None
    for followed in follows:
        gains = followed.block(start, end)
        if gains is None:
            return None
        product = gains if product is None else product * gains
    return product
