"""The sounds of a plan as their clips shape them, each shape once: what player code plays.

A shape is a clip with what is left to the player taken off: when it starts and what it is on, its
level and pan. Loops are in it only where fades, lines or an overlap go over all of them.
"""

from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.answers import Blend
from cicada.core.model import Clip, Layer, Project, Scene
from cicada.core.naming import next_id
from cicada.core.needs import parts_of
from cicada.core.placements import Placements
from cicada.core.plan import Plan

# What shapes a clip's sound.
SHAPING = (
    "trim", "speed", "loop_overlap", "level_line", "pan_line", "fade_in", "fade_out",
)  # fmt: skip


class Use(NamedTuple):
    """Where a shape is used: a keyframe of a layer, or which deed of a pad."""

    scene: str
    layer: str
    frame: int
    fire: int | None


class Shape(NamedTuple):
    """A sound as ``clip`` shapes it, and what plays it; ``loops`` is how often that plays it.

    ``first`` is the run sample it is heard at first. ``left`` names what of the clip is left to the
    player besides: fades of what has no end of its own.
    """

    clip: Clip
    uses: tuple[tuple[Use, int], ...]
    left: tuple[str, ...]
    first: int


def shapes_used(project: Project, planned: Plan, *, share: bool = False) -> list[Shape]:
    """Every shape that is heard in a plan, in the order they are first heard.

    Where they ``share``, each sound is one shape: the whole of it, as it came.
    """
    placements = Placements(project)
    found: dict[Clip, dict[tuple[Use, int], None]] = {}
    left: dict[Clip, tuple[str, ...]] = {}
    first: dict[Clip, int] = {}
    for voice in planned.voices:
        placed = project.placeable(voice.plays)
        sounds = parts_of(placed) if isinstance(placed, Blend) else (placed.id,)
        clip = placements.clip(voice)
        # Of what a pad fires each frame is another clip.
        frame = voice.frame if voice.fire is None else 0
        use = Use(voice.scene, voice.layer, frame, voice.fire)
        for sound in sounds:
            shape, loops, missing = _whole(sound, clip) if share else _shape(sound, clip)
            found.setdefault(shape, {})[use, loops] = None
            left[shape] = missing
            first.setdefault(shape, voice.start)
    return [Shape(clip, tuple(uses), left[clip], first[clip]) for clip, uses in found.items()]


def _whole(sound: str, clip: Clip) -> tuple[Clip, int, tuple[str, ...]]:
    """All of a sound; whatever any clip makes of it is left to the player."""
    return Clip(frame=0, sound=sound), clip.loops, SHAPING


def _shape(sound: str, clip: Clip) -> tuple[Clip, int, tuple[str, ...]]:
    """A clip's shape, how often it is played, and what is left to the player."""
    bare = Clip(
        frame=0, sound=sound, trim=clip.trim, speed=clip.speed, level_line=clip.level_line,
        pan_line=clip.pan_line, line_over=clip.line_over, fade_in=clip.fade_in,
        fade_out=clip.fade_out, fade_shape=clip.fade_shape,
    )  # fmt: skip
    left = list[str]()
    if clip.sync == "locked" and clip.fade_out:
        bare = replace(bare, fade_out=0.0)
        left.append("fade_out")
    over_all = bare.fade_in > 0 or bare.fade_out > 0 or clip.loop_overlap > 0
    over_all |= bool(clip.level_line or clip.pan_line) and clip.line_over == "run"
    if clip.loops == 1 or not over_all:
        return bare, clip.loops, tuple(left)
    if clip.loops:
        return replace(bare, loops=clip.loops, loop_overlap=clip.loop_overlap), 1, tuple(left)
    left += [name for name in ("fade_in", "loop_overlap") if getattr(clip, name)]
    if clip.line_over == "run":
        left += [name for name in ("level_line", "pan_line") if getattr(clip, name)]
        bare = replace(bare, level_line=(), pan_line=())
    return replace(bare, fade_in=0.0, fade_out=0.0), 0, tuple(left)


def film_of(project: Project, clip: Clip) -> Project:
    """A film in which nothing but a clip is heard, as it is."""
    layer = Layer(id=next_id("layer", {pad.id for pad in project.pads}), keyframes=(clip,))
    scene = Scene(id="scene", length=1, layers=(layer,))
    return replace(project, level=1.0, scenes=(scene,), pads=(), runs=(), recipes=())
