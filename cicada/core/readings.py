"""What a film's values are at a moment of a run: their lines, and the glides given to them.

Exact, for it chooses what is drawn and which pad acts (live.md, section L1).
"""

from fractions import Fraction

from cicada.core.crossing import Bounds, next_crossing
from cicada.core.exact import ExactLine, ExactRange, exactly, grained
from cicada.core.model import Project
from cicada.core.plan import Glide
from cicada.core.state import Gliding, State
from cicada.core.timebase import Timebase


class Readings:
    """The values of a film, read where a run's state is."""

    def __init__(self, project: Project, base: Timebase, state: State) -> None:
        self._base, self._state = base, state
        self._bounds = {
            value.id: Bounds(exactly(value.low), exactly(value.high), exactly(value.begins))
            for value in project.values
        }
        self._lines = [
            {value: ExactLine(line) for value, line in scene.value_lines.items() if line}
            for scene in project.scenes
        ]

    def position(self) -> Fraction:
        """Where the picture is now, in frames of its scene."""
        s, base = self._state, self._base
        if s.moves_from is None:
            return Fraction(s.frame)
        moved = s.time - s.moves_from + base.start(s.frame)
        frame = base.frame_at(moved)
        if frame >= s.frames_to:
            return Fraction(s.frames_to)
        return frame + Fraction(moved - base.start(frame), base.duration(frame))

    def frame(self) -> int:
        """The frame the picture is on now."""
        return min(int(self.position()), max(self._state.frame, self._state.frames_to - 1))

    def _reading(self, value: str) -> Fraction:
        line = self._lines[self._state.scene].get(value)
        return self._bounds[value].begins if line is None else line.at(self.position())

    def at(self, value: str) -> Fraction:
        """What a value is now."""
        s, bounds = self._state, self._bounds[value]
        gliding = s.gliding.get(value)
        if gliding is None:
            found = self._reading(value)
        else:
            since = s.time - gliding.at
            found = self._reading(value) if gliding.to is None else gliding.to
            if since < gliding.over:
                x = Fraction(since, gliding.over)
                found = (1 - x) * gliding.start + x * found
        return bounds.within(found)

    def inside(self, value: str, wanted: ExactRange) -> bool:
        """Whether a value is in a range now."""
        return self.at(value) in wanted

    def next_crossing(
        self, value: str, wanted: ExactRange, first: int, last: int, *, inside: bool
    ) -> int | None:
        """The first frame of ``first..last`` at which a value comes into a range, or leaves it.

        That is as things stand, the picture moving on; ``first`` while the value glides.
        """
        s = self._state
        gliding, line = s.gliding.get(value), self._lines[s.scene].get(value)
        if gliding is not None and s.time - gliding.at < gliding.over:
            return first
        if line is None or (gliding is not None and gliding.to is not None):
            # It stays, but may have been given since the last look.
            return None if self.inside(value, wanted) == inside else first
        return next_crossing(line, self._bounds[value], wanted, first, last, inside=inside)

    def give(self, value: str, to: float | None, over: int) -> None:
        """A value begins to move, over so many samples."""
        s = self._state
        start = grained(self.at(value))
        s.gliding[value] = Gliding(s.time, start, None if to is None else exactly(to), over)
        s.glides.append(Glide(s.time, value, float(start), to, over))
