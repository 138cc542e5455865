"""What the keeper of the cabinet is told, and what it tells."""

from msgspec import Struct

from cicada.cabinet.index import Own


class AddFolder(Struct, frozen=True, tag="add-folder"):
    """Watch a folder."""

    path: str


class RemoveFolder(Struct, frozen=True, tag="remove-folder"):
    """Watch a folder no more."""

    folder: int


class Say(Struct, frozen=True, tag="say"):
    """What a person says of sounds: each hash with its tags, note, terms and star."""

    own: tuple[Own, ...]


class Pause(Struct, frozen=True, tag="pause"):
    """There is other work: measure nothing meanwhile."""

    on: bool


class Leave(Struct, frozen=True, tag="leave"):
    """End."""


Told = AddFolder | RemoveFolder | Say | Pause | Leave


class Progress(Struct, frozen=True):
    """How far it is: files in all, those not read and those not measured yet; its newest stamp.

    ``said`` is what a person should hear of it.
    """

    files: int
    unread: int
    unmeasured: int
    stamp: int
    said: str = ""
