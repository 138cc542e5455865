"""Tempos and beats against frames, in words."""

from fractions import Fraction

from cicada.core.model import Project, Tempo
from cicada.core.tapping import Tapped
from cicada.core.tempos import Suited, frames_per_beat
from cicada.core.timebase import fps_text
from cicada.media.tempo import Tempos
from cicada.window.words.numbers import fixed, shown
from cicada.window.words.quantities import count


def frames_text(frames: Fraction) -> str:
    """So many frames a beat, exact where that is short."""
    if frames.denominator == 1:
        return count(int(frames), "frame")
    return f"{shown(float(frames), 3)} frames"


def off_text(off: float, rate: int) -> str:
    """By how much a beat misses its frame."""
    return f"{fixed(1000 * off / rate, 1)} ms"


def tempo_sentence(tempo: Tempo, off: float, project: Project) -> str:
    """A tempo of a scene, and whether its beats fall on frames."""
    frames = frames_text(frames_per_beat(tempo.bpm, project.fps))
    from_there = f"frame {project.shown(tempo.frame)}"
    if tempo.offset:
        from_there += f" and {fixed(tempo.offset, 3)} s"
    said = f"From {from_there}: {shown(tempo.bpm, 3)} beats a minute, {frames} a beat"
    if off <= 1.0:
        return f"{said}, every beat on a frame"
    return f"{said}; beats fall between frames, up to {off_text(off, project.rate)} off"


def suited_sentence(suited: Suited, project: Project, rounded: int | None) -> str:
    """A tempo or a rate that would suit, with what it costs.

    ``rounded`` is how many things another frame rate would round; None where the rate stays.
    """
    if suited.fps == project.fps and rounded is None:
        per_cent = fixed(abs(100 * suited.change), 2)
        frames = frames_text(frames_per_beat(suited.bpm, suited.fps))
        change = "as fast" if abs(suited.change) < 5e-5 else f"{per_cent} % " + (
            "faster" if suited.change > 0 else "slower"
        )  # fmt: skip
        said = f"{shown(suited.bpm, 4)} beats a minute, {change}: "
        if suited.on_frames:
            return f"{said}{frames} a beat, every beat on a frame"
        return f"{said}nearest, but up to {off_text(suited.off, project.rate)} off"
    frames = frames_text(frames_per_beat(suited.bpm, suited.fps))
    cost = "nothing to round" if not rounded else f"{count(rounded, 'thing')} to round"
    if suited.on_frames:
        return f"{fps_text(suited.fps)} frames a second: {frames} a beat, on frames; {cost}"
    off = off_text(suited.off, project.rate)
    return f"{fps_text(suited.fps)} frames a second: {frames} a beat, up to {off} off; {cost}"


def tapped_text(tapped: Tapped | None, taps: int) -> str:
    """What was tapped so far."""
    if tapped is None:
        return "tap three times or more" if taps else "press T, or this button, on each beat"
    sure = fixed(tapped.sure, 1)
    return f"{fixed(tapped.bpm, 1)}, give or take {sure}, from {count(taps, 'tap')}"


def found_text(tempos: Tempos, speed: float) -> str:
    """What was found in a sound that plays at a speed."""
    if not tempos.found:
        return "no tempo can be heard in it"
    best = tempos.found[0]
    how = "surely, but for its half or double" if tempos.sure else "perhaps; listen to it"
    return f"{shown(best.bpm * speed, 2)} {how}"
