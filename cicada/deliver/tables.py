"""What a plan says, as a table and as captions."""

import csv
import io
from typing import NamedTuple

from cicada.core.model import Project
from cicada.core.placements import Placements
from cicada.core.plan import Plan, Voice
from cicada.core.scoped import Asked
from cicada.deliver.player_data import seconds_text

COLUMNS = (
    "scene", "layer", "frame", "sound", "sync", "why", "ended", "start_sample", "end_sample",
    "start_seconds", "end_seconds", "start_frame", "end_frame", "level", "pan", "pass",
)  # fmt: skip


def as_csv(found: Asked) -> str:
    """A row for each sounding; frames count as people read them (RFC 4180)."""
    project, planned = found.project, found.plan
    placements = Placements(project)
    table = io.StringIO()
    rows = csv.writer(table, lineterminator="\r\n")
    rows.writerow(COLUMNS)
    for voice in planned.voices:
        clip, layer = placements.clip(voice), placements.layer(voice)
        rows.writerow((
            project.scene(voice.scene).label, layer.label, project.shown(voice.frame),
            project.placeable(voice.plays).label, voice.sync, voice.why, voice.ended, voice.start,
            voice.end, seconds_text(voice.start, planned.rate),
            seconds_text(voice.end, planned.rate), _frame(project, planned, voice.start),
            _frame(project, planned, voice.end), clip.level, clip.pan,
            planned.visits[voice.visit].number,
        ))  # fmt: skip
    return table.getvalue()


def _frame(project: Project, planned: Plan, sample: int) -> int:
    """The frame the picture is on at a run sample, as people read it."""
    return project.shown(planned.frame_at(sample)[1])


class _Cue(NamedTuple):
    """A caption, in run samples."""

    start: int
    end: int
    said: str


def as_captions(found: Asked) -> str:
    """Captions of what sounds, and of the marks of the sheet (W3C WebVTT)."""
    project, planned = found.project, found.plan
    placements = Placements(project)
    cues = [
        _Cue(voice.start, voice.end, _said(project, placements, voice)) for voice in planned.voices
    ]
    for number, visit in enumerate(planned.visits):
        for mark in project.scene(visit.scene).marks:
            during = planned.during(mark.frame, number)
            if mark.text and during is not None and during[0] >= 0:
                cues.append(_Cue(*during, _escaped(mark.text)))
    lines = ["WEBVTT", ""]
    for number, cue in enumerate(sorted(cues), start=1):
        times = f"{_time(cue.start, planned.rate)} --> {_time(cue.end, planned.rate)}"
        # A caption that is over as it begins is none.
        if _time(cue.start, planned.rate) != _time(cue.end, planned.rate):
            lines += [str(number), times, cue.said, ""]
    return "\n".join(lines)


def _said(project: Project, placements: Placements, voice: Voice) -> str:
    layer, sound = placements.layer(voice).label, project.placeable(voice.plays).label
    return f"<v {_escaped(layer)}>[{_escaped(sound)}]</v>"


def _escaped(text: str) -> str:
    plain = " ".join(text.split())
    return plain.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;") or "-"


def _time(sample: int, rate: int) -> str:
    milliseconds = (2 * sample * 1000 + rate) // (2 * rate)
    seconds, thousandth = divmod(milliseconds, 1000)
    minutes, second = divmod(seconds, 60)
    hour, minute = divmod(minutes, 60)
    return f"{hour:02}:{minute:02}:{second:02}.{thousandth:03}"
