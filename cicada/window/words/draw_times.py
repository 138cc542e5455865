"""How long drawing a picture takes, as it is typed and said."""

import re
from typing import NamedTuple

from cicada.core.model import DrawTime
from cicada.window.words.numbers import NUMBER, read, shown

_TYPED = re.compile(rf"\s*({NUMBER})\s*(ms|s|/\s*s|pictures?(?:\s*/\s*s| a second)?|fps)\s*", re.I)
_ONE_IN = re.compile(rf"(?:one in |1 in |1/)?\s*({NUMBER})", re.I)
_SEED = re.compile(r"(?:seed )?\s*(\d{1,9})", re.I)
# Seconds that drawing one picture may take.
MOST = 60.0


def draw_time_of(text: str, rate: int) -> float:
    """The seconds in "120 ms" or "0.12 s", or those of the picture rate in "8/s"; ``ValueError``.

    A picture rate takes whole samples of ``rate``, rounded down, so that the film's own rate drops
    nothing.
    """
    typed = _TYPED.fullmatch(text)
    if typed is None:
        raise ValueError("write it as 120 ms, or as the pictures a second that are reached: 8/s")
    number, unit = read(typed[1]), typed[2].lower()
    if unit == "ms":
        number /= 1000
    elif unit != "s":
        if not 1 / MOST <= number <= rate:
            raise ValueError("from one picture a minute on")
        return int(rate / number) / rate
    if not 0 <= number <= MOST:
        raise ValueError(f"from 0 to {shown(MOST)} s")
    return round(number, 9)


class Spikes(NamedTuple):
    """Seconds of the usual and of the slow pictures, one in how many is slow, and a seed."""

    base: float
    spike: float
    every: float
    seed: int


def spikes_of(text: str, rate: int) -> Spikes:
    """What "30 ms, 300 ms, one in 24, seed 1" says; raises ``ValueError`` with a sentence."""
    parts = [part.strip() for part in re.split(r"[,;]\s+|;", text)]
    every = _ONE_IN.fullmatch(parts[2]) if len(parts) > 2 else None
    seed = _SEED.fullmatch(parts[3]) if len(parts) > 3 else None
    if every is None or len(parts) > 4 or (len(parts) == 4 and seed is None):
        raise ValueError("write it as 30 ms, 300 ms, one in 24, seed 1")
    often = read(every[1])
    if not 1 <= often <= 1e6:
        raise ValueError("one in 1 to 1000000")
    base, spike = (draw_time_of(part, rate) for part in parts[:2])
    return Spikes(base, spike, often, 1 if seed is None else int(seed[1]))


def draw_time_text(draw_time: DrawTime | dict[str, DrawTime], rate: int) -> str:
    """How long it takes, as short as can be."""
    if isinstance(draw_time, dict | tuple):
        return "unevenly"
    # A picture rate is said as one.
    for reached in (*range(1, 121), 24000 / 1001, 30000 / 1001, 60000 / 1001):
        if draw_time == int(rate / reached) / rate:
            return f"{shown(reached, 5)}/s"
    return f"{shown(draw_time * 1000, 4)} ms"
