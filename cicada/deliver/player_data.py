"""The film as player code reads it: what every keyframe does, and the plan it comes to.

Numbers that choose when something happens, or which, are texts, so that they are exact in any
language; how loud is a number. Files are named, never placed.
"""

from pathlib import PurePosixPath
from typing import Any

import msgspec

from cicada.core.answers import Fire, Pool
from cicada.core.clip import clip_timing
from cicada.core.lengths import Lengths
from cicada.core.model import Clip, Project, Run, clip_of
from cicada.core.needs import parts_of
from cicada.core.plan import Plan, Voice, plan_to_builtins, voice_to_builtins
from cicada.core.scoped import Asked

FORMAT, VERSION = "cicada-player", 1
# The fields whose numbers choose when or which.
EXACT = frozenset((
    "gap", "hand_over", "release", "delay", "trim", "offset", "loop_overlap", "speed", "after",
    "bpm", "fade", "over", "weight", "while", "from", "to", "start", "tail", "value_lines",
    "enters", "limit", "draw_time",
))  # fmt: skip
# A whole number of any length.
SEED = "seed"
# What names files of this machine, or is not needed to play.
LEFT_OUT = frozenset(("origin", "takes", "recipes", "styles", "making", "kept", "pcm_hash"))
DECIMAL = r"^-?(inf|nan|[0-9]+(\.[0-9]+)?(e[+-]?[0-9]+)?)$"


class Moment(msgspec.Struct, frozen=True):
    """When: run samples, the same in seconds as a text, and the frame the picture is on then."""

    sample: int
    seconds: str
    scene: str
    frame: int


class Timing(msgspec.Struct, frozen=True):
    """A clip's lengths in samples; ``total`` None: endless (see ``core.clip.ClipTiming``)."""

    first: int
    last: int
    loop: int
    step: int
    delay: int
    offset: int
    loops: int
    total: int | None


class Placed(msgspec.Struct, frozen=True):
    """What a keyframe, or a deed of a pad (``fire``), places: by what may be drawn, its lengths."""

    layer: str
    frame: int
    fire: int | None
    timings: dict[str, Timing]


class PlannedVoice(msgspec.Struct, frozen=True):
    """A sounding, as ``cicada plan`` has it, with its moments and which of its plan's visits."""

    voice: dict[str, Any]
    plays: str
    visit: int
    begins: Moment
    ends: Moment
    length: int | None
    fade_length: int | None


class PlayerData(msgspec.Struct, frozen=True):
    """All of it; ``film`` is the project and ``run`` its conditions, with nothing left out."""

    format: str
    version: int
    length: int
    loops: bool
    film: dict[str, Any]
    run: dict[str, Any]
    placed: list[Placed]
    voices: list[PlannedVoice]
    plan: dict[str, Any]


def player_data(found: Asked) -> PlayerData:
    """What player code needs of what a recipe asks for."""
    project, planned = found.project, found.plan
    return PlayerData(
        FORMAT, VERSION, found.length, found.loops, exact(project), exact(found.run),
        placed_in(project), [_voice(planned, voice) for voice in planned.voices],
        plan_to_builtins(planned),
    )  # fmt: skip


def as_json(found: Asked) -> bytes:
    """That as a text of JSON."""
    return msgspec.json.format(msgspec.json.encode(player_data(found)), indent=1) + b"\n"


def exact(part: Project | Run) -> dict[str, Any]:
    """A part of the model with every field, exact numbers as texts and files by their names."""
    shown: dict[str, Any] = _shown(part, exact=False)
    return shown


def _shown(value: Any, *, exact: bool) -> Any:  # noqa: ANN401 - any part of the model
    if isinstance(value, msgspec.Struct):
        return dict(_fields(value))
    if isinstance(value, dict):
        return {key: _shown(each, exact=exact) for key, each in value.items()}
    if isinstance(value, tuple | list):
        return [_shown(each, exact=exact) for each in value]
    if isinstance(value, float) and exact:
        return repr(value)
    return value


def _fields(struct: msgspec.Struct) -> Any:  # noqa: ANN401 - pairs of any part
    config = struct.__struct_config__
    if config.tag_field is not None:
        yield config.tag_field, config.tag
    for field in msgspec.structs.fields(struct):
        name = field.encode_name
        if name in LEFT_OUT:
            continue
        value = getattr(struct, field.name)
        if name in ("file", "folder") and hasattr(struct, "place"):
            value = PurePosixPath(value).name
        elif name == "file":
            value = PurePosixPath(value.replace("\\", "/")).name
        elif name == SEED and value is not None:
            value = str(value)
        yield name, _shown(value, exact=name in EXACT)


def placed_in(project: Project) -> list[Placed]:
    """The lengths of every clip on a layer, and of all that pads fire."""
    lengths = Lengths(project)
    found = list[Placed]()
    for _, layer in project.all_layers():
        for keyframe in layer.keyframes:
            if isinstance(keyframe, Clip):
                timings = _timings(project, keyframe, lengths)
                found.append(Placed(layer.id, keyframe.frame, None, timings))
    for pad in project.pads:
        for number, deed in enumerate(pad.does):
            if isinstance(deed, Fire):
                timings = _timings(project, clip_of(deed, 0), lengths)
                found.append(Placed(pad.id, 0, number, timings))
    return found


def _timings(project: Project, clip: Clip, lengths: Lengths) -> dict[str, Timing]:
    placed = project.placeable(clip.sound)
    drawn = parts_of(placed) if isinstance(placed, Pool) else (placed.id,)
    return {each: Timing(*clip_timing(clip, lengths[each], project.rate)) for each in drawn}


def _voice(planned: Plan, voice: Voice) -> PlannedVoice:
    return PlannedVoice(
        voice_to_builtins(voice), voice.plays, voice.visit, moment(planned, voice.start),
        moment(planned, voice.end), voice.length, voice.fade_length,
    )  # fmt: skip


def moment(planned: Plan, sample: int) -> Moment:
    """A moment of a run."""
    visit, frame, _ = planned.frame_at(sample)
    return Moment(sample, seconds_text(sample, planned.rate), visit.scene, frame)


def seconds_text(sample: int, rate: int) -> str:
    """Seconds with as many places as tell samples apart."""
    return f"{sample / rate:.7f}".rstrip("0").rstrip(".")
