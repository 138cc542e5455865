"""The plan as an OpenTimelineIO file: a track of scenes, and tracks of what sounds on each layer.

Every loop is a clip of its own, in time of the project's samples.
"""

from collections.abc import Iterator
from pathlib import PurePosixPath
from typing import Any, NamedTuple

import msgspec

from cicada.core.clip import ClipTiming
from cicada.core.model import Project, Sound
from cicada.core.placements import Placements, heard_on
from cicada.core.plan import Voice
from cicada.core.scoped import Asked

# Loops of one sounding that are written one by one; more of them become one clip.
MOST_LOOPS = 1000
Item = dict[str, Any]


class _Stretch(NamedTuple):
    """What is heard from run sample ``start`` to ``end``, from ``first`` of its sound on."""

    start: int
    end: int
    first: int
    voice: Voice


def as_timeline(found: Asked) -> bytes:
    """The file, as a text of JSON."""
    project, planned = found.project, found.plan
    placements, rate = Placements(project), planned.rate
    scenes = [
        _clip(project.scene(visit.scene).label, 0, visit.end - max(0, visit.start), rate, None)
        for visit in planned.visits
        if visit.end > max(0, visit.start)
    ]
    tracks = [_track("Picture", "Video", scenes)]
    for layer in heard_on(project).values():
        voices = [voice for voice in planned.voices if voice.layer == layer.id]
        stretches = [each for voice in voices for each in _stretches(voice, placements)]
        for lane in _lanes(stretches):
            items = list(_items(lane, project, placements, rate))
            tracks.append(_track(layer.label, "Audio", items))
    timeline: Item = {
        "OTIO_SCHEMA": "Timeline.1",
        "metadata": {},
        "name": project.name or "Film",
        "global_start_time": None,
        "tracks": {
            "OTIO_SCHEMA": "Stack.1", "metadata": {}, "name": "tracks", "source_range": None,
            "effects": [], "markers": [], "enabled": True, "children": tracks,
        },
    }  # fmt: skip
    return msgspec.json.format(msgspec.json.encode(timeline), indent=1) + b"\n"


def _stretches(voice: Voice, placements: Placements) -> Iterator[_Stretch]:
    """A sounding loop by loop; where loops overlap, each goes on to where the next begins."""
    timing = placements.timing(voice)
    for start, end, clip_start in voice.pieces:
        shift = start - clip_start
        for begins, until, first in _loops(timing, clip_start, clip_start + end - start):
            yield _Stretch(shift + begins, shift + until, first, voice)


def _loops(timing: ClipTiming, start: int, end: int) -> Iterator[tuple[int, int, int]]:
    """What plays of a clip from clip time ``start`` to ``end``: from, to, and where in a loop."""
    start = max(start, timing.delay)
    first = max(0, (start - timing.loop_begins(0)) // max(1, timing.step))
    if (end - start) // max(1, timing.step) > MOST_LOOPS:
        yield start, end, 0
        return
    index = first
    while start < end:
        begins = timing.loop_begins(index)
        last = timing.loops and index >= timing.loops - 1
        until = end if last else min(end, begins + timing.step)
        if until > start:
            yield start, until, start - begins
        start, index = max(start, until), index + 1


def _lanes(stretches: list[_Stretch]) -> list[list[_Stretch]]:
    """Stretches on as few tracks as it takes so that none is over another."""
    lanes = list[list[_Stretch]]()
    for each in sorted(stretches, key=lambda stretch: (stretch.start, stretch.end)):
        free = next((lane for lane in lanes if lane[-1].end <= each.start), None)
        if free is None:
            lanes.append([each])
        else:
            free.append(each)
    return lanes


def _items(
    lane: list[_Stretch], project: Project, placements: Placements, rate: int
) -> Iterator[Item]:
    at = 0
    for each in lane:
        if each.start > at:
            yield _gap(each.start - at, rate)
        clip = placements.clip(each.voice)
        made = project.placeable(each.voice.plays)
        # In the sound's own time, before its speed.
        first = placements.timing(each.voice).first + round(each.first * clip.speed)
        media = _media(made, project.rate) if isinstance(made, Sound) else None
        item = _clip(made.label, first, each.end - each.start, rate, media)
        if clip.speed != 1:
            item["effects"] = [{
                "OTIO_SCHEMA": "LinearTimeWarp.1", "metadata": {}, "name": "",
                "effect_name": "LinearTimeWarp", "time_scalar": clip.speed,
            }]  # fmt: skip
        item["metadata"] = {"cicada": {
            "layer": each.voice.layer, "frame": each.voice.frame, "sync": each.voice.sync,
            "level": clip.level, "pan": clip.pan, "ended": each.voice.ended,
        }}  # fmt: skip
        yield item
        at = each.end


def _media(sound: Sound, rate: int) -> Item:
    length = (2 * sound.frames * rate + sound.rate) // (2 * sound.rate)
    return {
        "OTIO_SCHEMA": "ExternalReference.1", "metadata": {}, "name": sound.label,
        "available_range": _range(0, length, rate), "available_image_bounds": None,
        "target_url": PurePosixPath(sound.file).name or sound.id,
    }  # fmt: skip


def _clip(name: str, first: int, length: int, rate: int, media: Item | None) -> Item:
    nothing: Item = {
        "OTIO_SCHEMA": "MissingReference.1", "metadata": {}, "name": "", "available_range": None,
        "available_image_bounds": None,
    }  # fmt: skip
    return {
        "OTIO_SCHEMA": "Clip.2", "metadata": {}, "name": name,
        "source_range": _range(first, length, rate), "effects": [], "markers": [],
        "enabled": True, "media_references": {"DEFAULT_MEDIA": media or nothing},
        "active_media_reference_key": "DEFAULT_MEDIA",
    }  # fmt: skip


def _gap(length: int, rate: int) -> Item:
    return {
        "OTIO_SCHEMA": "Gap.1", "metadata": {}, "name": "",
        "source_range": _range(0, length, rate), "effects": [], "markers": [], "enabled": True,
    }  # fmt: skip


def _range(start: int, length: int, rate: int) -> Item:
    return {
        "OTIO_SCHEMA": "TimeRange.1", "start_time": _time(start, rate),
        "duration": _time(length, rate),
    }  # fmt: skip


def _time(value: int, rate: int) -> Item:
    return {"OTIO_SCHEMA": "RationalTime.1", "rate": float(rate), "value": float(value)}


def _track(name: str, kind: str, children: list[Item]) -> Item:
    return {
        "OTIO_SCHEMA": "Track.1", "metadata": {}, "name": name, "source_range": None,
        "effects": [], "markers": [], "enabled": True, "kind": kind, "children": children,
    }  # fmt: skip
