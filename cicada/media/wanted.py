"""What is asked of the decoder of pictures, and what it says of a file. Light to import."""

from fractions import Fraction
from pathlib import Path
from typing import Literal, NamedTuple

from cicada.core.picture_parts import Place

Kind = Literal["images", "video", "still"]


class FramePart(NamedTuple):
    """A part of the picture of one frame.

    ``image`` is the number of an image in its folder, from 0; ``moment`` the second of a video.
    ``largest`` is the greatest size it has anywhere on its way.
    """

    kind: Kind
    source: Path
    image: int = 0
    moment: Fraction = Fraction(0)
    place: Place = (0.5, 0.5, 1.0)
    largest: float = 1.0
    opacity: float = 1.0


class Wanted(NamedTuple):
    """The picture of a frame: its parts from the bottom up, ``height`` pixels high.

    ``shape`` is the part whose proportions it has.
    """

    shape: FramePart
    parts: tuple[FramePart, ...]
    height: int


class PictureInfo(NamedTuple):
    """What a file or folder of pictures is.

    A still has no ``seconds``; of numbered ``images`` there are many.
    """

    kind: Kind
    width: int
    height: int
    seconds: float = 0.0
    rate: float = 0.0
    has_sound: bool = False
    animated: bool = False
    images: int = 1
