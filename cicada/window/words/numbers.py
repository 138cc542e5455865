"""Numbers as people type and read them, with the decimal sign of their language."""

import re
from datetime import datetime

NUMBER = r"[+\-−]?(?:\d[\d.,' \u2009\u202f\u00a0]*|[.,]\d+)"
_GROUPS = " '\u2009\u202f\u00a0"


class _Habit:
    """The decimal sign: a point, or a comma."""

    decimal = "."


def use_decimal(sign: str) -> None:
    """Write numbers with this decimal sign; the other one then sets thousands apart."""
    _Habit.decimal = "," if sign == "," else "."


def read(text: str) -> float:
    """The number in ``text``; raises ``ValueError`` if there is none.

    Where only one kind of sign stands in it, once, it is the decimal one, unless it is the one
    that sets thousands apart and just three digits follow.
    """
    plain = text.strip().replace("−", "-")
    for sign in _GROUPS:
        plain = plain.replace(sign, "")
    other = "," if _Habit.decimal == "." else "."
    signs = [sign for sign in plain if sign in ".,"]
    if len(set(signs)) == 2:
        decimal = signs[-1]
    elif len(signs) > 1 or re.fullmatch(rf"[+-]?[1-9]\d{{0,2}}\{other}\d{{3}}", plain):
        decimal = ""
    else:
        decimal = signs[0] if signs else ""
    for sign in ".,":
        if sign != decimal:
            plain = plain.replace(sign, "")
    return float(plain.replace(",", "."))


def shown(value: float, digits: int = 6) -> str:
    """A number with as many digits that count, without zeros at the end."""
    text = f"{value:.{digits}g}"
    if "e" in text:
        text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return text.replace(".", _Habit.decimal).replace("-", "−")


def fixed(value: float, places: int) -> str:
    """A number with that many places after the decimal sign."""
    return f"{value:.{places}f}".replace(".", _Habit.decimal).replace("-", "−")


def when_text(moment: datetime) -> str:
    """A moment as one remembers it."""
    day = {0: "today", 1: "yesterday"}.get((datetime.now().date() - moment.date()).days)
    return f"{day or f'{moment:%Y-%m-%d}'} at {moment:%H:%M}"
