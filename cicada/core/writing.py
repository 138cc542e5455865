"""Writing a plan down: what was worked out in absolute times, counted from the run's origin."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from operator import itemgetter

from msgspec.structs import replace

from cicada.core.placed import LayerTable
from cicada.core.plain import Ordered, sounding
from cicada.core.plan import Event, Glide, Piece, Plan, Stretch, Visit, Voice, Why
from cicada.core.sounding import OpenLocked, OpenVoice
from cicada.core.timebase import Timebase


def written(
    base: Timebase,
    open_voices: Sequence[OpenVoice | OpenLocked],
    events: Sequence[Event],
    visits: Sequence[Visit],
    stretches: Sequence[Stretch],
    plain: Sequence[tuple[int, LayerTable]],
    glides: Sequence[Glide],
    *,
    origin: int,
    end: int,
) -> Plan:
    """The plan of a run whose origin and end are given; what never becomes audible is left out.

    ``plain`` are the plain layers by the visits of their scenes; with them the origin is 0.
    """
    ordered = voices_from(open_voices, origin)
    made = [voice for _, voice in ordered]
    last = max([end - origin, *(voice.pieces[-1].end for voice in made)])
    by_visit: defaultdict[int, list[Stretch]] = defaultdict(list)
    for stretch in stretches if plain else ():
        by_visit[stretch.visit].append(stretch)
    for visit, layer in plain:
        found = sounding(layer, visit, by_visit[visit], base)
        ordered += found.voices
        last = max(last, found.end)
    ordered.sort(key=itemgetter(0))
    return Plan(
        rate=base.rate,
        fps=(base.num, base.den),
        end=end - origin,
        length=last,
        voices=tuple([voice for _, voice in ordered]),
        events=tuple(events_from(events, origin)),
        visits=tuple(v._replace(start=v.start - origin, end=v.end - origin) for v in visits),
        stretches=tuple(s._replace(at=s.at - origin) for s in stretches),
        glides=tuple(replace(glide, at=glide.at - origin) for glide in glides),
    )


def voices_from(open_voices: Iterable[OpenVoice | OpenLocked], origin: int) -> list[Ordered]:
    """The voices as they are heard from the origin on, with what they are ordered by."""
    return [
        ((v.pieces[0][0], v.scene, v.layer, v.frame, each.number), v)
        for each in open_voices
        if (v := _voice(each, origin)) is not None
    ]


def events_from(events: Iterable[Event], origin: int) -> list[Event]:
    """The events, counted from the origin."""
    return [
        replace(e, at=e.at - origin, until=None if e.until is None else e.until - origin)
        for e in events
    ]


def _voice(voice: OpenVoice | OpenLocked, origin: int) -> Voice | None:
    why: Why = "fired"
    rise: tuple[int, int] | None = None
    if isinstance(voice, OpenVoice):
        start, end = voice.start, voice.end
        joined, why = start < origin, voice.why
        began = origin if joined else start
        assert end is not None
        if end <= began:
            return None
        pieces: tuple[Piece, ...] = (Piece(began - origin, end - origin, began - start),)
        if voice.rise is not None:
            rise = voice.rise[0] - origin, voice.rise[1] - origin
    else:
        joined = voice.joined or bool(voice.pieces and voice.pieces[0].start < origin)
        pieces = tuple(
            Piece(max(start, origin) - origin, end - origin, clip + max(0, origin - start))
            for start, end, clip in voice.pieces
            if end > origin
        )
        if not pieces:
            return None
    placed = voice.placed
    fades: tuple[tuple[int, int], ...] = ()
    if voice.fades:
        over = pieces[-1].end + origin
        fades = tuple((a - origin, b - origin) for a, b in voice.fades if a < over)
    return Voice(
        *placed.anchor,
        placed.clip.sound,
        placed.clip.sync,
        "joined" if joined else why,
        voice.ended,
        pieces,
        fades,
        placed.total,
        placed.fade_length,
        voice.visit,
        voice.ended_by,
        placed.picked,
        rise,
        placed.fire,
    )
