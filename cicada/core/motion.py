"""Where the picture is at any sample of a run, and what the lines that follow it are worth."""

from bisect import bisect_left, bisect_right
from collections.abc import Mapping

import numpy as np

from cicada.core.arrays import RunSamples
from cicada.core.lines import Curve, Gains, spread_jump
from cicada.core.model import Scene
from cicada.core.plan import Plan, Stretch
from cicada.core.timebase import round_half_up
from cicada.core.values import Line


class Motion:
    """The picture's position (semantics.md, 8) over the run of a plan."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.base = plan.timebase
        self.ramp = round_half_up(plan.rate, 500)
        self._entered = [stretch.at for stretch in plan.stretches]
        self._visit_of = [stretch.visit for stretch in plan.stretches]

    def positions(self, visit: int, start: int, end: int) -> Gains:
        """The position in frames at each run sample of ``start..end``, as that visit has it."""
        stay = self.plan.visits[visit]
        result = np.full(end - start, stay.last)
        first = bisect_left(self._visit_of, visit)
        last = bisect_right(self._visit_of, visit)
        index = max(first, bisect_right(self._entered, start, first, last) - 1)
        while index < last:
            stretch = self.plan.stretches[index]
            until = self._entered[index + 1] if index + 1 < last else stay.end
            low, high = max(start, stretch.at), min(end, until)
            if stretch.at >= end:
                break
            if low < high:
                result[low - start : high - start] = self._along(stretch, low, high)
            index += 1
        return result

    def about(self, moments: Gains) -> tuple[RunSamples, Gains]:
        """The visits and positions at run samples, ascending, near enough to be drawn."""
        index = np.maximum(np.searchsorted(self._entered, moments, side="right") - 1, 0)
        base, stretches = self.base, self.plan.stretches
        if not stretches:
            return np.zeros(len(moments), np.int64), np.zeros(len(moments))
        table = np.array(
            [(s.visit, s.at + s.stands, s.frame, s.frame + s.length) for s in stretches], np.int64
        )
        visit, moves, first, last = table[index].T
        position = first + (moments - moves) * base.num / (base.den * base.rate)
        return visit, np.clip(position, first, last)

    def _along(self, stretch: Stretch, start: int, end: int) -> Gains:
        base = self.base
        origin = stretch.at + stretch.stands - base.start(stretch.frame)
        low, high = base.start(stretch.frame), base.start(stretch.frame + stretch.length)
        moved = np.clip(np.arange(start - origin, end - origin), low, high)
        first = base.frame_at(int(moved[0]))
        frames = range(first, base.frame_at(int(moved[-1])) + 2)
        return np.interp(moved, [base.start(frame) for frame in frames], list(frames))

    def reached(self, visit: int, position: float) -> float | None:
        """The run sample at which that visit's picture passes ``position``; None if it does not."""
        first = bisect_left(self._visit_of, visit)
        last = bisect_right(self._visit_of, visit)
        for stretch in self.plan.stretches[first:last]:
            if position > stretch.frame + stretch.length:
                continue
            if position < stretch.frame:
                return None
            whole = int(position)
            if whole == stretch.frame and whole == position:
                return float(stretch.at)
            moved = self.base.start(whole) - self.base.start(stretch.frame)
            share = (position - whole) * self.base.duration(whole)
            return stretch.at + stretch.stands + moved + share
        return None


class PictureLine:
    """A layer's line in one visit: its gain by run sample, jumps spread over 2 ms."""

    def __init__(self, motion: Motion, line: Line, visit: int) -> None:
        self.motion = motion
        self.curve = Curve(line)
        self.visit = visit
        self._jumps = []
        start = motion.plan.visits[visit].start
        for place, height in self.curve.jumps:
            moment = motion.reached(visit, place)
            if moment is not None and moment > start:
                self._jumps.append((moment, height))

    def gains(self, start: int, end: int) -> Gains:
        """The gain at each run sample of ``start..end``."""
        gains = self.curve.values(self.motion.positions(self.visit, start, end))
        moments = np.arange(start, end, dtype=np.float64)
        for moment, height in self._jumps:
            if start - self.motion.ramp < moment < end:
                spread_jump(gains, moments, moment, height, self.motion.ramp)
        return gains


class SceneLines:
    """A number that each scene draws as a line, along a run; ``empty`` where one draws none.

    ``jumps`` are (run sample, before, after), in order; ``moving`` the stretches of run samples
    in which it may change.
    """

    def __init__(self, motion: Motion, lines: Mapping[str, Line], empty: float) -> None:
        self.motion = motion
        visits = motion.plan.visits
        self._stays = [i for i, visit in enumerate(visits) if visit.end > 0 or i == len(visits) - 1]
        self._by_scene = {scene: Curve(line, empty) for scene, line in lines.items()}
        self._curves = [self._by_scene[visits[i].scene] for i in self._stays]
        self._starts = [visits[i].start for i in self._stays]
        self.jumps: list[tuple[float, float, float]] = []
        self.moving: list[tuple[int, int]] = []
        for number, stay in enumerate(self._stays):
            if number:
                before = self._curves[number - 1].at(visits[self._stays[number - 1]].last)
                after = self._curves[number].at(0.0)
                if before != after:
                    self.jumps.append((float(visits[stay].start), before, after))
            if self._curves[number]:
                self._follow(number)

    def _follow(self, number: int) -> None:
        """Note where the line of a stay jumps and moves."""
        stay, curve = self._stays[number], self._curves[number]
        visit = self.motion.plan.visits[stay]
        moments = [self.motion.reached(stay, float(place)) for place in curve.xs]
        for place, height in curve.jumps:
            moment = self.motion.reached(stay, place)
            if moment is not None and moment > visit.start:
                after = curve.at(place)
                self.jumps.append((moment, after - height, after))
        for index in range(len(moments) - 1):
            if curve.ys[index] == curve.ys[index + 1] or curve.steps(index):
                continue
            low, high = moments[index], moments[index + 1]
            if low is None and curve.xs[index] > 0:
                continue
            start = visit.start if low is None else low
            self.moving.append((int(start), int(visit.end if high is None else high) + 1))

    def about(self, moments: Gains) -> Gains:
        """The number at run samples, ascending, near enough to be drawn."""
        visits, positions = self.motion.about(moments)
        found = np.empty(len(moments))
        for visit in np.unique(visits).tolist():
            here = visits == visit
            curve = self._by_scene[self.motion.plan.visits[visit].scene]
            found[here] = curve.values(positions[here])
        return found

    def values(self, start: int, end: int) -> Gains:
        """The number at each run sample of ``start..end``; its jumps are not spread."""
        found = np.empty(end - start)
        index = max(0, bisect_right(self._starts, start) - 1)
        while index < len(self._stays):
            low = max(start, self._starts[index]) if index else start
            last = index + 1 == len(self._stays)
            high = end if last else min(end, self._starts[index + 1])
            if low < high:
                curve = self._curves[index]
                if curve:
                    positions = self.motion.positions(self._stays[index], low, high)
                    found[low - start : high - start] = curve.values(positions)
                else:
                    found[low - start : high - start] = curve.empty
            if high >= end:
                break
            index += 1
        return found


class MasterLine:
    """The master lines of all scenes along a run: what everything that sounds is multiplied by."""

    def __init__(self, motion: Motion, scenes: tuple[Scene, ...]) -> None:
        self.motion = motion
        by_id = {scene.id: scene.master for scene in scenes}
        self.active = any(by_id[visit.scene] for visit in motion.plan.visits)
        self._lines = SceneLines(motion, by_id, 1.0)

    def gains(self, start: int, end: int) -> Gains:
        """The gain at each run sample of ``start..end``."""
        gains, ramp = self._lines.values(start, end), self.motion.ramp
        moments = np.arange(start, end, dtype=np.float64)
        for moment, before, after in self._lines.jumps:
            if start - ramp < moment < end:
                spread_jump(gains, moments, moment, after - before, ramp)
        return gains
