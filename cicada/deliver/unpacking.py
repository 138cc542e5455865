"""Opening an archive that somebody else has packed: into a folder of its own, or not at all.

What an entry says is never trusted: only files that the project in it names come out, each under
a name that stays inside, and never more bytes than the archive has.
"""

import os
import secrets
import shutil
import stat
from collections.abc import Callable
from pathlib import Path
from typing import IO, cast
from zipfile import ZIP_STORED, ZipFile, ZipInfo

from cicada.core.model import Project
from cicada.deliver.archive import (
    MOST_ENTRIES,
    PROJECT,
    Bounded,
    named_by,
    safe_name,
    same_for_a_disk,
    understood,
)
from cicada.disk.paths import is_there
from cicada.disk.reading import open_file
from cicada.disk.why import size_text, why
from cicada.disk.writing import whole_file, write_all
from cicada.errors import BadProject, Cancelled, CannotWrite
from cicada.store.projectfile import LARGEST, loads

Going = Callable[[float], bool]
"""Told the share done, answers whether to go on."""

AT_ONCE = 1 << 20
_ENCRYPTED = 0x1


def unpack(archive: Path, folder: Path, going: Going = lambda share: True) -> Path:
    """Open an archive into a new folder below ``folder``; the project file in it.

    Raises ``BadProject``, ``CannotWrite`` or ``Cancelled``; then nothing is there.
    """
    with (
        open_file(archive, BadProject) as file,
        understood(str(archive)),
        ZipFile(cast("IO[bytes]", Bounded(file))) as opened,
    ):
        entries = opened.infolist()
        size = os.fstat(file.fileno()).st_size
        named = _checked(entries, size, archive)
        data = _small(opened, named, archive)
        try:
            project = loads(data)
        except BadProject as error:
            raise error.at(f"{archive}: {named.filename}") from None
        _all_named(entries, project, named, archive)
        target = folder / Path(named.filename).stem
        if is_there(target):
            raise CannotWrite("is there already", file=str(target), remedy="choose another folder")
        _has_room(entries, folder)
        part = folder / f".{os.getpid()}-{secrets.token_hex(4)}.part"
        try:
            _extract(opened, entries, part, going)
            part.rename(target)
        except OSError as error:
            raise CannotWrite(
                f"cannot be written ({why(error)})",
                file=str(folder), remedy="choose another folder",
            ) from None  # fmt: skip
        finally:
            shutil.rmtree(part, ignore_errors=True)
    return target / named.filename


def _refuse(archive: Path, what: str) -> BadProject:
    return BadProject(what, file=str(archive), remedy="have it packed again with Cicada")


def _checked(entries: list[ZipInfo], size: int, archive: Path) -> ZipInfo:
    """The entry of the project, if every entry is one that may come out."""
    if len(entries) > MOST_ENTRIES:
        raise _refuse(archive, f"has {len(entries):,} entries")
    seen = dict[str, str]()
    total = 0
    for entry in entries:
        name = entry.filename
        shown = repr(name[:80])
        steps = name.split("/")
        if not all(map(safe_name, steps)) or entry.orig_filename != name:
            raise _refuse(archive, f"has an entry {shown}, which does not go on every disk")
        kind = stat.S_IFMT(entry.external_attr >> 16)
        if kind not in (0, stat.S_IFREG):
            raise _refuse(archive, f"has an entry {shown} that is no file")
        if entry.flag_bits & _ENCRYPTED:
            raise _refuse(archive, f"has an entry {shown} that is encrypted")
        if entry.compress_type != ZIP_STORED or entry.compress_size != entry.file_size:
            raise _refuse(archive, f"has an entry {shown} that is compressed")
        one = same_for_a_disk(name)
        if one in seen:
            raise _refuse(archive, f"has {shown} twice, as {seen[one][:80]!r}")
        seen[one] = name
        total += entry.file_size
    if total > size:
        raise _refuse(archive, "has entries that are larger than it is")
    files = set(seen)
    for name in files:
        steps = name.split("/")
        if any("/".join(steps[:count]) in files for count in range(1, len(steps))):
            raise _refuse(archive, f"has {seen[name][:80]!r} in what is a file")
    projects = [e for e in entries if e.filename.endswith(PROJECT) and "/" not in e.filename]
    if len(projects) != 1:
        raise _refuse(archive, "has no project in it" if not projects else "has several projects")
    return projects[0]


def _small(opened: ZipFile, entry: ZipInfo, archive: Path) -> bytes:
    if entry.file_size > LARGEST:
        raise _refuse(archive, f"has a project of {size_text(entry.file_size)}")
    return opened.read(entry)


def _all_named(entries: list[ZipInfo], project: Project, own: ZipInfo, archive: Path) -> None:
    """Refuse entries that the project in the archive does not name."""
    files, folders = named_by(project, own.filename)
    for entry in entries:
        name = entry.filename
        if name not in files and name.rpartition("/")[0] not in folders:
            raise _refuse(archive, f"has an entry {name[:80]!r} that its project does not name")


def _has_room(entries: list[ZipInfo], folder: Path) -> None:
    total = sum(entry.file_size for entry in entries)
    try:
        free = shutil.disk_usage(folder).free
    except OSError as error:
        raise CannotWrite(
            f"cannot be written ({why(error)})", file=str(folder), remedy="choose another folder"
        ) from None
    if total > free:
        raise CannotWrite(
            f"the project takes {size_text(total)}, and {size_text(free)} are free",
            file=str(folder), remedy="free some space or choose another folder",
        )  # fmt: skip


def _extract(opened: ZipFile, entries: list[ZipInfo], part: Path, going: Going) -> None:
    total, done = max(1, sum(entry.file_size for entry in entries)), 0
    for entry in entries:
        target = part / entry.filename
        target.parent.mkdir(parents=True, exist_ok=True)
        with opened.open(entry) as file, whole_file(target) as made:
            # Never more than was said, whatever else stands there.
            left = entry.file_size
            while left and (piece := file.read(min(left, AT_ONCE))):
                write_all(made.file, piece)
                left -= len(piece)
                done += len(piece)
                if not going(min(1.0, done / total)):
                    raise Cancelled("it was stopped; nothing is there")
            # At its end what was read is held against its sum.
            file.read(1)
