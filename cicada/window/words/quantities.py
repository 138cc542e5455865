"""Quantities as people type and read them: every unit is understood, and the others are shown."""

import re
from dataclasses import dataclass
from math import log2, log10

from cicada.core.model import PressPoint
from cicada.core.values import Line, Point
from cicada.window.words.numbers import NUMBER, fixed, read, shown

# Nobody means a fade or a trim of more than a day.
LONGEST = 86_400
_LEVEL = re.compile(rf"^\s*({NUMBER}|[-−]?(?:∞|inf))\s*(%|db|x|×)?\s*$", re.IGNORECASE)
_PAN = re.compile(
    rf"^(?:(?P<middle>middle|centre|center|c)|(?P<before>[lr])\s*(?P<after>{NUMBER})\s*%?"
    rf"|(?P<amount>{NUMBER})?\s*%?\s*(?P<side>left|right|l|r)?)$",
    re.IGNORECASE,
)
_SPEED = re.compile(rf"^\s*({NUMBER})\s*(x|×|%|st)?\s*$", re.IGNORECASE)
_UNIT = "ms|s|f|b|frames?|beats?|seconds?"
_TERM = re.compile(rf"\s*([+\-−]?)\s*(\d[\d.,'\s]*|[.,]\d+)\s*({_UNIT})?(?![a-z])", re.IGNORECASE)
_CLOCK = re.compile(r"^\s*(?:(\d+):)?(\d+):(\d+)(?::(\d+)|[.,](\d+))?\s*$")
_POINT = re.compile(rf"^([\d.,'+\-−]+\s*(?:{_UNIT})?)\s+(.+?)(?:\s+(smooth|step))?$", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class TimeUnits:
    """What a time is told in: frames a second and, where there is a tempo, beats a minute."""

    fps: float
    bpm: float | None = None


def _first(text: str) -> str:
    """What was typed, without the other readings that stood beside it."""
    return text.split("·", maxsplit=1)[0]


# -- levels ----------------------------------------------------------------------------------------


def parse_level(text: str) -> float:
    """A level as linear amplitude: ``40 %``, ``-8 dB``, ``0.4x``; a bare number is per cent.

    Raises ``ValueError`` with a sentence that says what was not understood.
    """
    match = _LEVEL.match(_first(text))
    if match is None:
        raise ValueError(f"“{text.strip()}” is no level: write 40 %, -8 dB or 0.4x")
    unit = (match[2] or "%").lower()
    if "∞" in match[1] or "inf" in match[1].lower():
        if match[1][0] not in "-−∞":
            raise ValueError("a level goes from 0 % to 1600 %, which is +24.1 dB")
        value = 0.0
    elif unit == "db":
        value = 10 ** (min(read(match[1]), 999.0) / 20)
        # The highest level, as it is shown, is a little past it.
        value = 16.0 if 16 < value < 16.1 else value
    else:
        value = read(match[1]) / (100 if unit == "%" else 1)
    if not 0 <= value <= 16:
        raise ValueError("a level goes from 0 % to 1600 %, which is +24.1 dB")
    return float(f"{value:.6g}")


def decibels(level: float) -> str:
    """A linear level in dB."""
    if level <= 0:
        return "−∞ dB"
    value = round(20 * log10(level), 1)
    return f"{'+' if value > 0 else ''}{fixed(value + 0.0, 1)} dB"


def level_text(level: float) -> str:
    """A level in both readings."""
    return f"{shown(level * 100, 4)} % · {decibels(level)}"


def peaks_at(level: float) -> str:
    """How loud something gets, in words."""
    over = ", over full scale" if level > 1 else ""
    return f"peaks at {decibels(level)}{over}"


def level_readings(level: float) -> str:
    """A level in every reading."""
    return f"{level_text(level)} · {shown(level, 4)}x"


def level_stepped(level: float, steps: int, /, *, fine: bool) -> float:
    """A level some steps of 5 % (``fine``: 1 %) on."""
    return min(16.0, max(0.0, round(level + steps * (0.01 if fine else 0.05), 4)))


# -- times -----------------------------------------------------------------------------------------


def parse_seconds(text: str, units: TimeUnits) -> float:
    """A time in seconds: ``0.5 s``, ``250 ms``, ``12 f``, ``2 b``, ``0:02:12``, ``2 s + 5 f``.

    A bare number is seconds. Raises ``ValueError`` with a sentence that says what was not
    understood.
    """
    plain = _first(text)
    clock = _CLOCK.match(plain)
    seconds = _by_the_clock(clock, units) if clock else _sum(plain, text, units)
    if seconds < 0:
        raise ValueError("a time cannot be below 0")
    if seconds > LONGEST:
        raise ValueError("a time is at most 24 hours here")
    return round(seconds, 6)


def _by_the_clock(match: re.Match[str], units: TimeUnits) -> float:
    """``m:s``, ``h:m:s``, both with a part of a second, and the timecode ``h:m:s:f``."""
    hours, minutes, whole, frames, part = match.groups()
    seconds = int(hours or 0) * 3600 + int(minutes) * 60 + int(whole)
    if frames is None:
        return seconds + float(f"0.{part or 0}")
    nominal = max(1, round(units.fps))
    return (seconds * nominal + int(frames)) / units.fps


def _sum(plain: str, typed: str, units: TimeUnits) -> float:
    total, at = 0.0, 0
    while at < len(plain.rstrip()):
        match = _TERM.match(plain, at)
        if match is None or (at and not match[1]):
            raise ValueError(
                f"“{typed.strip()}” is no time: write 0.5 s, 250 ms, 12 f, 0:02 or 2 s + 5 f"
            )
        unit = (match[3] or "s").lower()
        value = read(match[2]) * (-1 if match[1] in ("-", "−") else 1)
        total += value * _seconds_of(unit, units)
        at = match.end()
    if not plain.strip():
        raise ValueError("write a time: 0.5 s, 250 ms, 12 f, 0:02 or 2 s + 5 f")
    return total


def _seconds_of(unit: str, units: TimeUnits) -> float:
    if unit == "ms":
        return 0.001
    if unit.startswith("f"):
        return 1 / units.fps
    if unit.startswith("b"):
        if units.bpm is None:
            raise ValueError("there are no beats here: put a tempo on the rulers first")
        return 60 / units.bpm
    return 1.0


def seconds_text(seconds: float, units: TimeUnits) -> str:
    """A time in both readings."""
    return f"{shown(seconds)} s · {shown(seconds * units.fps, 4)} f"


def time_readings(seconds: float, units: TimeUnits) -> str:
    """A time in every reading."""
    beats = "" if units.bpm is None else f" · {shown(seconds * units.bpm / 60, 4)} b"
    return f"{seconds_text(seconds, units)} · {shown(seconds * 1000, 5)} ms{beats}"


def time_stepped(seconds: float, steps: int, units: TimeUnits, *, fine: bool) -> float:
    """A time some frames (``fine``: ms) on."""
    return max(0.0, round(seconds + steps * (0.001 if fine else 1 / units.fps), 6))


# -- positions -------------------------------------------------------------------------------------


def parse_pan(text: str) -> float:
    """A position from -1 to 1: ``40 left``, ``right``, ``middle``; a bare number is per cent."""
    match = _PAN.match(_first(text).strip())
    if match is None or not match[0]:
        raise ValueError(f"“{text.strip()}” is no position: write 40 left, middle or 100 right")
    if match["middle"]:
        return 0.0
    number, side = match["after"] or match["amount"], match["before"] or match["side"] or ""
    amount = read(number) / 100 if number else 1.0
    value = -amount if side.lower().startswith("l") else amount
    if not -1 <= value <= 1:
        raise ValueError("a position goes from 100 left to 100 right")
    return round(value, 6)


def pan_text(pan: float) -> str:
    """A position in words."""
    if pan == 0:
        return "middle"
    return f"{shown(abs(pan) * 100, 4)} {'left' if pan < 0 else 'right'}"


def pan_stepped(pan: float, steps: int, /, *, fine: bool) -> float:
    """A position some steps of 5 (``fine``: 1) to the right."""
    return min(1.0, max(-1.0, round(pan + steps * (0.01 if fine else 0.05), 4)))


# -- speeds ----------------------------------------------------------------------------------------


def parse_speed(text: str) -> float:
    """A speed: ``2x``, ``50 %``, ``-12 st``; a bare number is a factor.

    Raises ``ValueError`` with a sentence that says what was not understood.
    """
    match = _SPEED.match(_first(text))
    if match is None:
        raise ValueError(f"“{text.strip()}” is no speed: write 0.5x, 50 % or -12 st")
    unit = (match[2] or "x").lower()
    number = read(match[1])
    if unit == "st":
        value = 2 ** (min(999.0, max(-999.0, number)) / 12)
    else:
        value = number / (100 if unit == "%" else 1)
    if not 0.1 <= value <= 10:
        raise ValueError("a speed goes from 0.1x to 10x, which is -39.9 st to +39.9 st")
    return round(value, 6)


def speed_text(speed: float) -> str:
    """A speed as a factor and in semitones."""
    semitones = round(12 * log2(speed), 2) + 0.0
    sign = "+" if semitones > 0 else ""
    return f"{shown(speed, 6)}x · {sign}{shown(semitones, 4)} st"


def speed_readings(speed: float) -> str:
    """A speed in every reading."""
    return f"{speed_text(speed)} · {shown(speed * 100, 5)} %"


def speed_stepped(speed: float, steps: int, /, *, fine: bool) -> float:
    """A speed some semitones (``fine``: tenths of one) higher."""
    return min(10.0, max(0.1, round(speed * 2 ** (steps * (0.1 if fine else 1) / 12), 6)))


# -- lines -----------------------------------------------------------------------------------------


def parse_line(kind: str, text: str, units: TimeUnits, *, frames: bool = False) -> Line:
    """The points of a level or pan line: ``0 s 50 %; 2 s 100 % smooth``, in order.

    Places are seconds, or ``frames``, which are what a bare number is then. Raises ``ValueError``
    with a sentence that says what was not understood.
    """
    points: list[Point] = []
    for part in filter(None, (part.strip() for part in text.split(";"))):
        match = _POINT.match(part)
        if match is None:
            raise ValueError(f"“{part}” is no point: write a time and a value, as in 2 s 50 %")
        bare = frames and match[1].strip()[-1].isdigit()
        seconds = parse_seconds(f"{match[1]} f" if bare else match[1], units)
        seconds = round(seconds * units.fps, 4) if frames else seconds
        value = parse_level(match[2]) if kind == "level" else parse_pan(match[2])
        shape = (match[3] or "").lower()
        if points and seconds < float(points[-1][0]):
            raise ValueError(f"“{part}” comes before the point in front of it: order them by time")
        if shape == "smooth":
            points.append((seconds, value, "smooth"))
        elif shape == "step":
            points.append((seconds, value, "step"))
        else:
            points.append((seconds, value))
    return tuple(points)


def line_text(kind: str, line: Line, *, frames: bool = False) -> str:
    """A line as it is typed."""
    unit = "f" if frames else "s"
    parts = []
    for point in line:
        value = float(point[1])
        told = f"{shown(value * 100)} %" if kind == "level" else pan_text(value)
        shape = f" {point[2]}" if len(point) > 2 else ""
        parts.append(f"{shown(float(point[0]))} {unit} {told}{shape}")
    return "; ".join(parts)


# -- whole numbers, and counts in words ------------------------------------------------------------


def parse_whole(text: str) -> float:
    """A whole number. Raises ``ValueError`` with a sentence."""
    if not re.match(r"^\s*[-−]?\d{1,9}\s*$", text):
        raise ValueError(f"“{text.strip()}” is no whole number")
    return read(text)


def parse_frames(text: str, units: TimeUnits) -> int:
    """A length in frames: ``240``, ``240 f``, ``12 s``, ``4 b``; a bare number is frames.

    Raises ``ValueError`` with a sentence.
    """
    if re.match(r"^\s*\d{1,9}\s*$", text):
        return int(read(text))
    return round(parse_seconds(text, units) * units.fps)


def parse_frame_number(text: str, units: TimeUnits, first: int) -> int:
    """A frame, counted from 0: its number as people count from ``first``, or a time of the scene.

    Raises ``ValueError`` with a sentence.
    """
    if re.match(r"^\s*[-−]?\d{1,9}\s*$", text):
        return int(read(text)) - first
    return round(parse_seconds(text, units) * units.fps)


_SHARE = re.compile(rf"^\s*({NUMBER})\s*%?\s*$")


def parse_share(text: str) -> float:
    """A share: ``50 %`` or ``50``, which are a half. Raises ``ValueError`` with a sentence."""
    match = _SHARE.match(text)
    if match is None:
        raise ValueError(f"“{text.strip()}” is no share: write 50 %")
    return round(read(match[1]) / 100, 6)


def share_text(share: float) -> str:
    """A share as it is shown: ``50 %``."""
    return f"{shown(round(share * 100, 1))} %"


def _number(text: str, low: float, high: float, what: str) -> float:
    match = re.match(rf"^\s*({NUMBER})\s*[a-z]*\s*$", text, re.IGNORECASE)
    value = read(match[1]) if match else high + 1
    if not low <= value <= high:
        raise ValueError(f"{what} is a number from {low:g} to {high:g}")
    return value


def parse_bpm(text: str) -> float:
    """Beats a minute, or 0 for none. Raises ``ValueError`` with a sentence."""
    return _number(text, 0, 1000, "a tempo")


def parse_loudness(text: str) -> float:
    """A loudness in LUFS. Raises ``ValueError`` with a sentence."""
    return _number(text, -60, 0, "a loudness in LUFS")


def parse_gigabytes(text: str) -> float:
    """A size in GB. Raises ``ValueError`` with a sentence."""
    return _number(text, 0.1, 10_000, "a size in GB")


def parse_loops(text: str) -> float:
    """How often: ``3``, ``3 x``, or ``endless``, which is 0. Raises ``ValueError``."""
    plain = text.strip().lower().rstrip("x× ")
    if plain in ("endless", "endlessly", "∞"):
        return 0
    value = parse_whole(plain)
    if value < 0:
        raise ValueError("a sound plays once or more often; 0 is endless")
    return value


def loops_text(loops: float) -> str:
    """How often, as it is typed."""
    return "endless" if loops == 0 else f"{loops:.0f}"


TIMES = ("", "once", "twice", "three times", "four times", "five times", "six times")


def times_text(loops: int) -> str:
    """How often, in words."""
    if loops == 0:
        return "endlessly"
    return TIMES[loops] if loops < len(TIMES) else f"{loops} times"


def waits_text(point: PressPoint) -> str:
    """What the picture waits for at a press point."""
    text = f"waits {point.label}" if point.label else "waits for a press"
    return text if point.after is None else f"{text}, at most {point.after:g} s"


def plays_text(plays: int) -> str:
    """How often the film plays, where its end is."""
    if plays == 0:
        return "plays endlessly ▾"
    return {1: "plays once ▾", 2: "plays twice ▾"}.get(plays, f"plays {plays} times ▾")


def count(number: int, thing: str) -> str:
    """``1 frame``, ``3 frames``."""
    return f"{number} {thing}" if number == 1 else f"{number} {thing}s"


def begun(sentence: str) -> str:
    """The sentence with a capital, unless it begins with a file's name."""
    first = sentence.split(" ", 1)[0]
    return sentence[:1].upper() + sentence[1:] if first.isalpha() else sentence
