"""How long drawing a picture takes, as it is typed and said."""

import re

from cicada.core.model import DrawTime
from cicada.window.words.numbers import NUMBER, read, shown

_TYPED = re.compile(rf"\s*({NUMBER})\s*(ms|s|/\s*s|pictures?(?:\s*/\s*s| a second)?|fps)\s*", re.I)
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


def draw_time_text(draw_time: DrawTime | dict[str, DrawTime], rate: int) -> str:
    """How long it takes, as short as can be."""
    if isinstance(draw_time, dict | tuple):
        return "unevenly"
    # A picture rate is said as one.
    for reached in (*range(1, 121), 24000 / 1001, 30000 / 1001, 60000 / 1001):
        if draw_time == int(rate / reached) / rate:
            return f"{shown(reached, 5)}/s"
    return f"{shown(draw_time * 1000, 4)} ms"
