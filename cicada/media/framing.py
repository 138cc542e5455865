"""What a decoder of pictures is asked for a frame: the parts that are drawn on it."""

from collections.abc import Callable
from pathlib import Path

from cicada.core.model import Scene
from cicada.core.picture_parts import WHOLE_PICTURE, Images, PicturePart, Video
from cicada.core.stack import Drawn, drawn_on, moment_of
from cicada.media.wanted import FramePart, Wanted


def wanted_on(
    scene: Scene,
    frame: int,
    height: int,
    fps: tuple[int, int],
    file_of: Callable[[PicturePart], Path | None],
) -> Wanted | None:
    """The picture of a frame, ``height`` pixels high; None where no picture is.

    ``file_of`` is where a part is; None: it may not be read.
    """

    def asked(drawn: Drawn) -> FramePart:
        part, source = drawn.part, file_of(drawn.part)
        plain = FramePart(
            kind="still",
            source=Path() if source is None else source,
            place=drawn.place,
            largest=_largest(part),
            opacity=drawn.opacity,
        )
        if isinstance(part, Images):
            return plain._replace(kind="images", image=drawn.along)
        if isinstance(part, Video):
            return plain._replace(kind="video", moment=moment_of(part, drawn.along, fps))
        return plain

    drawn = [each for each in drawn_on(scene, frame) if file_of(each.part) is not None]
    if not drawn:
        return None
    lowest = Drawn(scene.picture[0], 0, WHOLE_PICTURE, 1.0)
    return Wanted(asked(lowest)._replace(largest=1.0), tuple(map(asked, drawn)), height)


def _largest(part: PicturePart) -> float:
    return max(place[2] for place in (part.place, part.moves_to) if place is not None)
