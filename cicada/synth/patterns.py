"""What a pattern sounds like: each note where it belongs, block by block."""

import heapq
from collections.abc import Callable, Iterator

import numpy as np

from cicada.core.arrays import Block, Samples
from cicada.core.lines import pan_gains
from cicada.core.patterns import Note, Onset, Pattern, PatternPart, Times
from cicada.synth.instruments import note as played_note
from cicada.synth.plain import AT_ONCE

Played = Callable[[str], Samples | None]
"""The samples of a sound of the shelf at the rate wanted, shape (channels, n); None: not here."""
# Notes that are kept, for most of them come again; how far a sound of the shelf goes up and down.
_KEPT = 4096
FARTHEST = 24.0
# Seconds over which what is cut at the end fades.
_CUT = 0.005
# Seconds that any note rings at most after it is let go.
LONGEST_RING = 4.0


def ordered(pattern: Pattern) -> Iterator[Onset]:
    """All its notes in the order of their beginnings."""
    times, ticks = Times(pattern), pattern.ticks

    def of_part(number: int, part: PatternPart) -> Iterator[Onset]:
        notes = sorted((n for n in part.notes if n.at < part.length), key=_at)
        for begin in range(0, ticks, part.length):
            for each in notes:
                at = begin + each.at
                if at >= ticks:
                    return
                yield Onset(number, each, times.at(at), times.at(min(at + each.length, ticks)))

    parts = [of_part(n, p) for n, p in enumerate(pattern.parts) if not p.off and p.notes]
    return heapq.merge(*parts, key=_start)


def _at(note: Note) -> int:
    return note.at


def _start(onset: Onset) -> float:
    return onset.start


class Notes:
    """The samples of notes, kept for the next time they are wanted."""

    def __init__(self, pattern: Pattern, rate: int, played: Played) -> None:
        self._parts, self._rate, self._played = pattern.parts, rate, played
        self._kept: dict[tuple[object, float, int], Samples] = {}
        self._sounds: dict[str, Samples | None] = {}

    def of(self, onset: Onset) -> Samples:
        """The samples of one, shape (2, n), at its strength, its part's level and place."""
        part, written = self._parts[onset.part], onset.note
        held = max(1, round((onset.end - onset.start) * self._rate))
        key = (onset.part, written.pitch, held)
        if key not in self._kept:
            if len(self._kept) >= _KEPT:
                del self._kept[next(iter(self._kept))]
            self._kept[key] = self._made(part, written.pitch, held)
        return np.float32(written.strength) * self._kept[key]

    def _made(self, part: PatternPart, pitch: float, held: int) -> Samples:
        left, right = pan_gains(part.pan)
        gains = np.array([[left], [right]], np.float32) * np.float32(part.level)
        if part.sound is None:
            mono = played_note(part.voice, pitch, held / self._rate, self._rate)
            return gains * mono.astype(np.float32)[None]
        return gains * self._of_shelf(part, pitch, held)

    def _of_shelf(self, part: PatternPart, pitch: float, held: int) -> Samples:
        """A sound of the shelf at another pitch, faded out where the note is let go."""
        assert part.sound is not None
        wanted = part.sound.sound
        if wanted not in self._sounds:
            self._sounds[wanted] = self._played(wanted)
        whole = self._sounds[wanted]
        up = pitch - part.sound.root
        if whole is None or abs(up) > FARTHEST:
            return np.zeros((2, 0), np.float32)
        speed = 2 ** (up / 12)
        fall = round(0.05 * self._rate)
        needed = min(whole.shape[1], round((held + fall) * speed) + 64)
        part_of = whole[:, :needed]
        if up:
            import soxr

            changed = soxr.resample(np.ascontiguousarray(part_of.T), speed, 1.0)
            part_of = np.asarray(changed, np.float32).T
        sound = np.array(part_of[:, : held + fall])
        let_go = sound.shape[1] - held
        if let_go > 0:
            sound[:, held:] *= np.linspace(1.0, 0.0, let_go + 1, dtype=np.float32)[1:]
        return sound if len(sound) == 2 else np.repeat(sound[:1], 2, axis=0)


def blocks(pattern: Pattern, frames: int, rate: int, played: Played) -> Iterator[Block]:
    """All of it, blocks of shape (n, 2)."""
    over = round(Times(pattern).seconds * rate)
    folded = np.zeros((2, 0), np.float32)
    if pattern.ending == "fold":
        folded = _past_the_end(pattern, over, rate, played)
    done = 0
    for block in _mixed(ordered(pattern), Notes(pattern, rate, played), frames, rate):
        left = folded[:, done : done + block.shape[1]]
        block[:, : left.shape[1]] += left
        if pattern.ending == "cut":
            _fade(block, done, frames, rate)
        done += block.shape[1]
        yield block.T


def _mixed(
    notes: Iterator[Onset], samples: Notes, frames: int, rate: int, first: int = 0
) -> Iterator[Samples]:
    """Samples ``first..frames`` of all notes together."""
    sounding: list[tuple[int, Samples]] = []
    following = next(notes, None)
    while first < frames:
        block = np.zeros((2, min(AT_ONCE, frames - first)), np.float32)
        end = first + block.shape[1]
        while following is not None and (start := round(following.start * rate)) < end:
            made = samples.of(following)
            if start + made.shape[1] > first:
                sounding.append((start, made))
            following = next(notes, None)
        for start, made in sounding:
            begin, last = max(start, first), min(start + made.shape[1], end)
            block[:, begin - first : last - first] += made[:, begin - start : last - start]
        sounding = [(start, made) for start, made in sounding if start + made.shape[1] > end]
        yield block
        first = end


def _past_the_end(pattern: Pattern, over: int, rate: int, played: Played) -> Samples:
    """What would ring past the end of all, for as long as the whole at most."""
    late = over / rate - LONGEST_RING
    ringing = (onset for onset in ordered(pattern) if onset.end > late or onset.start > late)
    last = min(2 * over, over + round(LONGEST_RING * rate))
    made = [*_mixed(ringing, Notes(pattern, rate, played), last, rate, over)]
    return np.concatenate(made, axis=1) if made else np.zeros((2, 0), np.float32)


def _fade(block: Samples, first: int, frames: int, rate: int) -> None:
    """Fade what is cut at the end."""
    left = frames - first - np.arange(block.shape[1])
    block *= np.minimum(1.0, (left - 0.5) / max(1.0, _CUT * rate)).astype(np.float32)
