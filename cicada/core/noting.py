"""What is done to the notes of a pattern: written, taken away, changed; made to fit frames."""

from collections.abc import Sequence

from msgspec.structs import replace

from cicada.core.patterns import TICKS, Note, Pattern, PatternPart, TempoStep, seconds_of
from cicada.errors import BadEdit


def with_part(pattern: Pattern, number: int, part: PatternPart) -> Pattern:
    """The pattern with another part in the place of one."""
    parts = list(pattern.parts)
    parts[number] = part
    return replace(pattern, parts=tuple(parts))


def note_at(part: PatternPart, tick: int, pitch: float) -> Note | None:
    """The note of a pitch that sounds at a tick; the last begun if several do."""
    found = [n for n in part.notes if n.pitch == pitch and n.at <= tick < n.at + n.length]
    return max(found, key=_at, default=None)


def written(part: PatternPart, note: Note) -> PatternPart:
    """The part with a note more; notes of its pitch that it would sound into end where it begins.

    One that begins where it does is replaced.
    """
    kept = []
    for other in part.notes:
        if other.pitch != note.pitch or other.at + other.length <= note.at:
            kept.append(other)
        elif other.at < note.at:
            kept.append(_with(other, length=note.at - other.at))
        elif other.at >= note.at + note.length:
            kept.append(other)
    return replace(part, notes=ordered([*kept, note]))


def without(part: PatternPart, note: Note) -> PatternPart:
    """The part without a note."""
    return replace(part, notes=tuple(other for other in part.notes if other != note))


def repitched(part: PatternPart, old: float, new: float) -> PatternPart:
    """The part with all notes of a pitch at another."""
    changed = [_with(n, pitch=new) if n.pitch == old else n for n in part.notes]
    return replace(part, notes=ordered(changed))


def _with(note: Note, *, length: int | None = None, pitch: float | None = None) -> Note:
    return Note(
        note.at, note.length if length is None else length,
        note.pitch if pitch is None else pitch, note.strength,
    )  # fmt: skip


def ordered(notes: Sequence[Note]) -> tuple[Note, ...]:
    """Notes in the order of their beginnings, those together from the lowest up."""
    return tuple(sorted(notes, key=_order))


def _at(note: Note) -> int:
    return note.at


def _order(note: Note) -> tuple[int, float, int]:
    return note.at, note.pitch, note.length


def fitting(pattern: Pattern, seconds: float) -> Pattern:
    """The pattern at the tempo at which all its rounds last so long; raises ``BadEdit``.

    Its changes of tempo keep their proportion.
    """
    if pattern.follows is not None:
        raise BadEdit("it follows a scene's tempo", remedy="give it its own first")
    beats_alone = replace(pattern, ending="cut")
    factor = seconds_of(beats_alone) / seconds
    bpm = pattern.bpm * factor
    if not 1 <= bpm <= 1000:
        raise BadEdit(
            f"that would be {bpm:.3g} beats a minute", remedy="change its beats or rounds first"
        )
    steps = tuple(TempoStep(step.at, step.bpm * factor) for step in pattern.steps)
    return replace(pattern, bpm=bpm, steps=steps)


def in_beats(ticks: int) -> float:
    """Ticks in beats."""
    return ticks / TICKS
