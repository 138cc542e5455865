"""The plan as a Standard MIDI File: tempo, and a marker where each sound starts."""

from bisect import bisect_right
from fractions import Fraction
from typing import NamedTuple

from cicada.core.beats import first_beat
from cicada.core.model import Project
from cicada.core.placements import heard_on
from cicada.core.plan import Plan
from cicada.core.scoped import Asked
from cicada.store.midi_bytes import TEMPO_UNIT, head, microseconds, tempo, text, track

TICKS = 960
# Beats a minute where no tempo is typed.
USUAL = 120.0
NAME, MARKER = 3, 6


class Markers(NamedTuple):
    """The file, and by how many seconds its markers are off at most: ticks are whole."""

    data: bytes
    error: float


class _Change(NamedTuple):
    """From a tick, and the moment it stands at, beats last so many microseconds."""

    tick: int
    moment: Fraction
    beat: int


def as_midi(found: Asked) -> Markers:
    """The file of what a recipe asks for."""
    project, planned = found.project, found.plan
    changes, events = _tempos(project, planned)
    ends = _tick(changes, Fraction(planned.length, planned.rate))[0]
    worst = Fraction(0)
    marks = list[tuple[int, int, bytes]]()

    def put(on: list[tuple[int, int, bytes]], sample: int, said: str) -> None:
        nonlocal worst
        tick, error = _tick(changes, Fraction(sample, planned.rate))
        worst = max(worst, error)
        on.append((tick, 1, text(MARKER, said)))

    for number, visit in enumerate(planned.visits):
        scene = project.scene(visit.scene)
        if visit.end > 0:
            put(marks, max(0, visit.start), scene.label)
        for mark in scene.marks:
            at = planned.entered(mark.frame, number)
            if at is not None and at >= 0:
                put(marks, at, mark.text)
    tracks = [track([*events, *marks], ends)]
    for layer in heard_on(project).values():
        starts = [(0, 0, text(NAME, layer.label))]
        for voice in planned.voices:
            if voice.layer == layer.id:
                put(starts, voice.start, project.placeable(voice.plays).label)
        if len(starts) > 1:
            tracks.append(track(starts, ends))
    data = head(len(tracks), TICKS) + b"".join(tracks)
    return Markers(data, float(worst))


def _tempos(project: Project, planned: Plan) -> tuple[list[_Change], list[tuple[int, int, bytes]]]:
    """The changes of tempo as the run comes to them, each on the nearest tick."""
    wanted, base = {0: USUAL}, planned.timebase
    for number, visit in enumerate(planned.visits):
        for change in sorted(project.scene(visit.scene).tempo, key=lambda each: each.frame):
            entered = planned.entered(change.frame, number)
            begins = first_beat(change, base) - base.start(change.frame)
            if entered is not None and entered + begins >= 0:
                wanted[entered + begins] = change.bpm
    changes = list[_Change]()
    for sample, bpm in sorted(wanted.items()):
        moment = Fraction(sample, planned.rate)
        tick = _tick(changes, moment)[0] if changes else 0
        stands = _moment(changes, tick) if changes else Fraction(0)
        if changes and changes[-1].tick == tick:
            # Of two on one tick the later holds.
            changes.pop()
        changes.append(_Change(tick, stands, microseconds(bpm)))
    return changes, [(each.tick, 0, tempo(TEMPO_UNIT / each.beat)) for each in changes]


def _tick(changes: list[_Change], moment: Fraction) -> tuple[int, Fraction]:
    """The tick nearest to a moment, and by how many seconds it is off."""
    before = changes[max(0, bisect_right(changes, moment, key=lambda each: each.moment) - 1)]
    tick = before.tick + round((moment - before.moment) * 1_000_000 * TICKS / before.beat)
    return tick, abs(_moment(changes, tick) - moment)


def _moment(changes: list[_Change], tick: int) -> Fraction:
    """When a tick is, in seconds."""
    before = changes[max(0, bisect_right(changes, tick, key=lambda each: each.tick) - 1)]
    return before.moment + Fraction((tick - before.tick) * before.beat, TICKS * 1_000_000)
