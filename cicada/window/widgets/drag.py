"""What travels when a sound is dragged off the shelf, or files come from the desktop."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QDragMoveEvent, QDropEvent

SOUND = "application/x-cicada-sound"


def sound_mime(sound: str) -> QMimeData:
    """The data of a drag that carries a sound of the shelf."""
    data = QMimeData()
    data.setData(SOUND, QByteArray(sound.encode()))
    return data


def dragged_sound(data: QMimeData) -> str | None:
    """The id of the sound that is dragged, if one is."""
    return (
        bytes(data.data(SOUND).data()).decode(errors="replace") if data.hasFormat(SOUND) else None
    )


def dragged_files(data: QMimeData) -> list[Path]:
    """The files that are dragged, if any are."""
    return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]


def let_files_in(event: QDragMoveEvent) -> None:
    """Answer a drag: files may be dropped here, nothing else."""
    if dragged_files(event.mimeData()):
        event.acceptProposedAction()
    else:
        event.ignore()


def take_files(event: QDropEvent, take: Callable[[list[Path]], object]) -> None:
    """Take the files that are dropped, if any are."""
    files = dragged_files(event.mimeData())
    if files:
        event.acceptProposedAction()
        take(files)
