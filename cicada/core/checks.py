"""What looks wrong in a project, found in its plan."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from typing import Literal

from msgspec import Struct

from cicada.core.answers import Pad
from cicada.core.coverage import gaps
from cicada.core.lengths import Lengths
from cicada.core.model import Clip, Project, Run
from cicada.core.plan import Anchor, Event, Plan, Voice
from cicada.core.planner import plan
from cicada.core.reasons import Silence, why_silent
from cicada.errors import plain

# Enough passes to see copies of a clip pile up; more would only say the same again.
PASSES = 3


class Finding(Struct, frozen=True, kw_only=True):
    """One thing that looks wrong, and where. ``frame`` counts from 0."""

    kind: str
    severity: Literal["error", "warning"]
    sentence: str
    scene: str = ""
    layer: str = ""
    frame: int | None = None
    sound: str = ""


def check(
    project: Project,
    missing: Collection[str] = (),
    planned: Plan | None = None,
    unheard: Mapping[str, str] | None = None,
) -> list[Finding]:
    """Everything found in the film as its audience will get it.

    ``missing`` are the ids of the sounds whose files are not there, ``unheard`` says of others
    why they cannot be heard; ``planned`` is the plan of one pass of the film, if it is at hand.
    """
    passes = PASSES if project.plays == 0 else min(project.plays, PASSES)
    if planned is None or passes > 1:
        planned = plan(project, Run(passes=passes))
    return [
        *_missing(project, missing, unheard or {}),
        *_holds(project, planned.events),
        *_silent_clips(project, planned),
        *_answers(project),
        *_piles(project, planned.voices, passes),
    ]


def _missing(
    project: Project, missing: Collection[str], unheard: Mapping[str, str]
) -> Iterable[Finding]:
    for sound in project.sounds:
        if sound.id in missing:
            said = f"the sound {sound.label!r} is missing: {sound.file or 'it has no file'}"
            yield Finding(
                kind="missing-sound", severity="error", sentence=plain(said), sound=sound.id
            )
        elif sound.id in unheard:
            said = f"the sound {sound.label!r} cannot be heard: {unheard[sound.id]}"
            yield Finding(
                kind="unheard-sound", severity="error", sentence=plain(said), sound=sound.id
            )


def _answers(project: Project) -> Iterable[Finding]:
    """Pools with gaps, blends of unequal parts, and pads that cannot be told apart."""
    lengths = Lengths(project)
    for pool in project.pools:
        for value, gap in gaps(project, pool):
            name = project.value(value).label
            said = (
                f"{pool.label}: where {name} is from {gap.low:g} to {gap.high:g} nothing of it is "
                "open"
            )
            yield Finding(kind="pool-gap", severity="warning", sentence=plain(said), sound=pool.id)
    for blend in project.blends:
        seconds = [lengths[part.sound] / project.rate for part in blend.parts]
        if min(seconds) < max(seconds):
            said = (
                f"{blend.label}: its parts are {min(seconds):.3f} to {max(seconds):.3f} s long, "
                "and all are cut to the shortest"
            )
            yield Finding(
                kind="unequal-parts", severity="warning", sentence=plain(said), sound=blend.id
            )
    yield from _same_pads(project)


def _same_pads(project: Project) -> Iterable[Finding]:
    """Pads with the same key or message: only the first is meant."""
    for name, what in (("key", "the key"), ("message", "the message")):
        seen: dict[str, Pad] = {}
        for pad in project.pads:
            made_by = getattr(pad, name)
            if pad.off or made_by is None:
                continue
            if made_by in seen:
                said = (
                    f"{pad.label} has {what} {made_by} of {seen[made_by].label}, which is pressed "
                    "instead"
                )
                yield Finding(kind="same-pad", severity="warning", sentence=plain(said))
            seen.setdefault(made_by, pad)


def _names(project: Project, place: Anchor) -> tuple[str, str]:
    """What is placed there, and where that is, in words."""
    if any(pad.id == place.layer for pad in project.pads):
        frame = project.shown(place.frame)
        scene = project.scene(place.scene)
        return "what it fires", f"the pad {project.pad(place.layer).label}, {scene.label}, {frame}"
    scene, layer = project.layer(place.layer)
    clip = next(k for k in layer.keyframes if k.frame == place.frame)
    sound = project.placeable(clip.sound) if isinstance(clip, Clip) else None
    name = sound.label if sound else "a keyframe"
    frame = project.shown(place.frame)
    return name, f"{scene.label}, {layer.label}, frame {frame}"


def _finding(
    project: Project, place: Anchor, kind: str, severity: Literal["error", "warning"], text: str
) -> Finding:
    name, where = _names(project, place)
    sentence = f"{where}: {text.format(name=name)}"
    if any(pad.id == place.layer for pad in project.pads):
        # There is no keyframe to go to.
        return Finding(kind=kind, severity=severity, sentence=sentence)
    return Finding(
        kind=kind,
        severity=severity,
        sentence=sentence,
        scene=place.scene,
        layer=place.layer,
        frame=place.frame,
    )


def _holds(project: Project, events: Iterable[Event]) -> Iterable[Finding]:
    texts = {
        "endless-hold": "{name} is to hold the picture but never ends, so the picture goes on",
        "blocked-hold": "{name} is to hold the picture but its turn never comes",
    }
    seen = set()
    for event in events:
        place = Anchor(event.scene, event.layer, event.frame)
        if event.kind in texts and (event.kind, place) not in seen:
            seen.add((event.kind, place))
            yield _finding(project, place, event.kind, "error", texts[event.kind])


# What is switched off is meant to be silent; anything else is not.
_NEVER: dict[Silence, str] = {
    "past the end": "it stands past the end of its scene",
    "nothing to play": "its trim, loops and offset leave nothing to play",
    "left out": "whenever its turn comes it is left out",
    "still queued": "whenever its turn comes it is left out",
    "called off": "what it waits for never ends",
    "nothing open": "whenever its turn comes nothing of it is open",
    "waits for good": "what it waits for never ends",
    "not here": "what it waits for never ends",
}


def _silent_clips(project: Project, planned: Plan) -> Iterable[Finding]:
    started = {voice.anchor for voice in planned.voices}
    events: dict[Anchor, list[Event]] = defaultdict(list)
    for event in planned.events:
        events[Anchor(event.scene, event.layer, event.frame)].append(event)
    for scene, layer in project.all_layers():
        for keyframe in sorted(layer.keyframes, key=lambda keyframe: keyframe.frame):
            place = Anchor(scene.id, layer.id, keyframe.frame)
            if not isinstance(keyframe, Clip) or place in started:
                continue
            why = why_silent(project, scene, layer, keyframe, events[place])
            if why in _NEVER:
                text = f"{{name}} never starts: {_NEVER[why]}"
                yield _finding(project, place, "never-starts", "warning", text)


def _piles(project: Project, voices: Iterable[Voice], passes: int) -> Iterable[Finding]:
    if passes < 2:
        return
    by_place: dict[Anchor, list[Voice]] = defaultdict(list)
    for voice in voices:
        by_place[voice.anchor].append(voice)
    for place, copies in by_place.items():
        ends = [voice.end for voice in copies]
        starts = [voice.start for voice in copies]
        most = max(
            sum(start <= at < end for start, end in zip(starts, ends, strict=True)) for at in starts
        )
        if most > 1:
            text = f"{{name}} piles up: {most} copies sound at once by pass {passes}"
            yield _finding(project, place, "piles-up", "warning", text)


def unmeasured(seconds: float) -> Finding:
    """The finding for a mix that is too long to be looked through."""
    return Finding(
        kind="unmeasured",
        severity="warning",
        sentence=f"the mix is {seconds / 3600:.0f} hours long, so how loud it gets is not known",
    )


def overs(count: int, first: int, peak_db: float, rate: int) -> Finding:
    """The finding for a mix of which ``count`` samples pass full scale, from ``first`` on."""
    return Finding(
        kind="overs",
        severity="warning",
        sentence=f"the mix passes full scale in {count} samples, the first at "
        f"{first / rate:.3f} s, by up to {peak_db:.1f} dB: lower the project's level",
    )
