"""Packing a project with everything it uses into one archive, to be handed over."""

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple
from zipfile import ZIP_STORED, ZipFile, ZipInfo

from msgspec.structs import replace

from cicada.core.model import Project, Sound, Take
from cicada.core.naming import file_name
from cicada.core.picture_parts import Images, PicturePart, source_of, with_source
from cicada.deliver.archive import PROJECT, TERMS, safe_name
from cicada.deliver.in_use import refuse_in_use
from cicada.deliver.terms import terms_text
from cicada.disk.paths import is_file
from cicada.disk.reading import open_file
from cicada.disk.writing import whole_file
from cicada.errors import BadSound, Cancelled
from cicada.media.ingest import content_hash
from cicada.media.picture_names import SUFFIXES
from cicada.store.projectfile import dumps
from cicada.store.sounds_folder import sound_file, standing

Going = Callable[[float], bool]
"""Told the share done, answers whether to go on."""

AT_ONCE = 1 << 20
# Entries have no date of their own; a ZIP cannot be without one.
NO_DATE = (1980, 1, 1, 0, 0, 0)


class Packed(NamedTuple):
    """How many files and bytes are in an archive, and what the project names that is not there."""

    files: int
    size: int
    missing: tuple[str, ...]


class _Contents:
    """What goes into an archive, and the project as it stands in there."""

    def __init__(self, project: Project, project_file: Path) -> None:
        self.stem = file_name(project_file.stem)
        self.file = project_file
        self.files: dict[str, Path] = {}
        self.missing: list[str] = []
        self._pictures: dict[str, str] = {}
        sounds = tuple(self._sound(sound) for sound in project.sounds)
        scenes = tuple(
            replace(scene, picture=tuple(map(self._part, scene.picture)))
            for scene in project.scenes
        )
        self.project = replace(project, sounds=sounds, scenes=scenes)

    def _sound(self, sound: Sound) -> Sound:
        takes = tuple(
            replace(take, file=self._kept(take, f"{sound.label}, {take.name}"), kept="inside")
            for take in sound.takes
        )
        # Where it came from on this machine is nobody else's business.
        origin = Path(sound.origin).name
        file = self._kept(sound, sound.label)
        return replace(sound, file=file, kept="inside", origin=origin, takes=takes)

    def _kept(self, sound: Sound | Take, name: str) -> str:
        """The name in the archive of a sound's file, by what it holds."""
        path = sound_file(sound, self.file)
        if path is None:
            return ""
        if not is_file(path):
            self.missing.append(name)
            return f"{self.stem}.sounds/{file_name(path.name)}"
        suffix = path.suffix.lower() if safe_name(path.suffix.lstrip(".")) else ""
        held = content_hash(path).removeprefix("blake2b:")
        return self._put(f"{self.stem}.sounds/{held}{suffix}", path)

    def _part(self, part: PicturePart) -> PicturePart:
        source = source_of(part)
        if source not in self._pictures:
            number = len(self._pictures) + 1
            path = standing(self.file, source)
            if isinstance(part, Images):
                name = f"{self.stem}.pictures/{number}"
                self._images(path, name, source)
            else:
                suffix = path.suffix.lower() if safe_name(path.suffix.lstrip(".")) else ""
                name = f"{self.stem}.pictures/{number}{suffix}"
                if is_file(path):
                    self._put(name, path)
                else:
                    self.missing.append(Path(source).name)
            self._pictures[source] = name
        return with_source(part, self._pictures[source])

    def _images(self, folder: Path, name: str, source: str) -> None:
        """All images of a folder, each under a name that goes on any disk."""
        try:
            with os.scandir(folder) as entries:
                found = sorted(entry.name for entry in entries)
        except OSError:
            self.missing.append(Path(source).name)
            return
        images = [each for each in found if Path(each).suffix.lower() in SUFFIXES]
        for image in images:
            called = image if safe_name(image) else file_name(image)
            if is_file(folder / image) and f"{name}/{called}" not in self.files:
                self._put(f"{name}/{called}", folder / image)
            else:
                self.missing.append(image)

    def _put(self, name: str, path: Path) -> str:
        self.files[name] = path
        return name


def pack(
    project: Project, project_file: Path, output: Path, going: Going = lambda share: True
) -> Packed:
    """Write an archive, whole or not at all.

    Raises ``CannotWrite``, ``BadSound`` if a file cannot be read, or ``Cancelled``.
    """
    refuse_in_use(output, project, project_file)
    contents = _Contents(project, project_file)
    sizes = {name: path.stat().st_size for name, path in contents.files.items()}
    total, done = max(1, sum(sizes.values())), 0
    with whole_file(output) as made, ZipFile(made.file, "w", ZIP_STORED) as archive:
        _write(archive, f"{contents.stem}{PROJECT}", dumps(contents.project))
        _write(archive, TERMS, terms_text(project).encode())
        for name, path in contents.files.items():
            info = _entry(name, sizes[name])
            with (
                open_file(path, BadSound) as file,
                archive.open(info, "w", force_zip64=sizes[name] >= 1 << 31) as into,
            ):
                for piece in _pieces(file):
                    into.write(piece)
                    done += len(piece)
                    if not going(min(1.0, done / total)):
                        raise Cancelled("packing was stopped; nothing was written")
    size = output.stat().st_size
    return Packed(len(contents.files) + 2, size, tuple(dict.fromkeys(contents.missing)))


def _pieces(file: object) -> Iterator[bytes]:
    while piece := file.read(AT_ONCE):  # type: ignore[attr-defined]
        yield piece


def _entry(name: str, size: int) -> ZipInfo:
    info = ZipInfo(name, NO_DATE)
    info.external_attr = 0o644 << 16
    info.file_size = size
    return info


def _write(archive: ZipFile, name: str, data: bytes) -> None:
    archive.writestr(_entry(name, len(data)), data)
