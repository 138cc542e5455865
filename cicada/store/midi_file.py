"""Patterns as Standard MIDI Files (MIDI 1.0, RP-001): written, and read within bounds."""

from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from cicada.core.patterns import (
    MOST_NOTES,
    MOST_PARTS,
    MOST_TICKS,
    TICKS,
    Note,
    Pattern,
    PatternPart,
    TempoStep,
    Times,
    VoiceName,
)
from cicada.disk.reading import read_within
from cicada.errors import BadSound
from cicada.store.midi_bytes import TEMPO_UNIT, head, microseconds, tempo, text, track

# Bytes of a file, and tracks of it, that are read at most.
LARGEST, MOST_TRACKS = 16_000_000, 4096
DRUMS_CHANNEL = 9
_REMEDY = "choose a Standard MIDI File"


# -- writing ------------------------------------------------------------------------------------


def written(pattern: Pattern) -> bytes:
    """The pattern as a file of format 1: its tempos, then a track for each part that is on."""
    tracks = [_tempo_track(pattern)]
    channels = (number for number in _channels())
    for number, part in enumerate(pattern.parts):
        if not part.off:
            drums = part.voice == "drums" and part.sound is None
            channel = DRUMS_CHANNEL if drums else next(channels)
            tracks.append(_part_track(pattern, number, channel))
    return head(len(tracks), TICKS) + b"".join(tracks)


def _channels() -> Iterator[int]:
    while True:
        yield from (number for number in range(16) if number != DRUMS_CHANNEL)


def losses(pattern: Pattern) -> list[str]:
    """What such a file cannot hold of it, each as a sentence."""
    found = []
    tempos = {pattern.bpm, *(step.bpm for step in pattern.steps)}
    inexact = [bpm for bpm in tempos if abs(TEMPO_UNIT / bpm - microseconds(bpm)) > 1e-6]
    if inexact:
        worst = max(abs(microseconds(bpm) * bpm / TEMPO_UNIT - 1) for bpm in inexact)
        late = worst * Times(pattern).seconds * 1000
        found.append(
            f"Tempos are whole microseconds a beat: by its end it is {late:.3g} ms off at most."
        )
    if pattern.swing != 0.5 and any(
        _moved(pattern, note.at) != Times(pattern).swung(note.at)
        for part in pattern.parts
        for note in part.notes
    ):
        found.append("Swing falls between ticks here and there: such notes go to the nearest tick.")
    on = [part for part in pattern.parts if not part.off]
    if any(note.pitch != round(note.pitch) for part in on for note in part.notes):
        found.append("Notes between two pitches go to the nearest.")
    if any(part.sound is not None for part in on):
        found.append("Sounds of the shelf that are played are not in it, only their notes.")
    if any(part.level != 1 or part.pan for part in on):
        found.append("Levels and places of parts are not in it.")
    if len(on) < len(pattern.parts):
        found.append("Parts that are off are left out.")
    return found


def _moved(pattern: Pattern, tick: int) -> int:
    """A tick with swing, as a tick again."""
    rounds, within = divmod(tick, pattern.round_ticks)
    return rounds * pattern.round_ticks + round(Times(pattern).swung(within))


def _tempo_track(pattern: Pattern) -> bytes:
    steps = {0: pattern.bpm, **{step.at: step.bpm for step in pattern.steps}}
    events = []
    for begin in range(0, pattern.ticks, pattern.round_ticks):
        for at, bpm in steps.items():
            if at < pattern.round_ticks and (begin == 0 or len(steps) > 1):
                events.append((begin + at, 0, tempo(bpm)))
    return track(events, pattern.ticks)


def _part_track(pattern: Pattern, number: int, channel: int) -> bytes:
    part = pattern.parts[number]
    times, round_ticks = Times(pattern), pattern.round_ticks
    events = [(0, 0, text(3, part.name))] if part.name else []

    def moved(tick: int) -> int:
        rounds, within = divmod(tick, round_ticks)
        return rounds * round_ticks + round(times.swung(within))

    for begin in range(0, pattern.ticks, part.length):
        for note in part.notes:
            at = begin + note.at
            if note.at >= part.length or at >= pattern.ticks:
                continue
            start, end = moved(at), moved(min(at + note.length, pattern.ticks))
            pitch, strength = round(note.pitch), max(1, round(note.strength * 127))
            events.append((start, 2, bytes((0x90 | channel, pitch, strength))))
            # A note ends before the same one begins again.
            events.append((max(start + 1, end), 1, bytes((0x80 | channel, pitch, 64))))
    return track(events, pattern.ticks)


# -- reading ------------------------------------------------------------------------------------


class Read(NamedTuple):
    """A pattern that was read, and what was understood otherwise than it was written."""

    pattern: Pattern
    said: tuple[str, ...]


def read_midi(path: Path) -> Read:
    """The pattern in a file; raises ``BadSound``."""
    data = read_within(path, LARGEST, BadSound)
    try:
        return understood(data)
    except BadSound as error:
        raise error.at(str(path)) from None


class _Heard(NamedTuple):
    """A note as it is read, in ticks of the file."""

    start: int
    end: int
    pitch: int
    strength: int


def understood(data: bytes) -> Read:
    """The pattern that a file's bytes hold; raises ``BadSound`` and nothing else."""
    if data[:4] != b"MThd" or len(data) < 14:
        raise BadSound("is no MIDI file", remedy=_REMEDY)
    division = int.from_bytes(data[12:14])
    per_beat, said = _per_beat(division)
    parts: dict[tuple[int, int], list[_Heard]] = defaultdict(list)
    names: dict[int, str] = {}
    programs: dict[tuple[int, int], int] = {}
    tempos: dict[int, float] = {}
    place = 8 + int.from_bytes(data[4:8])
    for number in range(MOST_TRACKS):
        if place + 8 > len(data):
            break
        size = int.from_bytes(data[place + 4 : place + 8])
        if data[place : place + 4] == b"MTrk":
            track = _Track(data[place + 8 : place + 8 + size])
            for channel, notes in track.notes().items():
                parts[number, channel] += notes
            programs.update({(number, c): p for c, p in track.programs.items()})
            names[number] = track.name
            for at, bpm in track.tempos.items():
                tempos.setdefault(at, bpm)
        place += 8 + size
    return _put_together(parts, names, programs, tempos, per_beat, said)


def _per_beat(division: int) -> tuple[float, list[str]]:
    """Ticks of the file in a beat."""
    if division & 0x8000:
        frames, parts = 256 - (division >> 8), division & 0xFF
        return max(1.0, frames * parts / 2), ["Its ticks are of time codes: read at 120 a minute."]
    if not division:
        raise BadSound("says that a beat has no ticks", remedy="export it again")
    return float(division), []


def _put_together(
    parts: dict[tuple[int, int], list[_Heard]],
    names: dict[int, str],
    programs: dict[tuple[int, int], int],
    tempos: dict[int, float],
    per_beat: float,
    said: list[str],
) -> Read:
    parts = {key: notes for key, notes in parts.items() if notes}
    if not parts:
        raise BadSound("holds no notes", remedy="choose another one")
    if len(parts) > MOST_PARTS:
        raise BadSound(
            f"has {len(parts)} parts, and {MOST_PARTS} go in a pattern", remedy="take some out"
        )
    scale = TICKS / per_beat
    last = max(heard.end for notes in parts.values() for heard in notes) * scale
    ticks = max(TICKS, -(-round(last) // TICKS) * TICKS)
    if ticks > MOST_TICKS:
        raise BadSound(
            f"is {ticks // TICKS} beats long, and {MOST_TICKS // TICKS} go in a pattern",
            remedy="cut out the part you need",
        )
    exact = all((heard.start * scale).is_integer() for notes in parts.values() for heard in notes)
    if not exact:
        said.append(f"Its ticks are {per_beat:g} a beat: each went to the nearest of {TICKS}.")
    made = tuple(
        _part(notes, names.get(key[0], ""), key[1], programs.get(key, 0), scale, ticks)
        for key, notes in sorted(parts.items())
    )
    steps = sorted((round(at * scale), bpm) for at, bpm in tempos.items())
    begins = [bpm for at, bpm in steps if at == 0]
    return Read(
        Pattern(
            bpm=begins[0] if begins else 120.0,
            steps=tuple(TempoStep(at, bpm) for at, bpm in steps if 0 < at < ticks),
            parts=made,
        ),
        tuple(said),
    )


def _part(
    notes: list[_Heard], name: str, channel: int, program: int, scale: float, ticks: int
) -> PatternPart:
    found = []
    for heard in notes:
        at = round(heard.start * scale)
        length = max(1, min(MOST_TICKS, round(heard.end * scale) - at))
        if at < ticks:
            found.append(Note(at, length, float(heard.pitch), round(heard.strength / 127, 4)))
    if len(found) > MOST_NOTES:
        raise BadSound(
            f"has a part of {len(found)} notes, and {MOST_NOTES} go in one",
            remedy="cut out the part you need",
        )
    return PatternPart(
        name=name[:200], voice=_voice(channel, program), length=ticks,
        notes=tuple(sorted(found, key=lambda note: (note.at, note.pitch))),
    )  # fmt: skip


def _voice(channel: int, program: int) -> VoiceName:
    """The voice nearest to what a file asks for, by the families of General MIDI."""
    if channel == DRUMS_CHANNEL:
        return "drums"
    families: tuple[tuple[int, VoiceName], ...] = (
        (8, "plucked"), (16, "struck"), (24, "blown"), (40, "plucked"), (52, "bowed"),
        (56, "sung"), (80, "blown"),
    )  # fmt: skip
    return next((voice for before, voice in families if program < before), "plucked")


class _Track:
    """One track, read event by event; where it is broken it ends."""

    def __init__(self, data: bytes) -> None:
        self._data, self._at, self._tick = data, 0, 0
        self.name = ""
        self.tempos: dict[int, float] = {}
        self.programs: dict[int, int] = {}
        self._held: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
        self._notes: dict[int, list[_Heard]] = defaultdict(list)

    def notes(self) -> dict[int, list[_Heard]]:
        """Its notes by channel; one that never ends lasts as long as the track."""
        status = 0
        while self._at < len(self._data):
            delta = self._variable()
            if delta is None or self._at >= len(self._data):
                break
            # Far beyond what a pattern holds it is refused; here it only must not grow on and on.
            self._tick = min(self._tick + delta, 1 << 40)
            if self._data[self._at] & 0x80:
                status = self._data[self._at]
                self._at += 1
            if not self._event(status):
                break
        for (channel, pitch), held in self._held.items():
            for start, strength in held:
                self._add(channel, _Heard(start, self._tick, pitch, strength))
        return self._notes

    def _add(self, channel: int, heard: _Heard) -> None:
        if len(self._notes[channel]) <= MOST_NOTES:
            self._notes[channel].append(heard)

    def _variable(self) -> int | None:
        number = 0
        for _ in range(4):
            if self._at >= len(self._data):
                return None
            byte = self._data[self._at]
            self._at += 1
            number = number << 7 | byte & 0x7F
            if not byte & 0x80:
                return number
        return None

    def _event(self, status: int) -> bool:
        """Read one event; whether the track goes on."""
        if status == 0xFF:
            return self._meta()
        if status in (0xF0, 0xF7):
            size = self._variable()
            self._at += size or 0
            return size is not None
        kind, channel = status >> 4, status & 0x0F
        count = {8: 2, 9: 2, 10: 2, 11: 2, 12: 1, 13: 1, 14: 2}.get(kind)
        if count is None or self._at + count > len(self._data):
            return False
        first, *others = (byte & 0x7F for byte in self._data[self._at : self._at + count])
        self._at += count
        if kind == 12:
            self.programs.setdefault(channel, first)
        elif kind == 9 and others[0]:
            self._held[channel, first].append((self._tick, others[0]))
        elif kind in (8, 9) and self._held[channel, first]:
            start, strength = self._held[channel, first].pop(0)
            self._add(channel, _Heard(start, self._tick, first, strength))
        return True

    def _meta(self) -> bool:
        if self._at >= len(self._data):
            return False
        kind = self._data[self._at]
        self._at += 1
        size = self._variable()
        if size is None:
            return False
        data = self._data[self._at : self._at + size]
        self._at += size
        if kind == 0x51 and len(data) == 3 and any(data):
            bpm = TEMPO_UNIT / int.from_bytes(data)
            self.tempos.setdefault(self._tick, min(1000.0, max(1.0, bpm)))
        elif kind == 3 and not self.name:
            text = data[:1000].decode(errors="replace")
            self.name = "".join(letter for letter in text if letter.isprintable()).strip()
        return kind != 0x2F
