"""The pictures of a scene, decoded beside the window and kept while there is room."""

from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QObject, QSize, Signal
from PySide6.QtGui import QImage

from cicada.core.model import Scene
from cicada.errors import BadPicture
from cicada.media.pictures import numbered_images, read_picture

Key = tuple[Path, int]
# Pictures kept, by their bytes.
ROOM = 160 << 20
# So many pictures are fetched before they are shown, and so many at most are on their way.
AHEAD, AT_ONCE = 36, 6


class Frames(QObject):
    """Gives the picture of a frame if it is at hand, and fetches it if it is not.

    ``arrived`` comes with the height of a fetched picture that can now be had, ``trouble`` with a
    sentence to show.
    """

    arrived = Signal(int)
    trouble = Signal(str)
    _fetched = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(1, "cicada-pictures")
        self._kept: OrderedDict[Key, QImage] = OrderedDict()
        self._size = 0
        self._asked: set[Key] = set()
        self._folders: dict[Path, list[Path]] = {}
        self._fetched.connect(self._keep)

    def forget(self) -> None:
        """Look at the folders anew."""
        self._folders.clear()

    def path(self, scene: Scene, project_file: Path, frame: int) -> Path | None:
        """The image file of a scene's frame; the last one stays once they run out."""
        for images in reversed(scene.picture):
            if frame >= images.start:
                numbered = self._numbered(project_file.parent / images.folder)
                if numbered:
                    along = frame - images.start
                    if images.length is not None:
                        along = min(along, images.length - 1)
                    return numbered[min(along + images.skip, len(numbered) - 1)]
        return None

    def _numbered(self, folder: Path) -> list[Path]:
        if folder not in self._folders:
            try:
                self._folders[folder] = numbered_images(folder)
            except BadPicture as error:
                self._folders[folder] = []
                self.trouble.emit(str(error))
        return self._folders[folder]

    def picture(self, path: Path, height: int) -> QImage | None:
        """The picture about ``height`` pixels high, or None while it is being fetched."""
        key = (path, height)
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        if key not in self._asked:
            self._asked.add(key)
            self._pool.submit(self._fetch, key)
        return None

    def ahead(self, scene: Scene, project_file: Path, frame: int, height: int) -> None:
        """Fetch the pictures that come next, as long as there is nothing more urgent."""
        for following in range(frame + 1, min(frame + 1 + AHEAD, scene.length)):
            if len(self._asked) >= AT_ONCE:
                return
            path = self.path(scene, project_file, following)
            if path is not None:
                self.picture(path, height)

    def _fetch(self, key: Key) -> None:
        path, height = key
        try:
            image = read_picture(path, QSize(height * 4, height))
        except BadPicture as error:
            self.trouble.emit(str(error))
            image = QImage()
        self._fetched.emit(key, image)

    def _keep(self, key: Key, image: QImage) -> None:
        self._asked.discard(key)
        self._kept[key] = image
        self._size += image.sizeInBytes()
        while self._size > ROOM and len(self._kept) > 1:
            _, oldest = self._kept.popitem(last=False)
            self._size -= oldest.sizeInBytes()
        self.arrived.emit(key[1])

    @property
    def busy(self) -> bool:
        """Whether pictures are still being fetched."""
        return bool(self._asked)

    def close(self) -> None:
        """Fetch no more."""
        self._pool.shutdown(cancel_futures=True)
