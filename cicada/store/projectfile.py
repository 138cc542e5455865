"""Reading and writing project files, cases and run files (format.md).

``loads`` of any bytes gives a project or raises ``BadProject``, and nothing else.
"""

import re
from collections.abc import Sequence
from functools import cache
from hashlib import blake2b
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from msgspec import Raw, Struct
from msgspec.structs import replace

from cicada.core.answer_rules import refuse
from cicada.core.model import VERSION, Project, Run, Scene, lowest_version
from cicada.disk.reading import read_within
from cicada.disk.why import why
from cicada.disk.writing import whole_file, write_all
from cicada.errors import BadProject, CannotWrite
from cicada.store.validate import validate

T = TypeVar("T")
# Bytes of a project, a case or a run file: some millions of keyframes.
LARGEST = 256_000_000


class Case(Struct, kw_only=True, forbid_unknown_fields=True):
    """A project with the run it is to be planned for; a ``plan`` in it is ignored."""

    project: Project
    run: Run = Run()
    plan: Raw = Raw()


class _Header(Struct):
    version: Any = None
    project: Raw = Raw()


# The lists that are written with an item a line, before and after the sounds.
BEFORE, AFTER = ("styles",), ("blends", "pools", "playlists", "values", "pads", "runs", "recipes")

_PROJECT = msgspec.json.Decoder(Project)
_CASE = msgspec.json.Decoder(Case)
_RUN = msgspec.json.Decoder(Run)
_HEADER = msgspec.json.Decoder(_Header)
_ENCODER = msgspec.json.Encoder()


def read_bytes(path: Path) -> bytes:
    """The file's bytes; raises ``BadProject`` if it cannot be read."""
    return read_within(path, LARGEST, BadProject)


def _text(data: bytes) -> bytes:
    """What the bytes say, without the mark some editors put before UTF-8."""
    return data.removeprefix(b"\xef\xbb\xbf")


def load(path: Path) -> Project:
    """The project in ``path``; raises ``BadProject`` naming the file, the place and the remedy."""
    data = read_bytes(path)
    try:
        return loads(data)
    except BadProject as error:
        raise error.at(str(path)) from None


def load_run(path: Path) -> Run:
    """The run file in ``path``; raises ``BadProject``."""
    data = read_bytes(path)
    try:
        return _decoded(_RUN, data)
    except BadProject as error:
        raise error.at(str(path)) from None


def load_case(path: Path) -> tuple[Project, Run]:
    """A project file with the usual run, or a case with its own; raises ``BadProject``."""
    data = read_bytes(path)
    try:
        header = _header(_text(data))
        if header is None or not bytes(header.project):
            return loads(data), Run()
        case = _decoded(_CASE, data)
        _validate_as_written(case.project)
    except BadProject as error:
        raise error.at(str(path)) from None
    return case.project, case.run


def loads(data: bytes) -> Project:
    """The project that ``data`` holds; raises ``BadProject``."""
    try:
        project = _decoded(_PROJECT, data)
    except BadProject:
        header = _header(_text(data))
        if header is not None and isinstance(header.version, int) and header.version > VERSION:
            raise BadProject(
                f"is {header.version}, newer than this Cicada knows",
                place="version",
                remedy=f"open it with a newer Cicada; this one reads up to version {VERSION}",
            ) from None
        raise
    _validate_as_written(project)
    return project


def _validate_as_written(project: Project) -> None:
    validate(project)
    # In memory a project says what it was; only what is written says what it is.
    lowest = lowest_version(project)
    if project.version < lowest:
        refuse(
            "version",
            f"is {project.version}, but there are parts that came with version {lowest}",
            f"write {lowest}",
        )


def _header(data: bytes) -> _Header | None:
    try:
        return _HEADER.decode(data)
    except (msgspec.MsgspecError, RecursionError, ValueError):
        return None


def _decoded(decoder: "msgspec.json.Decoder[T]", data: bytes) -> T:
    try:
        return decoder.decode(_text(data))
    except msgspec.ValidationError as error:
        raise _explained(str(error)) from None
    except (msgspec.DecodeError, RecursionError, ValueError) as error:
        what = str(error).removeprefix("JSON is malformed: ")
        raise BadProject(
            f"is not readable JSON ({what})", remedy="restore it from a copy or undo the last edit"
        ) from None


_PLACE = re.compile(r"^(?P<what>.*?)(?: - at `(?P<place>[^`]*)`)?$", re.DOTALL)


def _explained(message: str) -> BadProject:
    """Msgspec's message as one of ours: what is wrong, where, what to do."""
    match = _PLACE.match(message)
    assert match is not None
    what = match["what"].replace("`", "'")
    place = (match["place"] or "$").removeprefix("$").removeprefix(".") or "the whole file"
    unknown = re.match(r"Object contains unknown field '(.*)'$", what)
    if unknown:
        return BadProject(
            f"there is no field {unknown[1]!r}", place=place, remedy="correct its name or remove it"
        )
    if "matching regex" in what:
        return BadProject(
            "is no hash",
            place=place,
            remedy="it is empty, or blake2b: and 40 hexadecimal digits in lower case",
        )
    missing = re.match(r"Object missing required field '(.*)'$", what)
    if missing:
        return BadProject(f"has no {missing[1]!r}", place=place, remedy="add it")
    return BadProject(what[0].lower() + what[1:], place=place, remedy="correct it")


def dumps(project: Project) -> bytes:
    """The project as file text: two-space indent, a keyframe a line, defaults left out."""
    project = replace(project, version=lowest_version(project))
    text = [b"{\n  ", b",\n  ".join(_fields(project, skip=(*BEFORE, "sounds", *AFTER, "scenes")))]
    for name in BEFORE:
        _add_list(text, project, name)
    text += [b',\n  "sounds": ', _lines(project.sounds, 4)]
    for name in AFTER:
        _add_list(text, project, name)
    text.append(b',\n  "scenes": [')
    for number, scene in enumerate(project.scenes):
        text.append(b",\n    {\n      " if number else b"\n    {\n      ")
        _add_scene(text, scene)
    text.append(b"\n  ]\n}\n")
    return b"".join(text)


def _add_list(text: list[bytes], project: Project, name: str) -> None:
    items = getattr(project, name)
    if items:
        text += [b',\n  "%s": ' % name.encode(), _lines(items, 4)]


def _add_scene(text: list[bytes], scene: Scene) -> None:
    text.append(b",\n      ".join(_fields(scene, skip=("picture", "layers"))))
    if scene.picture:
        text += [b',\n      "picture": ', _lines(scene.picture, 8)]
    text.append(b',\n      "layers": [')
    for number, layer in enumerate(scene.layers):
        text.append(b",\n        {" if number else b"\n        {")
        text += [b", ".join(_fields(layer, skip=("keyframes",))), b',\n          "keyframes": ']
        text += [_lines(layer.keyframes, 12), b"\n        }"]
    text.append(b"\n      ]\n    }" if scene.layers else b"]\n    }")


def _lines(items: Sequence[Struct], indent: int) -> bytes:
    """A list with an item on each line; JSON itself has no line breaks to be confused with."""
    if not items:
        return b"[]"
    space = b"\n" + b" " * indent
    lines = _ENCODER.encode_lines(items)[:-1].replace(b"\n", b"," + space)
    return b"".join((b"[", space, lines, space[:-2], b"]"))


@cache
def _defaults(kind: type[Struct]) -> tuple[tuple[str, object], ...]:
    return tuple(
        (field.name, {} if field.default_factory is dict else field.default)
        for field in msgspec.structs.fields(kind)
    )


def _fields(item: Struct, skip: tuple[str, ...]) -> list[bytes]:
    """``"name": value`` of every field that is not at its default, in the file's order."""
    kept = []
    for name, default in _defaults(type(item)):
        if name in skip:
            continue
        value = getattr(item, name)
        if value != default:
            kept.append(b'"%s": %s' % (name.encode(), _ENCODER.encode(value)))
    return kept


def save(project: Project, path: Path) -> None:
    """Write the project whole or not at all; raises ``CannotWrite`` and leaves what was there."""
    write_atomically(path, dumps(project))


def content_hash(data: bytes) -> str:
    """What the bytes of a project file are known by."""
    return blake2b(data, digest_size=20).hexdigest()


def write_atomically(path: Path, data: bytes) -> None:
    """Replace ``path`` by ``data`` in one step; raises ``CannotWrite``."""
    try:
        with whole_file(path, lasting=True) as made:
            write_all(made.file, data)
    except (OSError, ValueError) as error:
        raise CannotWrite(
            f"cannot be written ({why(error)})", file=str(path), remedy="choose another folder"
        ) from None
