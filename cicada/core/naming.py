"""Ids and names for new parts of a project."""

import re
import unicodedata
from collections.abc import Collection, Iterable

from cicada.core.model import Project


def all_ids(project: Project) -> set[str]:
    """Every id in use in the project."""
    ids = {made.id for made in project.all_placeables()}
    ids |= {value.id for value in project.values} | {pad.id for pad in project.pads}
    ids |= {recipe.id for recipe in project.recipes}
    for scene in project.scenes:
        ids.add(scene.id)
        ids.update(layer.id for layer in scene.layers)
    return ids


def next_id(prefix: str, taken: Collection[str]) -> str:
    """The first of prefix1, prefix2 ... that is not among ``taken``."""
    number = 1
    while f"{prefix}{number}" in taken:
        number += 1
    return f"{prefix}{number}"


def free_id(prefix: str, project: Project) -> str:
    """The first of prefix1, prefix2 ... that the project does not use."""
    return next_id(prefix, all_ids(project))


def free_name(wanted: str, taken: Collection[str], join: str = " ") -> str:
    """``wanted``, numbered behind ``join`` if it is taken."""
    number, name = 1, wanted
    while name in taken:
        number += 1
        name = f"{wanted}{join}{number}"
    return name


def readable_name(stem: str) -> str:
    """A name for people, from a file's name without its suffix."""
    shown = "".join(letter if letter.isprintable() else " " for letter in stem)
    words = re.sub(r"[_\s]+", " ", shown).strip()
    return words[:1].upper() + words[1:] if words else "Sound"


# Words that mean something else in the languages player code is written in.
RESERVED = frozenset(
    [
        "abstract",
        "and",
        "as",
        "assert",
        "async",
        "await",
        "base",
        "bool",
        "boolean",
        "break",
        "byte",
        "case",
        "catch",
        "char",
        "class",
        "const",
        "continue",
        "debugger",
        "def",
        "default",
        "defer",
        "del",
        "delegate",
        "delete",
        "do",
        "double",
        "elif",
        "else",
        "end",
        "enum",
        "event",
        "except",
        "export",
        "extends",
        "extern",
        "false",
        "final",
        "finally",
        "float",
        "fn",
        "for",
        "foreach",
        "from",
        "func",
        "function",
        "global",
        "goto",
        "guard",
        "if",
        "implements",
        "import",
        "in",
        "instanceof",
        "int",
        "interface",
        "internal",
        "is",
        "lambda",
        "let",
        "local",
        "long",
        "loop",
        "match",
        "module",
        "namespace",
        "new",
        "nil",
        "none",
        "nonlocal",
        "not",
        "null",
        "object",
        "operator",
        "or",
        "out",
        "override",
        "package",
        "pass",
        "private",
        "protected",
        "public",
        "raise",
        "readonly",
        "ref",
        "register",
        "repeat",
        "return",
        "self",
        "short",
        "signed",
        "sizeof",
        "static",
        "string",
        "struct",
        "super",
        "switch",
        "template",
        "then",
        "this",
        "throw",
        "throws",
        "trait",
        "true",
        "try",
        "type",
        "typedef",
        "typeof",
        "union",
        "unless",
        "unsigned",
        "until",
        "use",
        "using",
        "var",
        "virtual",
        "void",
        "volatile",
        "when",
        "where",
        "while",
        "with",
        "yield",
    ]
)
_CODE_NAME = re.compile(r"[a-zA-Z_][a-zA-Z0-9_]*")


def is_code_name(name: str) -> bool:
    """Whether it is an identifier in common languages and no word of theirs."""
    return bool(_CODE_NAME.fullmatch(name)) and name.lower() not in RESERVED


def code_name(name: str, taken: Collection[str]) -> str:
    """An identifier for player code, unlike those taken."""
    letters = unicodedata.normalize("NFKD", name.lower()).encode("ascii", "ignore").decode()
    plain = re.sub(r"[^a-z0-9]+", "_", letters).strip("_")
    if not plain or plain[0].isdigit() or plain in RESERVED:
        plain = f"sound_{plain}".rstrip("_")
    return free_name(plain, taken, "_")


def file_name(name: str) -> str:
    """What a file for something of that name is called on any disk, without a suffix."""
    letters = "".join(x if x.isprintable() and x not in '/\\:*?"<>|' else "-" for x in name)
    plain = letters.encode("utf-8", "ignore").decode().strip(" .")
    while len(plain.encode()) > 100:
        plain = plain[:-1].rstrip(" .")
    return plain or "untitled"


def file_names(names: Iterable[str]) -> list[str]:
    """A file name for each name, all different also where capitals do not count."""
    taken, found = set[str](), list[str]()
    for name in names:
        wanted = file_name(name)
        free, number = wanted, 1
        while free.casefold() in taken:
            number += 1
            free = f"{wanted} {number}"
        taken.add(free.casefold())
        found.append(free)
    return found


# One character or word at a time, so that no name takes long to match.
_NUMBERING = re.compile(
    r"(?:\(\d+\)|\(copy\)|\bcopy|\bfinal|\btake|\bedit|v(?=\d)|\d|[_\-.\s])+$", re.IGNORECASE
)


def likeness(name: str) -> str:
    """What names have in common that differ in numbering only: "Rain 02 (copy)" gives "rain"."""
    plain = _NUMBERING.sub("", name.strip())
    return re.sub(r"[\s_\-.]+", " ", plain or name).strip().lower()
