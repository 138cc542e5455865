"""What the player is told, and what it tells."""

from typing import NamedTuple

from msgspec import Struct

from cicada.core.model import Project
from cicada.core.plan import Plan


class Load(Struct, frozen=True, tag="load"):
    """Use this plan from now on; a film that is playing goes on at the same frame of it.

    ``files`` says where each sound's file stands, ``silent`` which layers are not heard.
    """

    project: Project
    plan: Plan
    files: dict[str, str]
    silent: tuple[str, ...] = ()


class Play(Struct, frozen=True, tag="play"):
    """Play the plan from run sample ``start``; with ``repeat``, ``first..last`` again and again."""

    start: int
    repeat: tuple[int, int] | None = None


class Repeat(Struct, frozen=True, tag="repeat"):
    """Change what is repeated, without stopping."""

    repeat: tuple[int, int] | None


class Scrub(Struct, frozen=True, tag="scrub"):
    """Let the run's samples ``start..end`` be heard once."""

    start: int
    end: int


class Listen(Struct, frozen=True, tag="listen"):
    """Play a sound of the cache from its sample ``start``, once through, at ``gain``."""

    key: str
    gain: float = 1.0
    start: int = 0


class Stop(Struct, frozen=True, tag="stop"):
    """Silence everything."""


class Quit(Struct, frozen=True, tag="quit"):
    """Stop and let go of the device."""


Message = Load | Play | Repeat | Scrub | Listen | Stop | Quit

IDLE, FILM, SCRUBBING, LISTENING = range(4)


class Status(NamedTuple):
    """Where the player is: ``sample`` is the run sample audible at ``clock`` (monotonic seconds).

    While listening it is the sound's own. ``plays`` counts the Play and Listen messages up to
    what is audible.
    """

    doing: int
    sample: float
    clock: float
    peak_left: float
    peak_right: float
    real: bool
    rate: int
    plays: int
