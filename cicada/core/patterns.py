"""Patterns: notes written down on a grid of beats, and when each of them sounds.

Places and lengths are in ticks, ``TICKS`` to a beat, so that what is written stays exact.
"""

from bisect import bisect_right
from collections.abc import Iterator
from typing import Annotated, Literal, NamedTuple

from msgspec import Meta, Struct

from cicada.core.parts import Part
from cicada.core.values import Hash, Level, Pan

TICKS = 960
# The longest pattern, in ticks and in notes of a part.
MOST_TICKS, MOST_NOTES, MOST_PARTS = 10_000 * TICKS, 100_000, 64

Ticks = Annotated[int, Meta(ge=0, le=MOST_TICKS)]
Pitch = Annotated[float, Meta(ge=0, le=127)]
# Where a scene's tempo gives way to another, a beat of it may be cut very short, or be long.
Bpm = Annotated[float, Meta(ge=0.001, le=1_000_000)]
VoiceName = Literal["drums", "struck", "plucked", "blown", "bowed", "sung"]
Ending = Literal["cut", "ring", "fold"]
# How long what rings past the end may ring where it is let ring, in seconds.
RINGS = 2.0


class Note(Struct, frozen=True, array_like=True, forbid_unknown_fields=True):
    """A note: from tick ``at`` on, ``length`` ticks, its pitch (60 is C4) and how strong it is.

    Between whole pitches are the cents. On drums the pitch says which drum.
    """

    at: Ticks
    length: Annotated[int, Meta(ge=1, le=MOST_TICKS)]
    pitch: Pitch
    strength: Annotated[float, Meta(gt=0, le=1)] = 0.8


class PlayedSound(Struct, frozen=True, forbid_unknown_fields=True):
    """A sound of the shelf as an instrument: as it is at ``root``, faster above and slower below.

    ``content`` is what it is known by, so that another take of it is another pattern.
    """

    sound: str
    content: Hash = ""
    root: Pitch = 60.0


class PatternPart(Part, frozen=True, kw_only=True):
    """What one instrument plays, in rounds of ``length`` ticks until the pattern is over."""

    name: str = ""
    voice: VoiceName = "plucked"
    sound: PlayedSound | None = None
    length: Annotated[int, Meta(ge=1, le=MOST_TICKS)] = 4 * TICKS
    level: Level = 1.0
    pan: Pan = 0.0
    off: bool = False
    notes: Annotated[tuple[Note, ...], Meta(max_length=MOST_NOTES)] = ()


class TempoStep(Struct, frozen=True, array_like=True, forbid_unknown_fields=True):
    """From tick ``at`` of a round on, so many beats a minute."""

    at: Ticks
    bpm: Bpm


class Pattern(
    Part, frozen=True, kw_only=True, tag_field="kind", tag="pattern",
):  # fmt: skip
    """Parts one under the other. It lasts as long as its longest part, ``repeats`` times over.

    ``swing`` is the share of each pair of ``swing_unit`` ticks that its first half has; ``grid``
    are the ticks of a cell where it is written. With ``follows`` the tempo is that of a scene,
    from its first beat on. What rings past the end is cut, rings on, or is laid over the beginning.
    """

    bpm: Bpm = 120.0
    steps: Annotated[tuple[TempoStep, ...], Meta(max_length=10_000)] = ()
    swing: Annotated[float, Meta(ge=0.5, le=0.75)] = 0.5
    swing_unit: Annotated[int, Meta(ge=1, le=TICKS)] = TICKS // 2
    grid: Annotated[int, Meta(ge=1, le=4 * TICKS)] = TICKS // 4
    repeats: Annotated[int, Meta(ge=1, le=10_000)] = 1
    ending: Ending = "cut"
    follows: str | None = None
    parts: Annotated[tuple[PatternPart, ...], Meta(max_length=MOST_PARTS)] = ()

    @property
    def round_ticks(self) -> int:
        """The ticks of one round: those of its longest part."""
        return max((part.length for part in self.parts), default=4 * TICKS)

    @property
    def ticks(self) -> int:
        """All its ticks."""
        return self.round_ticks * self.repeats


class Onset(NamedTuple):
    """A note as it sounds: of which part, from when to when in seconds."""

    part: int
    note: Note
    start: float
    end: float


class Times:
    """When each tick of a pattern is, in seconds; worked out once for its changes of tempo."""

    def __init__(self, pattern: Pattern) -> None:
        self._pattern, self._round = pattern, pattern.round_ticks
        steps = {0: pattern.bpm}
        steps.update({step.at: step.bpm for step in pattern.steps if step.at < self._round})
        self._ats = sorted(steps)
        self._lengths = [60.0 / (steps[at] * TICKS) for at in self._ats]
        self._begin = [0.0]
        for index, at in enumerate(self._ats[1:], start=1):
            gone = (at - self._ats[index - 1]) * self._lengths[index - 1]
            self._begin.append(self._begin[-1] + gone)
        self._lasts = self._within(self._round)

    def _within(self, tick: float) -> float:
        index = bisect_right(self._ats, tick) - 1
        return self._begin[index] + (tick - self._ats[index]) * self._lengths[index]

    def at(self, tick: int) -> float:
        """When a tick is, swing taken into account; changes of tempo begin anew each round."""
        rounds, within = divmod(tick, self._round)
        return rounds * self._lasts + self._within(self.swung(within))

    def swung(self, tick: int) -> float:
        """A tick of a round where swing moves it to, in ticks."""
        swing, unit = self._pattern.swing, self._pattern.swing_unit
        if swing == 0.5:
            return tick
        pairs, within = divmod(tick, 2 * unit)
        first = 2 * unit * swing
        if within < unit:
            moved = within * first / unit
        else:
            moved = first + (within - unit) * (2 * unit - first) / unit
        # A pair that the round cuts short is not stretched past its end.
        return min(pairs * 2 * unit + moved, float(self._round))

    @property
    def seconds(self) -> float:
        """How long all rounds take."""
        return self._pattern.repeats * self._lasts


def onsets(pattern: Pattern) -> Iterator[Onset]:
    """Every note that sounds, part by part; what would go past the end of all is cut there."""
    times, ticks = Times(pattern), pattern.ticks
    for number, part in enumerate(pattern.parts):
        if part.off:
            continue
        for begin in range(0, ticks, part.length):
            for note in part.notes:
                at = begin + note.at
                if note.at < part.length and at < ticks:
                    end = min(at + note.length, ticks)
                    yield Onset(number, note, times.at(at), times.at(end))


def seconds_of(pattern: Pattern) -> float:
    """How long it is: all its rounds, and what it may ring on."""
    return Times(pattern).seconds + (RINGS if pattern.ending == "ring" else 0.0)


def odd_parts(pattern: Pattern) -> dict[int, float]:
    """The parts whose rounds do not come out even with the longest, and how many there are."""
    longest = pattern.round_ticks
    return {
        number: longest / part.length
        for number, part in enumerate(pattern.parts)
        if longest % part.length
    }
