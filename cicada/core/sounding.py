"""The planner's working records: voices still open, clips that wait, and the state of a layer."""

from cicada.core.placed import PlacedClip, RowKey
from cicada.core.plan import Anchor, Ended, Piece, Why


class OpenVoice:
    """A free or hold voice that has started; ``end`` is None while nothing ends it.

    ``number`` counts what pads fire in a run, in the order it began.
    """

    __slots__ = (
        "end",
        "ended",
        "ended_by",
        "fades",
        "number",
        "placed",
        "released",
        "rise",
        "start",
        "visit",
        "why",
    )

    def __init__(self, placed: PlacedClip, start: int, why: Why, visit: int) -> None:
        self.placed = placed
        self.number = 0
        self.start = start
        self.end = None if placed.total is None else start + placed.total
        self.ended: Ended = "finished"
        self.ended_by: Anchor | None = None
        self.fades: list[tuple[int, int]] = []
        self.released = False
        self.why: Why = why
        self.visit = visit
        self.rise: tuple[int, int] | None = None

    def copy(self) -> "OpenVoice":
        """Another one that has come as far."""
        made = OpenVoice(self.placed, self.start, self.why, self.visit)
        made.number = self.number
        made.end, made.ended, made.ended_by = self.end, self.ended, self.ended_by
        made.fades, made.released, made.rise = list(self.fades), self.released, self.rise
        return made

    def values(self) -> tuple[object, ...]:
        """What tells it from another."""
        return (
            self.placed.anchor,
            self.placed.picked or "",
            self.start,
            self.end or -1,
            self.released,
        )

    def over(self, moment: int) -> bool:
        """Whether it has ended by ``moment``."""
        return self.end is not None and self.end <= moment

    def cut(self, moment: int, ended: Ended, by: Anchor | None = None) -> bool:
        """End it at ``moment`` if it would go on longer; whether that changed anything."""
        if self.end is not None and self.end <= moment:
            return False
        self.end, self.ended, self.ended_by = moment, ended, by
        return True

    def release(self, moment: int, samples: int, ended: Ended, by: Anchor | None) -> bool:
        """Fade it out over ``samples``; whether that brought its end forward."""
        self.released = True
        if not self.cut(moment + samples, ended, by):
            return False
        if samples:
            self.fades.append((moment, moment + samples))
        return True


class OpenLocked:
    """A locked voice. It moves only with the picture, so its end in run time is not known ahead.

    ``moving_from`` is the run sample its open piece began at, None while it stands still;
    ``position`` the clip time there.
    """

    __slots__ = (
        "ended",
        "ended_by",
        "fades",
        "hush_by",
        "hush_end",
        "joined",
        "moving_from",
        "pieces",
        "placed",
        "position",
        "released",
        "visit",
    )

    number = 0

    def __init__(self, placed: PlacedClip, position: int, visit: int, *, joined: bool) -> None:
        self.placed = placed
        self.position = position
        self.visit = visit
        self.joined = joined
        self.moving_from: int | None = None
        self.pieces: list[Piece] = []
        self.fades: list[tuple[int, int]] = []
        self.released = False
        self.hush_end: int | None = None
        self.hush_by: Anchor | None = None
        self.ended: Ended = "finished"
        self.ended_by: Anchor | None = None

    def copy(self) -> "OpenLocked":
        """Another one that has come as far."""
        made = OpenLocked(self.placed, self.position, self.visit, joined=self.joined)
        made.moving_from, made.pieces = self.moving_from, list(self.pieces)
        made.fades, made.released = list(self.fades), self.released
        made.hush_end, made.hush_by = self.hush_end, self.hush_by
        made.ended, made.ended_by = self.ended, self.ended_by
        return made

    def values(self) -> tuple[object, ...]:
        """What tells it from another."""
        moving = -1 if self.moving_from is None else self.moving_from
        return (
            self.placed.anchor,
            self.placed.picked or "",
            moving,
            self.position,
            self.hush_end or -1,
        )

    def runs_out(self) -> int | None:
        """The run sample at which its open piece uses up its length."""
        total = self.placed.total
        if total is None or self.moving_from is None:
            return None
        return self.moving_from + total - self.position

    def over(self, moment: int) -> bool:
        """Whether it has ended by ``moment``."""
        finish = self.runs_out()
        if finish is not None and finish <= moment:
            return True
        return self.hush_end is not None and self.hush_end <= moment

    def hush(self, moment: int, samples: int, by: Anchor) -> None:
        """Fade it out over ``samples`` of run time."""
        self.released = True
        end = moment + samples
        if self.hush_end is None or end < self.hush_end:
            self.hush_end, self.hush_by = end, by
            if samples:
                self.fades.append((moment, end))

    def move(self, moment: int) -> None:
        """The picture starts moving."""
        if self.moving_from is None:
            self.moving_from = moment

    def pause(self, moment: int) -> bool:
        """The picture stands still from ``moment``; whether the voice goes on after that."""
        if self.over(moment):
            self.close(moment, "run")
            return False
        self._end_piece(moment)
        return True

    def close(self, moment: int, ended: Ended) -> None:
        """End it at ``moment`` for the reason given, or at its own earlier end."""
        finish = self.runs_out()
        if finish is not None and finish <= moment:
            moment, ended = finish, "finished"
        if self.hush_end is not None and (
            self.hush_end < moment or (self.hush_end == moment and ended != "finished")
        ):
            moment, ended, self.ended_by = self.hush_end, "hush", self.hush_by
        self._end_piece(moment)
        self.ended = ended

    def _end_piece(self, moment: int) -> None:
        if self.moving_from is not None and moment > self.moving_from:
            self.pieces.append(Piece(self.moving_from, moment, self.position))
            self.position += moment - self.moving_from
        self.moving_from = None


class Waiting:
    """A clip in its layer's queue; ``voice`` is set when its turn has come."""

    __slots__ = ("placed", "visit", "voice")

    def __init__(self, placed: PlacedClip, visit: int) -> None:
        self.placed = placed
        self.visit = visit
        self.voice: OpenVoice | None = None


class Copies:
    """Which became which, as the records of a state were copied; what is over stays the same."""

    def __init__(self) -> None:
        self.voices: dict[OpenVoice, OpenVoice] = {}
        self.locked: dict[OpenLocked, OpenLocked] = {}
        self.waiting: dict[Waiting, Waiting] = {}

    def of(self, voice: OpenVoice | OpenLocked) -> OpenVoice | OpenLocked:
        """The copy of a voice."""
        if isinstance(voice, OpenVoice):
            return self.voices.get(voice, voice)
        return self.locked.get(voice, voice)

    def hold(self, hold: OpenVoice | Waiting) -> OpenVoice | Waiting:
        """The copy of what the picture waits for."""
        if isinstance(hold, OpenVoice):
            return self.voices.get(hold, hold)
        made = self.waiting.get(hold)
        if made is None:
            # Its turn has come, or it was thrown out.
            made = Waiting(hold.placed, hold.visit)
            if hold.voice is not None:
                made.voice = self.voices.get(hold.voice, hold.voice)
        return made


class LayerRow:
    """What a layer has sounding and waiting. ``stale`` asks for ``due`` to be worked out anew."""

    __slots__ = ("_due", "_past_end", "key", "locked", "stale", "voices", "waiting")

    def __init__(self, key: RowKey) -> None:
        self.key = key
        self.voices: list[OpenVoice] = []
        self.locked: list[OpenLocked] = []
        self.waiting: list[Waiting] = []
        self.stale = True
        self._past_end = 0
        self._due: int | None = None

    def copy(self, new: Copies) -> "LayerRow":
        """Another one with all that is open; ``new`` takes in which became which."""
        made = LayerRow(self.key)
        made.voices = [voice.copy() for voice in self.voices]
        made.locked = [voice.copy() for voice in self.locked]
        new.voices.update(zip(self.voices, made.voices, strict=True))
        new.locked.update(zip(self.locked, made.locked, strict=True))
        made.waiting = [Waiting(each.placed, each.visit) for each in self.waiting]
        new.waiting.update(zip(self.waiting, made.waiting, strict=True))
        made.stale, made._past_end, made._due = self.stale, self._past_end, self._due
        return made

    def values(self, moment: int) -> tuple[object, ...]:
        """What tells it from another at a moment: what is open, what waits, what it waits for."""
        due = self.due(moment) if self.waiting else None
        return (
            tuple(voice.values() for voice in self.voices if not voice.over(moment)),
            tuple(voice.values() for voice in self.locked),
            tuple(
                (each.placed.anchor, each.placed.picked or "", each.visit) for each in self.waiting
            ),
            -1 if due is None else max(due, moment),
        )

    def latest_end(self, moment: int) -> int | None:
        """The latest end of any free or hold voice, past or to come; None behind an endless one."""
        for voice in self.voices:
            if voice.end is not None and voice.end <= moment:
                self._past_end = max(self._past_end, voice.end)
        self.voices = [voice for voice in self.voices if not voice.over(moment)]
        latest = self._past_end
        for voice in self.voices:
            if voice.end is None:
                return None
            latest = max(latest, voice.end)
        return latest

    def busy(self, moment: int) -> bool:
        """Whether any free or hold voice sounds at ``moment``."""
        return any(not voice.over(moment) for voice in self.voices)

    def due(self, moment: int) -> int | None:
        """When the first in the queue may start, by the ends as they stand; None for never."""
        if self.stale:
            latest = self.latest_end(moment)
            self._due = None if latest is None else latest + self.waiting[0].placed.gap
            self.stale = False
        return self._due

    def over_at(self, moment: int) -> int:
        """When, as things stand, nothing sounds or waits here any more; maybe in the past.

        What never ends by itself is left aside, and so is what can never start.
        """
        latest = self.latest_end(moment)
        if latest is None:
            ends = (voice.end for voice in self.voices if voice.end is not None)
            return max((self._past_end, *ends))
        for waiting in self.waiting:
            total = waiting.placed.total
            if total is None:
                break
            latest = max(latest + waiting.placed.gap, moment) + total
        return latest

    def turn_over(self, waiting: Waiting, moment: int) -> int | None:
        """When the turn of ``waiting`` will be over as things stand; None for never."""
        latest = self.latest_end(moment)
        for ahead in self.waiting:
            total = ahead.placed.total
            if latest is None or total is None:
                return None
            latest = max(latest + ahead.placed.gap, moment) + total
            if ahead is waiting:
                break
        return latest
