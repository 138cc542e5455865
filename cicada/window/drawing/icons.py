"""Our own icons, drawn in a colour."""

from importlib.resources import files

from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QIcon, QImage, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer


def icon(name: str, colour: str = "#26302B") -> QIcon:
    """One of our own icons, in a colour."""
    data = files("cicada.window.drawing").joinpath("icons", f"{name}.svg").read_text("utf-8")
    renderer = QSvgRenderer(QByteArray(data.replace("currentColor", colour).encode()))
    image = QImage(48, 48, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    return QIcon(QPixmap.fromImage(image))
