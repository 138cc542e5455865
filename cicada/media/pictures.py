"""Picture files: decoding, shrinking and writing. The one place besides the window that uses Qt."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QImageIOHandler, QImageReader, QPainter

from cicada.core.picture_parts import Place
from cicada.disk.paths import is_there
from cicada.errors import BadPicture
from cicada.media.picture_names import DRAWINGS


def picture_size(path: Path, *, quietly: bool = False) -> QSize:
    """How large an image is; raises ``BadPicture``, or ``quietly`` gives none."""
    reader = QImageReader(str(path))
    size = reader.size()
    turned = reader.transformation() & QImageIOHandler.Transformation.TransformationRotate90
    if turned:
        size = size.transposed()
    if not size.isValid() or size.isEmpty():
        if quietly:
            return QSize()
        raise _unreadable(path, reader.errorString())
    return size


def read_picture(path: Path, fit: QSize | None = None) -> QImage:
    """The picture in ``path``, shrunk to fit into ``fit`` if given; raises ``BadPicture``.

    A drawing is made as large as fits, for it is sharp at any size.
    """
    if fit is not None and path.suffix.lower() in DRAWINGS:
        return _drawn(path, fit)
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    size = reader.size()
    if fit is not None and size.isValid() and not size.isEmpty():
        if reader.transformation() & QImageIOHandler.Transformation.TransformationRotate90:
            fit = fit.transposed()
        wanted = size.scaled(fit, Qt.AspectRatioMode.KeepAspectRatio)
        if wanted.width() < size.width():
            reader.setScaledSize(wanted)
    image = reader.read()
    if image.isNull():
        raise _unreadable(path, reader.errorString())
    see_through = image.hasAlphaChannel()
    return image.convertToFormat(
        QImage.Format.Format_ARGB32_Premultiplied if see_through else QImage.Format.Format_RGB32
    )


def _drawn(path: Path, fit: QSize) -> QImage:
    """A drawing in SVG, as large as fits."""
    from PySide6.QtSvg import QSvgRenderer

    drawing = QSvgRenderer(str(path))
    if not drawing.isValid():
        raise _unreadable(path, "it is no drawing in SVG")
    size = drawing.defaultSize().scaled(fit, Qt.AspectRatioMode.KeepAspectRatio)
    image = QImage(size.expandedTo(QSize(1, 1)), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    drawing.render(painter)
    painter.end()
    return image


def _unreadable(path: Path, reason: str) -> BadPicture:
    if not is_there(path):
        return BadPicture("is not there", file=str(path), remedy="choose it again")
    return BadPicture(
        f"cannot be shown ({reason.rstrip('.')})",
        file=str(path),
        remedy="export it again as PNG or JPEG",
    )


def write_picture(pixels: NDArray[np.uint8], path: Path, quality: int = -1) -> None:
    """Write pixels (height, width, 3) to ``path``; the suffix names the format."""
    height, width = pixels.shape[:2]
    plain = np.ascontiguousarray(pixels)
    image = QImage(plain.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    if not image.save(str(path), quality=quality):
        raise BadPicture("cannot be written", file=str(path), remedy="choose another folder")


def placed(size: QSize, place: Place, canvas: QSize) -> QRectF:
    """Where on a canvas something of that size stands: at size 1 it is as large as fits."""
    x, y, share = place
    fitted = size.scaled(canvas, Qt.AspectRatioMode.KeepAspectRatio)
    # Rounding to whole pixels leaves no hairline where it has the canvas's own proportions.
    wide = canvas.width() if abs(fitted.width() - canvas.width()) <= 1 else fitted.width()
    high = canvas.height() if abs(fitted.height() - canvas.height()) <= 1 else fitted.height()
    box = QRectF(0, 0, wide * share, high * share)
    box.moveCenter(QPointF(x * canvas.width(), y * canvas.height()))
    return box
