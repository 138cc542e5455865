"""What travels when a sound is dragged off the shelf, or files come from the desktop."""

from pathlib import Path

from PySide6.QtCore import QByteArray, QMimeData

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
