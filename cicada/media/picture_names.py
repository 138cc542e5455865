"""Which files can be a picture, by their names, and the numbered images of a folder."""

import re
from pathlib import Path

from cicada.errors import BadPicture

SUFFIXES = {".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".gif", ".bmp"}
DRAWINGS = {".svg", ".svgz"}
VIDEOS = {".mp4", ".m4v", ".mov", ".webm", ".mkv", ".avi", ".apng"}
_NUMBER = re.compile(r"(\d+)(?=\D*$)")


def numbered_images(folder: Path) -> list[Path]:
    """The numbered images in ``folder``, lowest first, one for every number without a gap.

    Raises ``BadPicture`` if there are none, if two have the same number or if one is missing.
    """
    try:
        names = sorted(p for p in folder.iterdir() if p.suffix.lower() in SUFFIXES)
    except OSError as error:
        raise BadPicture(
            f"cannot be opened ({error.strerror})",
            file=str(folder),
            remedy="choose a folder of numbered images",
        ) from None
    by_number: dict[int, Path] = {}
    for path in names:
        match = _NUMBER.search(path.stem)
        if match is None:
            continue
        number = int(match[1])
        if number in by_number:
            raise BadPicture(
                f"{by_number[number].name} and {path.name} have the same number",
                file=str(folder),
                remedy="keep one of them in the folder",
            )
        by_number[number] = path
    if not by_number:
        raise BadPicture(
            "has no numbered images in it",
            file=str(folder),
            remedy="name them like frame_0001.png",
        )
    first = min(by_number)
    for number in range(first, first + len(by_number)):
        if number not in by_number:
            raise BadPicture(
                f"number {number} is missing between {by_number[first].name} and "
                f"{by_number[max(by_number)].name}",
                file=str(folder),
                remedy="add that image or number them without a gap",
            )
    return [by_number[number] for number in sorted(by_number)]


def is_picture_name(path: Path) -> bool:
    """Whether a file is named like something that can be the picture, or a part of it."""
    return path.suffix.lower() in SUFFIXES | DRAWINGS | VIDEOS
