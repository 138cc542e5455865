"""Ids and names for new parts of a project."""

import re
from collections.abc import Collection

from cicada.core.model import Project


def all_ids(project: Project) -> set[str]:
    """Every id in use in the project."""
    ids = {sound.id for sound in project.sounds}
    for scene in project.scenes:
        ids.add(scene.id)
        ids.update(layer.id for layer in scene.layers)
    return ids


def free_id(prefix: str, project: Project) -> str:
    """The first of prefix1, prefix2 ... that the project does not use."""
    taken = all_ids(project)
    number = 1
    while f"{prefix}{number}" in taken:
        number += 1
    return f"{prefix}{number}"


def free_name(wanted: str, taken: Collection[str], join: str = " ") -> str:
    """``wanted``, numbered behind ``join`` if it is taken."""
    number, name = 1, wanted
    while name in taken:
        number += 1
        name = f"{wanted}{join}{number}"
    return name


def readable_name(stem: str) -> str:
    """A name for people, from a file's name without its suffix."""
    words = re.sub(r"[_\s]+", " ", stem).strip()
    return words[:1].upper() + words[1:] if words else "Sound"


def code_name(name: str, taken: Collection[str]) -> str:
    """An identifier for player code, unlike those taken."""
    plain = re.sub(r"[^a-z0-9]+", "_", name.lower().encode("ascii", "ignore").decode()).strip("_")
    if not plain or plain[0].isdigit():
        plain = f"sound_{plain}".rstrip("_")
    return free_name(plain, taken, "_")
