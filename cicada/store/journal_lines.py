"""The lines of a journal: each a checksum and a record in JSON.

The first is the ``base``, the project everything else was done to; then come ``edit``, ``join`` (an
edit that is undone together with the one before it), ``undo`` and ``redo``, each with the digest of
the project after it.
"""

import zlib
from typing import Literal

import msgspec
from msgspec import Raw, Struct

from cicada.core.model import Project

SUFFIX = ".journal"


class Base(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What a journal begins with.

    ``file`` is where the project stands or is to stand, ``content`` the hash of the bytes there
    when it was read or saved (empty: it was never saved), ``saved`` the digest of what they hold.
    """

    project: Project
    file: str
    content: str = ""
    saved: str = ""


class Record(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What is written down at once, with the digest of the project after it."""

    kind: Literal["base", "edit", "join", "undo", "redo"]
    hash: str
    base: Base | None = None
    title: str = ""
    edit: Raw = Raw()


_ENCODER = msgspec.json.Encoder()
_DECODER = msgspec.json.Decoder(Record)


def line_of(record: Record) -> bytes:
    """A record as a line, with its checksum."""
    data = _ENCODER.encode(record)
    return b"%08x %s\n" % (zlib.crc32(data), data)


def whole_lines(data: bytes) -> list[bytes]:
    """The lines up to the first that is not as it was written; a torn last one is none."""
    lines = []
    for line in data.splitlines(keepends=True):
        if not line.endswith(b"\n") or line[:8] != b"%08x" % zlib.crc32(line[9:-1]):
            break
        lines.append(line)
    return lines


def record_of(line: bytes) -> Record | None:
    """What a whole line holds; None if that is no record."""
    try:
        return _DECODER.decode(line[9:-1])
    except (msgspec.MsgspecError, ValueError, RecursionError):
        return None
