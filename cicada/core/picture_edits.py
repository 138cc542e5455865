"""Changes to the parts a scene's picture is made of. Parts are counted from the lowest, from 0."""

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.editing import Changes, Edit, changed, must_be_inside, plainly, with_scene
from cicada.core.model import Project, Scene
from cicada.core.picture_parts import PicturePart
from cicada.core.stack import ends
from cicada.errors import BadEdit


class _OnPicture(Edit, frozen=True, kw_only=True):
    """A change to the picture of a scene."""

    scene: str

    @override
    def apply(self, project: Project) -> Project:
        return with_scene(
            project, self.scene, lambda scene: replace(scene, picture=tuple(self._parts(scene)))
        )

    def _parts(self, scene: Scene) -> list[PicturePart]:
        raise NotImplementedError


class AddParts(_OnPicture, frozen=True, kw_only=True, tag="add-parts"):
    """Put parts on top of a scene's picture."""

    parts: tuple[PicturePart, ...]

    @property
    @override
    def title(self) -> str:
        return "add to the picture"

    @override
    def _parts(self, scene: Scene) -> list[PicturePart]:
        for part in self.parts:
            must_be_inside(scene, part.start)
        return [*scene.picture, *map(plainly, self.parts)]


class ChangePart(_OnPicture, frozen=True, kw_only=True, tag="change-part"):
    """Change fields of a part of the picture."""

    number: int
    changes: Changes

    @property
    @override
    def title(self) -> str:
        return "change a part of the picture"

    @override
    def _parts(self, scene: Scene) -> list[PicturePart]:
        part = changed(_there(scene, self.number), self.changes)
        must_be_inside(scene, part.start)
        return [part if n == self.number else other for n, other in enumerate(scene.picture)]


class MovePart(_OnPicture, frozen=True, kw_only=True, tag="move-part"):
    """Put a part of the picture above or below others."""

    number: int
    to: int

    @property
    @override
    def title(self) -> str:
        return "reorder the picture's parts"

    @override
    def _parts(self, scene: Scene) -> list[PicturePart]:
        part, parts = _there(scene, self.number), list(scene.picture)
        del parts[self.number]
        parts.insert(max(0, min(self.to, len(parts))), part)
        return parts


class RemovePart(_OnPicture, frozen=True, kw_only=True, tag="remove-part"):
    """Take a part out of the picture; its file stays where it is."""

    number: int

    @property
    @override
    def title(self) -> str:
        return "take a part out of the picture"

    @override
    def _parts(self, scene: Scene) -> list[PicturePart]:
        _there(scene, self.number)
        return [other for n, other in enumerate(scene.picture) if n != self.number]


class MovePartEnds(_OnPicture, frozen=True, kw_only=True, tag="move-part-ends"):
    """Move all beginnings and ends of parts on one frame to another; none becomes empty."""

    frame: int
    to: int

    @property
    @override
    def title(self) -> str:
        return "move where a part of the picture ends"

    @override
    def _parts(self, scene: Scene) -> list[PicturePart]:
        return [self._moved(part, scene.length) for part in scene.picture]

    def _moved(self, part: PicturePart, length: int) -> PicturePart:
        end = ends(part, length)
        if part.start == self.frame:
            start = max(0, min(self.to, end - 1))
            shown = None if part.shown is None else part.start + part.shown - start
            return replace(part, start=start, shown=shown)
        if end == self.frame and part.shown is not None:
            return replace(part, shown=max(1, self.to - part.start))
        return part


def _there(scene: Scene, number: int) -> PicturePart:
    if not 0 <= number < len(scene.picture):
        raise BadEdit("the picture has no such part", remedy="choose one of its parts")
    return scene.picture[number]


def shown_from(part: PicturePart, length: int, frame: int) -> Changes:
    """What changes for a part to begin on a frame; it ends where it did, or a frame later."""
    keeps = None if part.shown is None else max(1, ends(part, length) - frame)
    return {"start": frame, "shown": keeps}


def shown_to(part: PicturePart, length: int, last: int) -> Changes:
    """What changes for a part to be shown up to frame ``last``."""
    return {"shown": None if last + 1 >= length else last + 1 - part.start}
