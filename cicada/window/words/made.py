"""How sounds made here are spoken of."""

import re

from cicada.core.made import Countdown, Making, Noise, RoomTone, Silence, SyncBeep, Tone
from cicada.core.patterns import (
    TICKS,
    Pattern,
    PatternPart,
    TempoStep,
    odd_parts,
    seconds_of,
)
from cicada.core.timebase import Timebase
from cicada.synth.instruments import playable
from cicada.synth.patterns import FARTHEST
from cicada.window.words.numbers import fixed, read, shown
from cicada.window.words.quantities import count, parse_bpm

TITLES: dict[type[Making], str] = {
    Silence: "Silence", Tone: "Tone", Noise: "Noise", RoomTone: "Room tone",
    SyncBeep: "Sync beep", Countdown: "Countdown", Pattern: "Pattern",
}  # fmt: skip
WHAT = {
    Silence: "Nothing, for so long: room between sounds, or the rest of a loop.",
    Tone: "One pitch, to tune to or to hide something under.",
    Noise: "White is bright, pink even to the ear, brown deep.",
    RoomTone: "The quiet of a room, so that cuts in speech do not fall into nothing.",
    SyncBeep: "A beep of one frame's length, to be held against a picture.",
    Countdown: "Beeps before something begins; the first is higher.",
}
ENDINGS = (
    ("cut", "cut", "What rings past its end is cut off"),
    ("ring", "rings on", "It rings on for 2 s after its last beat"),
    ("fold", "goes round", "What rings past its end is laid over its beginning: it loops"),
)


def pattern_sentence(pattern: Pattern, base: Timebase) -> str:
    """How long a pattern is, in beats, seconds and frames."""
    seconds = seconds_of(pattern)
    frames = seconds * base.fps
    whole = abs(frames - round(frames)) < 5e-4
    said = count(round(frames), "frame") if whole else f"{fixed(frames, 3)} frames"
    beats = shown(pattern.ticks / TICKS, 6)
    return f"{beats} {'beat' if beats == '1' else 'beats'}, {fixed(seconds, 3)} s, {said}"


def parse_tempo(text: str) -> float:
    """Beats a minute from 1 to 1,000; raises ``ValueError`` with a sentence."""
    bpm = parse_bpm(text)
    if bpm < 1:
        raise ValueError("a tempo is a number from 1 to 1,000")
    return bpm


def parse_tempo_steps(text: str, pattern: Pattern) -> tuple[TempoStep, ...]:
    """``90 from beat 5; 100 from beat 9``, the first beat of a round being 1; nothing is none.

    Raises ``ValueError`` with a sentence, also for a beat that no round of ``pattern`` has.
    """
    steps: dict[int, float] = {}
    beats = pattern.round_ticks / TICKS
    for piece in re.split(r";|,\s", text):
        if not piece.strip():
            continue
        bpm, found, beat = piece.lower().partition("from")
        if not found:
            raise ValueError(
                f"\u201c{piece.strip()}\u201d does not say from which beat: 90 from beat 5"
            )
        at = _tick(beat, beats)
        if at in steps:
            raise ValueError(f"beat {shown(at / TICKS + 1, 6)} has two tempos")
        steps[at] = parse_tempo(bpm)
    return tuple(TempoStep(at, steps[at]) for at in sorted(steps))


def _tick(text: str, beats: float) -> int:
    try:
        beat = read(text.replace("beat", ""))
    except ValueError:
        raise ValueError(f"\u201c{text.strip()}\u201d is no beat: 90 from beat 5") from None
    # Compared before it is rounded: what is typed may be no finite number.
    if not 1 < beat < beats + 1:
        raise ValueError(f"a change stands after beat 1, and a round has {shown(beats, 6)} beats")
    return max(1, min(round((beat - 1) * TICKS), round(beats * TICKS) - 1))


def tempo_steps_text(pattern: Pattern) -> str:
    """The changes of tempo as they are typed."""
    return "; ".join(
        f"{shown(step.bpm, 9)} from beat {shown(step.at / TICKS + 1, 9)}" for step in pattern.steps
    )


def outside_text(part: PatternPart) -> str:
    """How many notes its instrument cannot play; empty if it plays all."""
    if part.sound is not None:
        number = sum(abs(note.pitch - part.sound.root) > FARTHEST for note in part.notes)
    else:
        number = sum(not playable(part.voice, note.pitch) for note in part.notes)
    return f"{count(number, 'note')} outside its range, not heard" if number else ""


def odd_text(pattern: Pattern, number: int) -> str:
    """What does not come out even with the longest part; empty if it does."""
    rounds = odd_parts(pattern).get(number)
    if rounds is None:
        return ""
    beats = shown(pattern.parts[number].length / TICKS, 4)
    longest = shown(pattern.round_ticks / TICKS, 4)
    return f"{beats} beats against {longest}: it goes {shown(rounds, 3)} times round"
