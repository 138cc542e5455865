"""The pictures of a film for a video, as its decoder puts them together."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from cicada.core.model import Project
from cicada.core.picture_parts import PicturePart, source_of
from cicada.deliver.shown import Pixels
from cicada.errors import BadPicture
from cicada.media.framing import wanted_on
from cicada.media.picture_process import DecoderHere, PictureDecoder
from cicada.store.sounds_folder import standing


class Picturing:
    """Draws a project's frames; ``close`` it."""

    def __init__(
        self,
        project: Project,
        file: Path,
        permits: Callable[[Path], bool],
        decoder: PictureDecoder | DecoderHere,
    ) -> None:
        """Of the files ``permits`` says which may be read."""
        self._project, self._file, self._permits = project, file, permits
        self._scenes = {scene.id: scene for scene in project.scenes}
        self._decoder = decoder

    def height(self, scene: str) -> int | None:
        """How high a scene's picture is; None if it has none that can be read."""
        parts = self._scenes[scene].picture
        path = self._path(parts[0]) if parts else None
        if path is None:
            return None
        try:
            return self._decoder.look_at(path).height
        except BadPicture:
            return None

    def draw(self, scene: str, frame: int, height: int) -> Pixels | None:
        """The picture of a frame, so many pixels high; None if there is none."""
        wanted = wanted_on(self._scenes[scene], frame, height, self._project.fps, self._path)
        if wanted is None:
            return None
        try:
            found = self._decoder.compose(wanted)
        except BadPicture:
            return None
        return np.frombuffer(found.pixels, np.uint8).reshape(found.height, found.width, 4)

    def _path(self, part: PicturePart) -> Path | None:
        path = standing(self._file, source_of(part))
        return path if self._permits(path) else None

    def close(self) -> None:
        """End the decoder."""
        self._decoder.close()
