"""What a clip would do if it were set otherwise: a plan for each choice, read for that clip."""

from typing import Literal, NamedTuple

from msgspec.structs import replace

from cicada.core.drift import Drift, drifts
from cicada.core.editing import Cell, with_keyframe, with_layer
from cicada.core.model import Clip, Layer, Project, Run, Scene, keyframe_at
from cicada.core.placed import Tables
from cicada.core.plan import Plan, Voice
from cicada.core.planner import plan

Setting = Literal["sync", "if_sounding"]
VALUES: dict[Setting, tuple[str, ...]] = {
    "sync": ("locked", "free", "hold"),
    "if_sounding": ("on_top", "skip", "restart", "queue"),
}


class Way(NamedTuple):
    """The film with one value of a clip's setting, and the plan of it."""

    value: str
    project: Project
    plan: Plan


class Outcome(NamedTuple):
    """What became of a clip in one visit of its scene.

    ``stands`` is for how many samples the picture stands still for it, ``dropped`` how many
    pictures a slow machine leaves out in that visit, ``others`` how many soundings of the same
    kind it starts on top of, and ``cuts`` those it ends.
    """

    voice: Voice | None
    stands: int = 0
    dropped: int = 0
    drift: Drift | None = None
    others: int = 0
    cuts: tuple[Voice, ...] = ()


def ways(project: Project, run: Run, cell: Cell, setting: Setting) -> list[Way]:
    """A plan of ``run`` for each value of a setting of the clip on a cell; no guard matters."""
    tables = Tables()
    found = []
    for value in VALUES[setting]:

        def change(_: Scene, layer: Layer, value: str = value) -> Layer:
            clip = keyframe_at(layer, cell.frame)
            assert isinstance(clip, Clip)
            return with_keyframe(layer, replace(clip, **{setting: value}))

        made = with_layer(project, cell.layer, change, guarded_too=True)
        found.append(Way(value, made, plan(made, run, tables)))
    return found


def outcome(way: Way, cell: Cell, number: int) -> Outcome:
    """What becomes of the clip on a cell in the pass of that number."""
    scene, layer = way.project.layer(cell.layer)
    planned = way.plan
    visit = planned.visit_of(scene.id, number)
    voices = [v for v in planned.voices if v.cell == cell and v.visit == visit]
    if visit is None:
        return Outcome(None)
    if not voices:
        return Outcome(None, dropped=_dropped(planned, visit))
    voice = voices[0]
    clip = keyframe_at(layer, cell.frame)
    assert isinstance(clip, Clip)
    held = [
        event
        for event in planned.events
        if event.kind == "held" and event.visit == visit and event.frame == cell.frame
    ]
    stands = (held[0].until or voice.end) - held[0].at if held and voice.sync == "hold" else 0
    alike = [
        other
        for other in planned.voices
        if other is not voice
        and (other.sound == voice.sound if clip.busy == "sound" else other.layer == voice.layer)
    ]
    return Outcome(
        voice,
        stands,
        _dropped(planned, visit),
        next(iter(drifts(planned, [voice])), None),
        sum(other.start <= voice.start < other.end for other in alike),
        tuple(
            other
            for other in alike
            if other.ended == "restarted"
            and other.ended_by == voice.anchor
            and other.told_to_end == voice.start
        ),
    )


def _dropped(planned: Plan, visit: int) -> int:
    """How many pictures are dropped in a visit."""
    there = [each for each in planned.stretches if each.visit == visit and not each.shown]
    return sum(stretch.length for stretch in there)
