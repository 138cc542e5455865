"""What is made of sounds, and what follows values, in words."""

from collections.abc import Sequence
from itertools import pairwise

from cicada.core.answers import Blend, Follows, Pool
from cicada.core.coverage import Stretch
from cicada.core.model import Placeable, Project
from cicada.window.words.numbers import read, shown
from cicada.window.words.quantities import count, parse_level


def kind_of(made: Placeable) -> str:
    """What it is called: sound, blend, pool or playlist."""
    return type(made).__name__.lower()


def made_text(made: Placeable, project: Project) -> str:
    """What something made of sounds is, in a few words."""
    number = count(len(getattr(made, "parts", ())), "part")
    if isinstance(made, Blend):
        return f"blend of {number}, by {project.value(made.value).label}"
    return f"{kind_of(made)} of {number}"


def stretch_text(stretch: Stretch) -> str:
    """The numbers of a stretch; the upper end belongs to it only where that is said."""
    up = "to" if stretch.closed else "to below"
    return f"{shown(stretch.low)} {up} {shown(stretch.high)}"


def plays_text(stretch: Stretch, names: Sequence[str], made: Placeable | None) -> str:
    """What a stretch of numbers plays."""
    parts = [names[place] for place in stretch.parts]
    if not parts:
        return "nothing"
    if isinstance(made, Blend) and len(parts) == 2:
        return f"{parts[0]} goes over into {parts[1]}"
    if isinstance(made, Pool) and len(parts) > 1:
        return f"one of {', '.join(parts)}"
    return ", ".join(parts)


def follows_text(follows: Follows, project: Project) -> str:
    """What a level follows, and how."""
    points = ", ".join(f"{shown(at)}: {round(100 * gain)} %" for at, gain in follows.points)
    return f"{project.value(follows.value).label}, {points or 'always 100 %'}"


def ways_to_follow(project: Project) -> list[tuple[str, Follows | None]]:
    """What a level may follow, in words: nothing, or a value up or down."""
    found: list[tuple[str, Follows | None]] = [("nothing", None)]
    for value in project.values:
        up = Follows(value=value.id, points=((value.low, 0.0), (value.high, 1.0)))
        down = Follows(value=value.id, points=((value.low, 1.0), (value.high, 0.0)))
        found += [
            (f"{value.label}: louder as it rises", up),
            (f"{value.label}: softer as it rises", down),
        ]
    return found


def parse_points(text: str) -> tuple[tuple[float, float], ...]:
    """Numbers with levels: ``0 0 %; 0.5 -6 dB; 1 100 %``; raises ``ValueError``."""
    points = []
    for each in text.split(";"):
        at, _, level = each.strip().partition(" ")
        if not level.strip():
            raise ValueError("write numbers with levels, like 0 0 %; 0.5 -6 dB; 1 100 %")
        points.append((read(at), parse_level(level)))
    if any(one[0] > other[0] for one, other in pairwise(points)):
        raise ValueError("the numbers have to rise")
    return tuple(points)


def deeds_text(deeds: Sequence[str]) -> str:
    """What a pad does, as a sentence without its end."""
    if not deeds:
        return "Does nothing yet"
    said = deeds[0] if len(deeds) == 1 else f"{', '.join(deeds[:-1])}, and {deeds[-1]}"
    return said[0].upper() + said[1:]
