"""Puts the picture of a frame together from its parts. Used in the decoder's process."""

from collections import OrderedDict
from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage, QPainter

from cicada.disk.paths import is_file, is_folder
from cicada.errors import BadPicture
from cicada.media.moving import Moving, is_animated, open_moving
from cicada.media.picture_names import numbered_images
from cicada.media.pictures import picture_size, placed, read_picture
from cicada.media.wanted import FramePart, Kind, PictureInfo, Wanted

# Decoded images kept, by their bytes, and files kept open.
ROOM = 64 << 20
OPEN = 2
# A picture is at most so many times as wide as it is high.
WIDEST = 4


class Composer:
    """Keeps files open and images decoded from one picture to the next."""

    def __init__(self) -> None:
        self._folders: dict[Path, list[Path]] = {}
        self._moving: OrderedDict[Path, Moving] = OrderedDict()
        self._images: OrderedDict[tuple[Path, int], QImage] = OrderedDict()
        self._size = 0
        self._shapes: dict[tuple[Kind, Path], QSize] = {}

    def forget(self) -> None:
        """Read every file anew."""
        self._folders.clear()
        self._images.clear()
        self._shapes.clear()
        self._size = 0
        for moving in self._moving.values():
            moving.close()
        self._moving.clear()

    def look_at(self, path: Path) -> PictureInfo:
        """What a file or folder is; raises ``BadPicture``."""
        if is_folder(path):
            images = numbered_images(path)
            size = picture_size(images[0])
            return PictureInfo("images", size.width(), size.height(), images=len(images))
        size = picture_size(path, quietly=True)
        if size.isValid() and not is_animated(path):
            return PictureInfo("still", size.width(), size.height())
        info = self._opened(path).info
        return PictureInfo(
            "video", info.width, info.height, info.seconds, info.rate, info.has_sound,
            animated=size.isValid(),
        )  # fmt: skip

    def image(self, wanted: Wanted) -> tuple[QImage, list[BadPicture]]:
        """The picture asked for, and what is wrong with parts that are left out of it.

        Raises ``BadPicture`` if there is nothing left.
        """
        size = self._canvas(wanted)
        canvas = QImage(size, QImage.Format.Format_RGB32)
        canvas.fill(Qt.GlobalColor.black)
        wrong = []
        painter = QPainter(canvas)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for part in wanted.parts:
            try:
                image = self._decoded(part, size)
            except BadPicture as error:
                wrong.append(error)
                continue
            painter.setOpacity(part.opacity)
            painter.drawImage(placed(image.size(), part.place, size), image)
        painter.end()
        if wrong and len(wrong) == len(wanted.parts):
            raise wrong[0]
        return canvas, wrong

    def _canvas(self, wanted: Wanted) -> QSize:
        """How large the picture is, in the proportions of its lowest part."""
        try:
            shape = self._shape(wanted.shape)
        except BadPicture:
            shape = QSize(16, 9)
        ratio = min(WIDEST, shape.width() / max(1, shape.height()))
        return QSize(max(1, round(wanted.height * ratio)), wanted.height)

    def _shape(self, part: FramePart) -> QSize:
        key = part.kind, part.source
        if key not in self._shapes:
            if part.kind == "video":
                info = self._opened(part.source).info
                self._shapes[key] = QSize(info.width, info.height)
            else:
                self._shapes[key] = picture_size(self._file(part))
        return self._shapes[key]

    def _file(self, part: FramePart) -> Path:
        """The image file; of numbered ones the last stays once they run out."""
        if part.kind != "images":
            return part.source
        if part.source not in self._folders:
            self._folders[part.source] = numbered_images(part.source)
        numbered = self._folders[part.source]
        return numbered[min(part.image, len(numbered) - 1)]

    def _decoded(self, part: FramePart, canvas: QSize) -> QImage:
        fit = canvas * part.largest
        if part.kind == "video":
            return self._opened(part.source).at(part.moment, fit)
        key = self._file(part), fit.height()
        if key in self._images:
            self._images.move_to_end(key)
            return self._images[key]
        image = self._images[key] = read_picture(key[0], fit)
        self._size += image.sizeInBytes()
        while self._size > ROOM and len(self._images) > 1:
            self._size -= self._images.popitem(last=False)[1].sizeInBytes()
        return image

    def _opened(self, path: Path) -> Moving:
        if path not in self._moving:
            if not is_file(path):
                raise BadPicture("is not there", file=str(path), remedy="choose it again")
            self._moving[path] = open_moving(path)
            if len(self._moving) > OPEN:
                self._moving.popitem(last=False)[1].close()
        self._moving.move_to_end(path)
        return self._moving[path]
