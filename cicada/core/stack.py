"""The picture of a scene as a stack of parts: what of each is on a frame, and how it is cut."""

from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.model import Scene
from cicada.core.picture_parts import PicturePart, Place, Still, Video

# Of a picture whose files have not been looked at yet.
USUAL_RATIO = 16 / 9


class Drawn(NamedTuple):
    """A part on a frame: ``along`` frames into its source, from 0 (a still: always 0)."""

    part: PicturePart
    along: int
    place: Place
    opacity: float


def ends(part: PicturePart, length: int) -> int:
    """The first frame a part is not shown on any more, in a scene of that length."""
    return length if part.shown is None else min(length, part.start + part.shown)


def laid_out(first: int, length: int, wanted: Sequence[int | None]) -> list[tuple[int, int | None]]:
    """From which frame on, and for how many (None: to the end), new parts are shown.

    Several follow each other and share the frames up to the scene's end; one alone that has a
    length of its own, ``wanted``, is shown for that.
    """
    count, found = len(wanted), []
    for number in range(count):
        start = first + number * (length - first) // count
        end = first + (number + 1) * (length - first) // count
        found.append((start, None if end == length else end - start))
    if count == 1 and wanted[0] is not None:
        found[0] = first, max(1, min(length - first, wanted[0]))
    return found


def drawn_on(scene: Scene, frame: int) -> tuple[Drawn, ...]:
    """What is drawn on a frame of a scene, from the bottom up."""
    return tuple(
        Drawn(part, _along(part, frame), place_on(part, frame, scene.length), opacity)
        for part in scene.picture
        if (opacity := _opacity(part, frame, scene.length)) > 0
    )


def place_on(part: PicturePart, frame: int, length: int) -> Place:
    """Where a part stands on a frame."""
    if part.moves_to is None:
        return part.place
    last = max(1, ends(part, length) - part.start - 1)
    share = min(1.0, (frame - part.start) / last)
    (x, y, size), (to_x, to_y, to_size) = part.place, part.moves_to
    return (
        x + (to_x - x) * share,
        y + (to_y - y) * share,
        size + (to_size - size) * share,
    )


def _opacity(part: PicturePart, frame: int, length: int) -> float:
    """From 0 to 1; on the frame before it comes and after it goes it would be 0."""
    into, left = frame - part.start + 1, ends(part, length) - frame
    if into <= 0 or left <= 0:
        return 0.0
    rises = min(1.0, into / (part.dissolve_in + 1))
    return rises * min(1.0, left / (part.dissolve_out + 1))


def _along(part: PicturePart, frame: int) -> int:
    if isinstance(part, Still):
        return 0
    along = frame - part.start
    if part.length is not None:
        again = isinstance(part, Video) and part.repeat
        along = along % part.length if again else min(along, part.length - 1)
    return along + part.skip


def moment_of(video: Video, along: int, fps: tuple[int, int]) -> Fraction:
    """The second of its file that a video shows, ``along`` project frames into it."""
    moment = Fraction(along * fps[1], fps[0])
    if video.repeat and video.length is None and video.seconds > 0:
        moment %= Fraction(str(video.seconds))
    return moment


# -- when frames are inserted and removed ----------------------------------------------------------


def with_frames(part: PicturePart, at: int, count: int, length: int) -> list[PicturePart]:
    """A part after ``count`` frames were inserted before frame ``at``: cut in two where it plays.

    Its picture stands still meanwhile. ``length`` is the scene's before.
    """
    if at <= part.start:
        return [replace(part, start=part.start + count)]
    if at >= ends(part, length):
        return [part]
    before, after = _halves(part, at, length)
    if after is None:
        return [part if part.shown is None else replace(part, shown=part.shown + count)]
    stands = replace(before, shown=at - part.start + count)
    return [stands, replace(after, start=at + count)]


def without_frames(part: PicturePart, at: int, count: int, length: int) -> list[PicturePart]:
    """A part after ``count`` frames from frame ``at`` on were removed; nothing if none is left."""
    until, end = at + count, ends(part, length)
    if until <= part.start:
        return [replace(part, start=part.start - count)]
    if at >= end:
        return [part]
    if at <= part.start:
        if until >= end:
            return []
        return [replace(_from(part, until, length), start=at)]
    if until >= end:
        shown = None if part.shown is None else at - part.start
        return [replace(_halves(part, at, length)[0], shown=shown, dissolve_out=0)]
    before, after = _halves(part, at, length)
    if after is None:
        return [part if part.shown is None else replace(part, shown=part.shown - count)]
    rest = _from(part, until, length)
    return [replace(before, shown=at - part.start), replace(rest, start=at)]


def _halves(part: PicturePart, at: int, length: int) -> tuple[PicturePart, PicturePart | None]:
    """A part before a frame inside it, and from there on; None if it stands still from there on."""
    if isinstance(part, Still) or (isinstance(part, Video) and part.repeat):
        return part, None
    played = at - part.start
    if part.length is not None and played >= part.length:
        return part, None
    before = replace(
        part, shown=played, length=played, dissolve_out=0,
        moves_to=None if part.moves_to is None else place_on(part, at - 1, length),
    )  # fmt: skip
    return before, replace(
        _later(part, at, length),
        skip=part.skip + played,
        length=None if part.length is None else part.length - played,
    )


def _from(part: PicturePart, at: int, length: int) -> PicturePart:
    """What is shown of a part from a frame inside it on, playing or standing still."""
    return _halves(part, at, length)[1] or _later(part, at, length)


def _later(part: PicturePart, at: int, length: int) -> PicturePart:
    """What is shown of a part from a frame inside it on."""
    shown = None if part.shown is None else part.start + part.shown - at
    place = place_on(part, at, length)
    later = replace(part, start=at, shown=shown, place=place, dissolve_in=0)
    if isinstance(later, Still) or (isinstance(later, Video) and later.repeat):
        return later
    if later.length is not None and at - part.start >= later.length:
        return replace(later, skip=later.skip + later.length - 1, length=1)
    return later
