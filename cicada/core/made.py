"""Sounds made here: what they are is how they were made, and their samples follow from that."""

from hashlib import blake2b
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from cicada.core.parts import Part
from cicada.core.patterns import Pattern, seconds_of
from cicada.core.values import Level

# A sound made here lasts a day at most.
LONGEST = 86_400.0
# The middle frequencies of thirds of an octave (IEC 61260, 25 Hz to 16 kHz), of which a room's
# tone has a level each.
BANDS = tuple(1000.0 * 10 ** (number / 10) for number in range(-16, 13))
# What the samples are made by: another number where the same making gives others.
MAKER = 1

Length = Annotated[float, Meta(gt=0, le=LONGEST)]
Hertz = Annotated[float, Meta(ge=1, le=90_000)]
Seed = Annotated[int, Meta(ge=0, le=2**32 - 1)]


class _Made(Part, frozen=True, kw_only=True, tag_field="kind"):
    """Something made here."""


class Silence(_Made, frozen=True, kw_only=True, tag="silence"):
    """Nothing, for so long."""

    seconds: Length = 1.0


class Tone(_Made, frozen=True, kw_only=True, tag="tone"):
    """One pitch."""

    seconds: Length = 1.0
    hertz: Hertz = 440.0
    shape: Literal["sine", "triangle", "square", "saw"] = "sine"
    level: Level = 0.125


class Noise(_Made, frozen=True, kw_only=True, tag="noise"):
    """Noise; pink falls by 3 dB an octave, brown by 6. A wide one differs from side to side."""

    seconds: Length = 2.0
    colour: Literal["white", "pink", "brown"] = "pink"
    level: Level = 0.0625
    wide: bool = False
    seed: Seed = 1


class RoomTone(_Made, frozen=True, kw_only=True, tag="room-tone"):
    """Noise with the levels of a room: linear RMS in each of ``BANDS``."""

    seconds: Length = 10.0
    bands: Annotated[tuple[Level, ...], Meta(min_length=len(BANDS), max_length=len(BANDS))] = (
        0.0,
    ) * len(BANDS)
    wide: bool = True
    seed: Seed = 1


class SyncBeep(_Made, frozen=True, kw_only=True, tag="sync-beep"):
    """A beep of one length, to be held against a picture."""

    seconds: Length = 0.04
    hertz: Hertz = 1000.0
    level: Level = 0.25


class Countdown(_Made, frozen=True, kw_only=True, tag="countdown"):
    """A beep every so many seconds, and as much silence after the last; the first is higher."""

    beeps: Annotated[int, Meta(ge=1, le=60)] = 3
    every: Annotated[float, Meta(ge=0.05, le=10)] = 1.0
    hertz: Hertz = 800.0
    level: Level = 0.25


Making = Silence | Tone | Noise | RoomTone | SyncBeep | Countdown | Pattern


def made_seconds(making: Making) -> float:
    """How long it is."""
    match making:
        case Pattern():
            return seconds_of(making)
        case Countdown(beeps=beeps, every=every):
            return beeps * every
        case _:
            return making.seconds


def made_frames(making: Making, rate: int) -> int:
    """How many sample frames it has at a rate."""
    return max(1, round(made_seconds(making) * rate))


def made_channels(making: Making) -> int:
    """How many channels it has."""
    wide = isinstance(making, Pattern) or getattr(making, "wide", False)
    return 2 if wide else 1


_ENCODER = msgspec.json.Encoder()


def _whole(value: object) -> object:
    """A making with all of its fields: those at their default are left out by what they are.

    What has travelled between processes has defaults of its own.
    """
    if isinstance(value, Part):
        fields = [_whole(getattr(value, name)) for name in value.__struct_fields__]
        return [type(value).__name__, *fields]
    if isinstance(value, tuple) and value and isinstance(value[0], Part):
        return [_whole(each) for each in value]
    return value


_KNOWN: dict[int, tuple[Making, str]] = {}
_MOST = 512


def made_key(making: Making) -> str:
    """What its samples are known by: the same for equal makings, in the form of a hash."""
    known = _KNOWN.get(id(making))
    if known is not None:
        return known[1]
    digest = blake2b(_ENCODER.encode((MAKER, _whole(making))), digest_size=20).hexdigest()
    if len(_KNOWN) >= _MOST:
        del _KNOWN[next(iter(_KNOWN))]
    # Kept with its digest, so that its place in memory is not another's meanwhile.
    _KNOWN[id(making)] = making, f"blake2b:{digest}"
    return f"blake2b:{digest}"
