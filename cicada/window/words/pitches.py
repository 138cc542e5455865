"""Pitches as people write them: a name with its octave, a number, or a frequency."""

import re
from math import isfinite, log2

from cicada.core.patterns import VoiceName
from cicada.synth.instruments import DRUMS, INSTRUMENTS, hertz_of, playable

NAMES = ("C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B")
_STEPS = {"c": 0, "d": 2, "e": 4, "f": 5, "g": 7, "a": 9, "b": 11}
_SIGNS = {"#": 1, "♯": 1, "b": -1, "♭": -1}
_NAMED = re.compile(
    r"([a-g])([#♯b♭]*)(-?\d{1,2})(?:\s*([+−-]\s*\d{1,2}(?:\.\d+)?)\s*(?:cents?|ct)?)?"
)
_HERTZ = re.compile(r"(\d{1,6}(?:\.\d+)?)\s*hz")
HOW = "type a note with its octave (C4), a number (60), or a frequency (440 Hz)"


def parse_pitch(text: str) -> float:
    """The pitch that was typed, 60 for C4; raises ``ValueError`` with a sentence."""
    plain = text.strip().lower().replace(",", ".")
    named, hertz = _NAMED.fullmatch(plain), _HERTZ.fullmatch(plain)
    if named:
        letter, signs, octave, cents = named.groups()
        pitch = 12.0 * (int(octave) + 1) + _STEPS[letter] + sum(_SIGNS[sign] for sign in signs)
        pitch += float((cents or "0").replace(" ", "").replace("−", "-")) / 100
    elif hertz:
        if not float(hertz[1]):
            raise ValueError("a frequency is more than 0 Hz")
        pitch = 69.0 + 12 * log2(float(hertz[1]) / 440.0)
    else:
        try:
            pitch = float(plain)
        except ValueError:
            raise ValueError(HOW) from None
    if not isfinite(pitch) or not 0 <= pitch <= 127:
        raise ValueError("pitches go from C-1 (0) to G9 (127)")
    return round(pitch, 4)


def pitch_text(pitch: float) -> str:
    """A pitch by its name, with the cents it is off."""
    whole = round(pitch)
    cents = round((pitch - whole) * 100, 1)
    name = f"{NAMES[whole % 12]}{whole // 12 - 1}"
    return name if not cents else f"{name} {'+' if cents > 0 else '−'}{abs(cents):g} cents"


def understood(voice: VoiceName, pitch: float, *, sound: bool = False) -> str:
    """What a pitch is taken to be, and whether the voice has it."""
    if voice == "drums" and not sound:
        drum = DRUMS.get(int(pitch)) if pitch == int(pitch) else None
        return drum.title if drum else f"no drum is at {pitch:g}; {drums_text()}"
    words = f"{pitch_text(pitch)}, {hertz_of(pitch):.1f} Hz"
    if sound or playable(voice, pitch):
        return words
    return f"{words}: {INSTRUMENTS[voice].title.lower()} play {range_text(voice)}"


def drums_text() -> str:
    """Which drums there are."""
    return "there are " + ", ".join(f"{pitch} {drum.title}" for pitch, drum in DRUMS.items())


def range_text(voice: VoiceName) -> str:
    """The pitches a voice can play."""
    if voice == "drums":
        return f"{len(DRUMS)} drums"
    instrument = INSTRUMENTS[voice]
    return f"{pitch_text(instrument.low)} to {pitch_text(instrument.high)}"


def row_text(voice: VoiceName, pitch: float, *, sound: bool) -> str:
    """A row of the grid: the drum, or the pitch."""
    if voice == "drums" and not sound and pitch in DRUMS:
        return DRUMS[int(pitch)].title
    return pitch_text(pitch)
