"""The parts a scene's picture is put together from, as the project holds them."""

from typing import Annotated

from msgspec import Meta, Struct
from msgspec.structs import replace

from cicada.core.values import Frame, Seconds

Coordinate = Annotated[float, Meta(ge=-100, le=100)]
Size = Annotated[float, Meta(gt=0, le=100)]
Place = tuple[Coordinate, Coordinate, Size]
"""Where a part of the picture stands: its middle across and down, in shares of the picture, and
its size; at 1 it is as large as fits."""
WHOLE_PICTURE: Place = (0.5, 0.5, 1.0)


class _PicturePart(
    Struct,
    frozen=True,
    kw_only=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    tag_field="kind",
):
    """A part of a scene's picture, from frame ``start`` on for ``shown`` frames.

    None is up to the scene's end. It goes straight from ``place`` to ``moves_to``, which it
    reaches on its last frame, and comes and goes over as many frames as its dissolves have.
    """

    start: Frame = 0
    shown: Annotated[int, Meta(ge=1)] | None = None
    place: Place = WHOLE_PICTURE
    moves_to: Place | None = None
    dissolve_in: Frame = 0
    dissolve_out: Frame = 0


class Images(_PicturePart, frozen=True, kw_only=True, tag="images"):
    """A folder of numbered images, one a frame.

    The lowest numbers, ``skip`` of them, are left out; after ``length`` frames (None: after the
    last image) the picture stays as it is. ``folder`` is relative to the project file, or
    absolute before the first save.
    """

    folder: str
    skip: Frame = 0
    length: Annotated[int, Meta(ge=1)] | None = None


class Video(_PicturePart, frozen=True, kw_only=True, tag="video"):
    """A video or an animated image at its own pace, whatever the project's frame rate is.

    ``skip`` and ``length`` are frames of the project; ``seconds`` is how long the file is. With
    ``repeat`` it begins again when it is over, else its last picture stays.
    """

    file: str
    skip: Frame = 0
    length: Annotated[int, Meta(ge=1)] | None = None
    seconds: Seconds = 0.0
    repeat: bool = False


class Still(_PicturePart, frozen=True, kw_only=True, tag="still"):
    """One image, or a drawing in SVG."""

    file: str


PicturePart = Images | Video | Still


def source_of(part: PicturePart) -> str:
    """The file or folder a part of the picture is in, as the project writes it."""
    return part.folder if isinstance(part, Images) else part.file


def with_source(part: PicturePart, source: str) -> PicturePart:
    """The part, from another file or folder."""
    if isinstance(part, Images):
        return replace(part, folder=source)
    return replace(part, file=source)
