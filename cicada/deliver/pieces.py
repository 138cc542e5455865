"""The pieces of a mix: its stems, and its sounds as their clips shape them."""

from collections.abc import Callable
from typing import NamedTuple

from cicada.core.model import Project, Run, Sound
from cicada.core.naming import file_names
from cicada.core.placements import heard_on
from cicada.core.plan import Voice
from cicada.core.planner import plan
from cicada.core.scoped import Asked
from cicada.core.shapes_used import Shape, film_of, shapes_used


class Stem(NamedTuple):
    """A part of the mix: what its file is called, and which soundings are in it."""

    name: str
    has: Callable[[Voice], bool]


def stems(found: Asked, by: str, silent: frozenset[str]) -> list[Stem]:
    """The stems of what a recipe asks for: those in which anything sounds, each sounding in one.

    ``by`` is "layer" (pads are layers), "folder" of the shelf or "sound".
    """
    project = found.project
    labels, groups = _groups(project, by)
    heard = {_group(v, by, groups) for v in found.plan.voices if v.layer not in silent}
    wanted = [group for group in labels if group in heard]
    names = file_names(labels[group] for group in wanted)
    return [
        Stem(name, lambda voice, group=group: _group(voice, by, groups) == group)  # type: ignore[misc]
        for name, group in zip(names, wanted, strict=True)
    ]


def _groups(project: Project, by: str) -> tuple[dict[str, str], dict[str, str]]:
    """The groups with what they are called, and which each thing on the shelf is in."""
    if by == "layer":
        # A layer of one name in two scenes is one voice of the film.
        layers = heard_on(project).values()
        return {x.label: x.label for x in layers}, {x.id: x.label for x in layers}
    shelved = list(project.all_placeables())
    if by == "sound":
        return {each.id: each.label for each in shelved}, {each.id: each.id for each in shelved}
    folders = {each.folder: each.folder.replace("/", " ") or "No folder" for each in shelved}
    return folders, {each.id: each.folder for each in shelved}


def _group(voice: Voice, by: str, groups: dict[str, str]) -> str:
    return groups[voice.layer if by == "layer" else voice.sound]


class Trimmed(NamedTuple):
    """A sound as it is shaped: what its file is called, and the film that is nothing but it.

    ``first`` is the run sample at which it is heard first.
    """

    name: str
    shape: Shape
    asked: Asked
    mono: bool
    first: int


def trimmed_sounds(found: Asked, *, share: bool = False) -> list[Trimmed]:
    """The sounds of a plan as they are shaped, each with a name for player code."""
    shapes = shapes_used(found.project, found.plan, share=share)
    names = file_names(_called(found.project, shape) for shape in shapes)
    made = list[Trimmed]()
    for name, shape in zip(names, shapes, strict=True):
        film = film_of(found.project, shape.clip)
        planned = plan(film, Run())
        if not planned.voices:
            # A part of a blend may have nothing in it.
            continue
        length = planned.voices[0].end
        asked = Asked(film, Run(), planned, 0, length, folded=False, loops=False)
        mono = _is_mono(found.project, shape)
        made.append(Trimmed(name, shape, asked, mono, shape.first))
    return made


def _called(project: Project, shape: Shape) -> str:
    placed = project.placeable(shape.clip.sound)
    return placed.code_name or placed.label


def _is_mono(project: Project, shape: Shape) -> bool:
    """Whether both sides of it are the same."""
    placed = project.placeable(shape.clip.sound)
    return isinstance(placed, Sound) and placed.channels == 1 and not shape.clip.pan_line
