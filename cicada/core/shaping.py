"""Shaping a clip by hand: trim, slip, split, land, end on a frame, loop to fill.

Everything is reckoned in whole samples of the clip's own clock: a locked clip's is the picture's
time, a free clip's is the run's, which goes on while the picture stands still. The sound's file is
never touched; a clip that was shaped can be shaped back.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.model import Clip, Placeable, Sound
from cicada.core.plan import Plan
from cicada.core.points import from_place
from cicada.core.timebase import (
    Timebase,
    decimal_ratio,
    round_half_up,
    samples_to_seconds,
    seconds_to_samples,
)
from cicada.core.values import WHOLE
from cicada.errors import BadEdit


class Clock:
    """When frames are entered, as a clip hears it, in samples.

    With a plan, and the visit of the scene that is meant, it is the run's time; without, the
    picture's. Frames the run does not come to are reckoned from the scene's first.
    """

    def __init__(self, base: Timebase, plan: Plan | None = None, visit: int | None = None) -> None:
        self._base, self._plan, self._visit = base, plan, visit

    def enters(self, frame: int) -> int:
        """When ``frame`` is entered."""
        if self._plan is not None and self._visit is not None:
            found = self._plan.entered(frame, self._visit)
            if found is not None:
                return found
            stay = self._plan.visits[self._visit]
            if frame >= stay.last:
                return stay.end + self._base.start(frame) - self._base.start(int(stay.last))
            return stay.start + self._base.start(frame)
        return self._base.start(frame)

    def frame_at(self, moment: int) -> int:
        """The frame that was entered last by ``moment``; 0 before the first."""
        if self._plan is not None and self._visit is not None:
            stay = self._plan.visits[self._visit]
            if stay.start <= moment < stay.end:
                frame = self._plan.frame_at(moment)[1]
                return frame if self.enters(frame) <= moment else frame - 1
            if moment < stay.start:
                return 0
            moment -= stay.end - self._base.start(int(stay.last))
        return max(0, self._base.frame_at(moment))


@dataclass(frozen=True, slots=True)
class Shaped:
    """A clip as it would be; its frame may be another. ``gave`` says what had to give, in words."""

    clip: Clip
    gave: str = ""


@dataclass(frozen=True, slots=True)
class Shaping:
    """A clip on its clock, with all it can be made into. Moments are samples of the clock.

    ``whole`` is how long its sound is before its speed, and ``length`` that of its scene, in
    frames.
    """

    clip: Clip
    sound: Placeable
    whole: int
    rate: int
    clock: Clock
    length: int

    @property
    def hits(self) -> tuple[float, ...]:
        """The hits set by hand in its sound, in seconds; what is made of sounds has none."""
        return self.sound.hits if isinstance(self.sound, Sound) else ()

    @property
    def timing(self) -> ClipTiming:
        """Its lengths as it is."""
        return clip_timing(self.clip, self.whole, self.rate)

    @property
    def begins(self) -> int:
        """The moment its first loop starts."""
        return self.clock.enters(self.clip.frame) + self.timing.delay

    def heard_before_speed(self, samples: int) -> int:
        """How many samples of the sound ``samples`` of playing time are."""
        numerator, denominator = decimal_ratio(self.clip.speed)
        return _rounded(samples * numerator, denominator)

    def playing(self, samples: int) -> int:
        """How many samples of playing time ``samples`` of the sound take."""
        numerator, denominator = decimal_ratio(self.clip.speed)
        return _rounded(samples * denominator, numerator)

    def moment_of(self, sample: int) -> int:
        """When a sample of the sound is heard, in the first loop."""
        timing = self.timing
        return self.begins - timing.offset + self.playing(sample - timing.first)

    def sample_at(self, moment: int) -> int:
        """The sample of the sound that is heard at a moment of the first loop."""
        timing = self.timing
        return timing.first + self.heard_before_speed(moment - self.begins + timing.offset)

    def first_join(self, plan: Plan, visit: int | None) -> int:
        """The run sample of ``plan`` at which the second loop begins."""
        join = self.begins - self.timing.offset + self.timing.step
        if self.clip.sync != "locked" or visit is None:
            return join
        # A locked clip waits with the picture, on whose frames its own clock counts.
        frame = self.clock.frame_at(join)
        return join + (plan.entered(frame, visit) or 0) - self.clock.enters(frame)

    # -- trim ----------------------------------------------------------------------------------

    def trim_head(self, moment: int) -> Shaped:
        """Let it begin at ``moment``, what is heard later staying where it is."""
        timing = self.timing
        by = self.heard_before_speed(moment - self.begins)
        most = timing.last - 1 - self.heard_before_speed(timing.offset)
        first = min(max(0, timing.first + by), most)
        gave = "" if first == timing.first + by else "there is no more of the sound"
        if first != timing.first + by:
            moment = self.begins + self.playing(first - timing.first)
        earliest, latest = self.clock.enters(0), self.clock.enters(self.length) - 1
        if moment < earliest:
            first += self.heard_before_speed(earliest - moment)
            moment, gave = earliest, "the scene begins here"
        elif moment > latest:
            first = max(0, first - self.heard_before_speed(moment - latest))
            moment, gave = latest, "the scene ends here"
        cut = replace(self._trimmed(first, timing.last), **self._lines_from(moment - self.begins))
        return Shaped(self._placed(cut, moment), gave)

    def trim_tail(self, moment: int) -> Shaped:
        """Let its first loop end at ``moment``."""
        timing = self.timing
        long = max(1, moment - self.begins + timing.offset)
        last = timing.first + max(1, self.heard_before_speed(long))
        gave = "there is no more of the sound" if last > self.whole else ""
        return Shaped(self._trimmed(timing.first, min(last, self.whole)), gave)

    def trim_to(self, first: int, last: int) -> Shaped:
        """Play samples ``first`` to ``last`` of the sound, from the keyframe on."""
        if last <= first:
            raise BadEdit("nothing of the sound would be left", remedy="leave some of it")
        clip = self._trimmed(max(0, first), min(last, self.whole))
        # The lines stay with the sound they were drawn over.
        lines = self._lines_from(self.playing(max(0, first) - self.timing.first))
        return Shaped(replace(clip, **lines))

    def slip(self, by: int) -> Shaped:
        """Let other parts of the sound be heard in the same place, ``by`` samples later ones."""
        timing = self.timing
        to_end = self.clip.trim[1] is None
        most = timing.last - 1 - timing.first if to_end else self.whole - timing.last
        far = max(-timing.first, min(by, most))
        last = timing.last if to_end else timing.last + far
        gave = "" if far == by else "there is no more of the sound"
        return Shaped(self._trimmed(timing.first + far, last), gave)

    def _trimmed(self, first: int, last: int) -> Clip:
        tail = None if last >= self.whole else samples_to_seconds(last, self.rate)
        head = samples_to_seconds(first, self.rate)
        trim: tuple[float, float | None] = WHOLE if not head and tail is None else (head, tail)
        return replace(self.clip, trim=trim)

    def _lines_from(self, samples: int) -> dict[str, Any]:
        """The lines of what is left from that much after the first loop's beginning on."""
        seconds, jump = samples / self.rate, round_half_up(self.rate, 500) / self.rate
        return {
            "level_line": from_place(self.clip.level_line, seconds, 1.0, jump),
            "pan_line": from_place(self.clip.pan_line, seconds, 0.0, jump),
        }

    def _placed(self, clip: Clip, moment: int) -> Clip:
        """The clip on the frame that covers the moment its first loop is to start at."""
        frame = self.clock.frame_at(moment)
        rest = samples_to_seconds(moment - self.clock.enters(frame), self.rate)
        return replace(clip, frame=frame, delay=rest)

    def trim_at(self, frame: int, *, head: bool) -> Shaped:
        """Let it begin, or stop, as ``frame`` is entered, which must be inside it."""
        moment = self.clock.enters(frame)
        if head and moment >= self.begins + self.timing.loop:
            raise BadEdit("the clip is over by the playhead", remedy="go back inside it")
        if not head and moment <= self.begins:
            raise BadEdit("the clip begins after the playhead", remedy="go on inside it")
        return self.trim_head(moment) if head else self.trim_tail(moment)

    # -- split ---------------------------------------------------------------------------------

    def split(self, frame: int) -> tuple[Clip, Clip]:
        """What plays up to ``frame``, and what goes on from there.

        A clip at its own speed that plays once is cut by its trim and goes on without a seam. Any
        other is ended by its span, and its second part begins inside a loop by its offset; where
        loops overlap, the end of the loop before is not taken along.
        """
        clip, timing = self.clip, self.timing
        if clip.sync == "hold":
            raise BadEdit(
                "the picture stands still while this clip sounds, so no frame is inside it",
                remedy="let it run free first",
            )
        into = self.clock.enters(frame) - self.begins
        over = timing.total is not None and into >= timing.total - timing.delay
        if into <= 0 or over or not timing.step:
            raise BadEdit(
                "the clip does not sound on that frame", remedy="put the playhead inside it"
            )
        first = replace(clip, fade_out=0.0)
        second = replace(clip, frame=frame, delay=0.0, fade_in=0.0)
        if clip.line_over == "run":
            second = replace(second, **self._lines_from(into))
        if clip.loops == 1 and clip.speed == 1:
            cut = timing.first + timing.offset + into
            trimmed = self._of(first)._trimmed(timing.first, cut)  # noqa: SLF001 - of the same class
            rest = self._of(second)._trimmed(cut, timing.last)  # noqa: SLF001 - of the same class
            return trimmed, replace(rest, offset=0.0)
        played = into + timing.offset
        number = played // timing.step
        if timing.loops:
            number = min(number, timing.loops - 1)
        inside = samples_to_seconds(played - number * timing.step, self.rate)
        second = replace(second, offset=inside, loops=clip.loops and clip.loops - number)
        if clip.sync == "free":
            first = replace(first, ends="span", release=0.0)
        return first, second

    def _of(self, clip: Clip) -> "Shaping":
        return Shaping(clip, self.sound, self.whole, self.rate, self.clock, self.length)

    # -- land ----------------------------------------------------------------------------------

    def land(self, sample: int, frame: int) -> Shaped:
        """Put the clip so that a sample of its sound is heard as ``frame`` is entered."""
        clip, timing = self.clip, self.timing
        if clip.sync == "hold":
            raise BadEdit(
                "the picture stands still while this clip sounds, so nothing in it can land on "
                "another frame",
                remedy="let it run free first",
            )
        if not 0 <= frame < self.length:
            raise BadEdit("that frame is outside the scene", remedy="choose one inside it")
        into = self.playing(sample - timing.first) - timing.offset
        if into < 0 or sample >= timing.last:
            raise BadEdit("that moment of the sound is cut off", remedy="trim less of it")
        start = self.clock.enters(frame) - into
        earliest = self.clock.enters(0)
        if start >= earliest:
            return Shaped(self._placed(clip, start))
        # A fast clip's last sample is rounded to its end, where nothing would be left of it.
        missing = min(earliest - start, timing.loop - timing.offset - 1)
        offset = samples_to_seconds(timing.offset + missing, self.rate)
        cut = replace(clip, offset=offset, **self._lines_from(missing))
        seconds = missing / self.rate
        return Shaped(
            self._placed(cut, earliest),
            f"the first {seconds:.3f} s are left out, for the scene begins too late for them",
        )

    def nearest_hit(self, found: Iterable[int], frame: int) -> int:
        """Of the hits ``found`` in the sound and those set by hand, the one nearest to a frame."""
        timing = self.timing
        own = [seconds_to_samples(hit, self.rate) for hit in self.hits]
        heard = [hit for hit in (*own, *found) if timing.first <= hit < timing.last]
        if not heard:
            raise BadEdit("no hit was found in this sound", remedy="set one with Shift+V")
        here = self.clock.enters(frame)
        return min(heard, key=lambda hit: abs(self.moment_of(hit) - here))

    def hits_with(self, frame: int, apart: int) -> tuple[float, ...]:
        """The sound's own hits, in seconds, with one where it is on a frame.

        Where one is already, within half of ``apart`` samples, that is taken off instead.
        """
        if not isinstance(self.sound, Sound):
            raise BadEdit(
                f"{self.sound.label} is made of sounds",
                remedy="set the hit in one of them, where it is placed alone",
            )
        sample = self.sample_at(self.clock.enters(frame))
        if not self.timing.first <= sample < self.timing.last:
            raise BadEdit("the clip is not heard here", remedy="put the playhead inside it")
        seconds = samples_to_seconds(sample, self.rate)
        near = [hit for hit in self.hits if abs(hit - seconds) < apart / self.rate / 2]
        kept = [hit for hit in self.hits if hit not in near]
        return tuple(sorted(kept if near else [*kept, seconds]))

    # -- length --------------------------------------------------------------------------------

    def needs(self, frame: int) -> int:
        """How long the clip must be, from its first loop on, to be over as ``frame`` is entered."""
        return self.clock.enters(frame) - self.begins

    def looped_to(self, frame: int) -> dict[str, Any]:
        """The changes that let it loop until ``frame`` is entered; its span must end there."""
        timing, needed = self.timing, self.needs(frame)
        if needed <= 0:
            raise BadEdit("the clip starts later than that", remedy="choose a later frame")
        if not timing.step:
            raise BadEdit("there is nothing of its sound to loop", remedy="give it another trim")
        overlap = timing.loop - timing.step
        loops = max(1, -(-(needed + timing.offset - overlap) // timing.step))
        changes: dict[str, Any] = {"loops": loops}
        if loops * timing.step + overlap - timing.offset > needed and self.clip.sync != "locked":
            changes["ends"] = "span"
        return changes


def _rounded(numerator: int, denominator: int) -> int:
    """The nearest whole number, below 0 as well; halves go away from 0."""
    sign = 1 if numerator >= 0 else -1
    return sign * round_half_up(abs(numerator), denominator)
