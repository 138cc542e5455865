"""What the player is told, and what it tells."""

from typing import NamedTuple

from msgspec import Struct

from cicada.core.answers import Input
from cicada.core.model import Project, Run
from cicada.core.plan import Plan


class Load(Struct, frozen=True, tag="load"):
    """Use this plan from now on; a film that is playing goes on at the same frame of it.

    A hand scrubs through ``plan``; ``played`` is played, where that is another one.

    ``files`` says where each sound's file stands, ``silent`` which layers are not heard. A run
    that is ``live`` is planned as waiting for its next press, and planned anew when that comes.
    Meters tell its ``number`` with the peaks of its layers.
    """

    project: Project
    plan: Plan
    files: dict[str, str]
    silent: tuple[str, ...] = ()
    number: int = 0
    played: Plan | None = None
    live: Run | None = None


class CountIn(Struct, frozen=True, tag="count-in"):
    """Clicks at so many samples, and after ``length`` of them what is counted in."""

    clicks: tuple[int, ...]
    length: int


class Count(Struct, frozen=True, tag="count"):
    """Count in while nothing is played; ``Began`` says when that is over."""

    count_in: CountIn


class Probe(Struct, frozen=True, tag="probe"):
    """Sound the probe, by which the way from output to input is measured."""


class Play(Struct, frozen=True, tag="play"):
    """Play the plan from run sample ``start``.

    With ``repeat``, ``first..last`` is played ``rounds`` times, or again and again (0); with
    ``drawn`` all that is meant of the plan that a hand scrubs through. It is counted in first;
    if it is not ``heard``, it goes on in silence. ``Began`` says when.
    """

    start: int
    repeat: tuple[int, int] | None = None
    rounds: int = 0
    drawn: bool = False
    count_in: CountIn | None = None
    heard: bool = True


class Repeat(Struct, frozen=True, tag="repeat"):
    """Change what is repeated, without stopping."""

    repeat: tuple[int, int] | None
    rounds: int = 0


class Pace(Struct, frozen=True, tag="pace"):
    """How fast films are played (1, or less), at their own pitch or deeper."""

    pace: float
    at_pitch: bool


class Press(Struct, frozen=True, tag="press"):
    """A press: where the picture waits for one it goes on."""


class Give(Struct, frozen=True, tag="give"):
    """A pad is pressed or a value moved in the run that is played; its moment is the player's.

    ``Given`` says its ``number`` when it counts.
    """

    input: Input
    number: int = 0


class Quick(Struct, frozen=True, tag="quick"):
    """Hand over little ahead, for pads are pressed; or as much as is safe."""

    on: bool


class Mute(Struct, frozen=True, tag="mute"):
    """The clips, by layer and frame, that are not heard for now."""

    clips: tuple[tuple[str, int], ...]


class Meter(Struct, frozen=True, tag="meter"):
    """The layer to be measured closely; empty: none."""

    layer: str


class Step(Struct, frozen=True, tag="step"):
    """Let the run's samples ``start..end`` be heard once."""

    start: int
    end: int


class Scrub(Struct, frozen=True, tag="scrub"):
    """A hand is on the frame that lasts from run sample ``start`` to ``end``."""

    start: int
    end: int


class LetGo(Struct, frozen=True, tag="let-go"):
    """The hand has let go."""


class Beep(Struct, frozen=True, tag="beep"):
    """A beep at every second."""


class UseDevice(Struct, frozen=True, tag="device"):
    """Play to the device of that name while it is there; empty for the system's own choice."""

    name: str


class Listen(Struct, frozen=True, tag="listen"):
    """Play a sound of the cache from its sample ``start``, once through, at ``gain``.

    With ``others`` they sound together, each at its part of ``shares``.
    """

    key: str
    gain: float = 1.0
    start: int = 0
    others: tuple[str, ...] = ()
    shares: tuple[float, ...] = (1.0,)


class Share(Struct, frozen=True, tag="share"):
    """Let what is listened to together sound at other gains from now on."""

    shares: tuple[float, ...]


class Stop(Struct, frozen=True, tag="stop"):
    """Silence everything."""


class Quit(Struct, frozen=True, tag="quit"):
    """Stop and let go of the device."""


Message = (
    Load | Play | Repeat | Pace | Press | Give | Mute | Meter | Step | Scrub | LetGo | Beep
    | Quick | UseDevice | Listen | Share | Count | Probe | Stop | Quit
)  # fmt: skip


class Pressed(Struct, frozen=True, tag="pressed"):
    """A press has been counted, at this run sample."""

    sample: int


class Given(Struct, frozen=True, tag="given"):
    """What was given has been counted, at its moment of the run."""

    input: Input
    number: int = 0


class Buffered(Struct, frozen=True, tag="buffered"):
    """So many seconds are handed over ahead from now on; ``missed`` says that less was too few."""

    seconds: float
    missed: bool


class Device(NamedTuple):
    """An output: its name for the system and for people, and whether it is the system's choice."""

    name: str
    title: str
    default: bool = False


class Devices(Struct, frozen=True, tag="devices"):
    """The outputs there are, and the one in use (of no name if it is silent, with the reason)."""

    there: tuple[Device, ...]
    used: str
    trouble: str = ""


class Began(Struct, frozen=True, tag="began"):
    """What was asked for begins, at ``sample``, with the ``written``-th sample handed over.

    ``plays`` counts what has been asked for.
    """

    sample: int
    written: int
    plays: int


Report = Pressed | Given | Buffered | Devices | Began

IDLE, FILM, SCRUBBING, LISTENING, TESTING, COUNTING = range(6)


class Status(NamedTuple):
    """Where the player is: ``sample`` is the run sample audible at ``clock`` (monotonic seconds).

    While listening it is the sound's own. It moves on by ``pace`` of a sample in the time of one.
    ``plays`` counts the messages that begin something, up to what is audible, ``missed`` the
    blocks that were not there in time, and ``written`` the samples handed over up to what is
    audible.
    """

    doing: int
    sample: float
    clock: float
    real: bool
    rate: int
    plays: int
    pace: float
    missed: int
    written: float
