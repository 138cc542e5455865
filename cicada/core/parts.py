"""What every part of a project is made of, and what those with a name of their own have."""

from msgspec import Struct


class Part(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """A part of the project."""


class Named(Part, frozen=True, kw_only=True):
    """A part with an id of its own and a name for people."""

    id: str
    name: str = ""

    @property
    def label(self) -> str:
        """What people call it."""
        return self.name or self.id


class Shelved(Named, frozen=True, kw_only=True):
    """What stands on the shelf and is not a sound itself, but made of sounds."""

    code_name: str = ""
    folder: str = ""
    tags: tuple[str, ...] = ()
    note: str = ""
