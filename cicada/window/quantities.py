"""Quantities as people type and read them: levels in % or dB, times in seconds or frames."""

import re
from math import log10

from cicada.core.model import Line, Point

_NUMBER = r"[+\-−]?\d+(?:[.,]\d+)?|[+\-−]?[.,]\d+"
_LEVEL = re.compile(rf"^\s*({_NUMBER}|[-−]?∞)\s*(%|db|x|×)?\s*$", re.IGNORECASE)
_TIME = re.compile(rf"^\s*({_NUMBER})\s*(s|ms|f)?\s*$", re.IGNORECASE)
_PAN = re.compile(
    rf"^(?:(?P<middle>middle)|(?P<amount>{_NUMBER})?\s*%?\s*(?P<side>left|right)?)$", re.IGNORECASE
)


_POINT = re.compile(rf"^((?:{_NUMBER})\s*(?:ms|s|f)?)\s+(.+?)(?:\s+(smooth|step))?$", re.IGNORECASE)


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def parse_level(text: str) -> float:
    """A level as linear amplitude: ``40 %``, ``-8 dB``, ``0.4x``; a bare number is per cent.

    Raises ``ValueError`` with a sentence that says what was not understood.
    """
    first = text.split("·", maxsplit=1)[0]
    match = _LEVEL.match(first)
    if match is None:
        raise ValueError(f"“{text.strip()}” is no level: write 40 %, -8 dB or 0.4x")
    unit = (match[2] or "%").lower()
    if "∞" in match[1]:
        value = 0.0
    elif unit == "db":
        value = 10 ** (_number(match[1]) / 20)
    else:
        value = _number(match[1]) / (100 if unit == "%" else 1)
    if not 0 <= value <= 16:
        raise ValueError("a level goes from 0 % to 1600 %, which is +24.1 dB")
    return float(f"{value:.6g}")


def decibels(level: float) -> str:
    """A linear level in dB."""
    return f"{20 * log10(level):+.1f} dB".replace("+0.0", "0.0") if level > 0 else "−∞ dB"


def level_text(level: float) -> str:
    """A level in both readings."""
    return f"{level * 100:.4g} % · {decibels(level)}"


def parse_seconds(text: str, fps: float) -> float:
    """A time in seconds: ``0.5 s``, ``250 ms``, ``12 f``; a bare number is seconds.

    Raises ``ValueError`` with a sentence that says what was not understood.
    """
    match = _TIME.match(text.split("·", maxsplit=1)[0])
    if match is None:
        raise ValueError(f"“{text.strip()}” is no time: write 0.5 s, 250 ms or 12 f")
    value, unit = _number(match[1]), (match[2] or "s").lower()
    seconds = value / 1000 if unit == "ms" else value / fps if unit == "f" else value
    if seconds < 0:
        raise ValueError("a time cannot be below 0")
    return round(seconds, 6)


def seconds_text(seconds: float, fps: float) -> str:
    """A time in both readings."""
    return f"{seconds:.6g} s · {seconds * fps:.4g} f"


def parse_pan(text: str) -> float:
    """A position from -1 to 1: ``40 left``, ``right``, ``middle``; a bare number is per cent."""
    match = _PAN.match(text.strip())
    if match is None or not match[0]:
        raise ValueError(f"“{text.strip()}” is no position: write 40 left, middle or 100 right")
    if match["middle"]:
        return 0.0
    amount = _number(match["amount"]) / 100 if match["amount"] else 1.0
    value = -amount if (match["side"] or "").lower() == "left" else amount
    if not -1 <= value <= 1:
        raise ValueError("a position goes from 100 left to 100 right")
    return round(value, 6)


def pan_text(pan: float) -> str:
    """A position in words."""
    if pan == 0:
        return "middle"
    return f"{abs(pan) * 100:.4g} {'left' if pan < 0 else 'right'}"


def parse_line(kind: str, text: str, fps: float) -> Line:
    """The points of a level or pan line: ``0 s 50 %; 2 s 100 % smooth``, in order.

    Raises ``ValueError`` with a sentence that says what was not understood.
    """
    points: list[Point] = []
    for part in filter(None, (part.strip() for part in text.split(";"))):
        match = _POINT.match(part)
        if match is None:
            raise ValueError(f"“{part}” is no point: write a time and a value, as in 2 s 50 %")
        seconds = parse_seconds(match[1], fps)
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


def line_text(kind: str, line: Line) -> str:
    """A line as it is typed."""
    parts = []
    for point in line:
        value = float(point[1])
        shown = f"{value * 100:.6g} %" if kind == "level" else pan_text(value)
        shape = f" {point[2]}" if len(point) > 2 else ""
        parts.append(f"{float(point[0]):g} s {shown}{shape}")
    return "; ".join(parts)


def parse_factor(text: str) -> float:
    """A speed: ``2x``, ``50 %``; a bare number is a factor."""
    match = re.match(rf"^\s*({_NUMBER})\s*(x|×|%)?\s*$", text, re.IGNORECASE)
    if match is None:
        raise ValueError(f"“{text.strip()}” is no speed: write 0.5x or 50 %")
    value = _number(match[1]) / (100 if match[2] == "%" else 1)
    if not 0.1 <= value <= 10:
        raise ValueError("a speed goes from 0.1x to 10x")
    return round(value, 6)


def parse_whole(text: str) -> float:
    """A whole number. Raises ``ValueError`` with a sentence."""
    if not re.match(r"^\s*[-−]?\d{1,9}\s*$", text):
        raise ValueError(f"“{text.strip()}” is no whole number")
    return _number(text)


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
