"""What answers in a film: values, and blends, pools and playlists that follow them, and pads.

Part of the project's model. Field order is the file's key order.
"""

from typing import Annotated, Literal

from msgspec import Meta, Struct, field

from cicada.core.parts import Named, Part, Shelved
from cicada.core.values import (
    WHOLE,
    Count,
    FadeShape,
    Frame,
    IfSounding,
    Level,
    Line,
    Pan,
    Seconds,
    Speed,
)

Range = tuple[float, float]
"""From a number to another one, which is higher."""


class Value(Named, frozen=True, kw_only=True):
    """A number with a name that other things follow, from ``low`` to ``high``."""

    low: float = field(name="from", default=0.0)
    high: float = field(name="to", default=1.0)
    start: float | None = None

    @property
    def begins(self) -> float:
        """What it is where nothing is drawn and nothing was given."""
        return self.low if self.start is None else self.start


class Follows(Part, frozen=True, kw_only=True):
    """A gain that follows a value: straight between points, flat outside."""

    value: str
    points: tuple[tuple[float, Level], ...]


class BlendPart(Part, frozen=True, kw_only=True):
    """A sound or playlist, and the number at which it alone is heard."""

    sound: str
    at: float


class Blend(Shelved, frozen=True, kw_only=True):
    """One piece in several strengths that start together; a value says which are heard."""

    value: str
    curve: Literal["power", "linear"] = "power"
    parts: Annotated[tuple[BlendPart, ...], Meta(min_length=2)]


class PoolPart(Part, frozen=True, kw_only=True):
    """What may be drawn from a pool: how likely, and while which value is in which range."""

    sound: str
    weight: Annotated[float, Meta(gt=0)] = 1.0
    value: str | None = None
    range: Range | None = field(name="while", default=None)


class Pool(Shelved, frozen=True, kw_only=True):
    """Sounds of which one is drawn each time; ``other`` leaves out what was drawn last."""

    again: Literal["any", "other"] = "any"
    parts: Annotated[tuple[PoolPart, ...], Meta(min_length=1)]


class PlaylistPart(Part, frozen=True, kw_only=True):
    """A piece of a playlist; the next begins under the last ``tail`` seconds of it."""

    sound: str
    loops: Annotated[int, Meta(ge=1, le=2**53)] = 1
    tail: Seconds = 0.0


class Playlist(Shelved, frozen=True, kw_only=True):
    """Pieces in a row, each starting under the ringing end of the one before."""

    parts: Annotated[tuple[PlaylistPart, ...], Meta(min_length=1)]


class _Deed(
    Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True,
    tag_field="do",
):  # fmt: skip
    """Something a pad does when it acts."""


class HushDeed(_Deed, frozen=True, kw_only=True, tag="hush"):
    """Silence what the target names, over ``fade`` seconds."""

    target: Literal["pad", "sound", "all"] = "pad"
    sound: str | None = None
    fade: Seconds = 0.0


class Fire(_Deed, frozen=True, kw_only=True, tag="fire"):
    """Place a clip now; it is free, and rings."""

    sound: str
    loops: Count = 1
    if_sounding: IfSounding = "on_top"
    busy: Literal["sound", "layer"] = "sound"
    gap: Seconds = 0.0
    hand_over: Seconds = 0.0
    delay: Seconds = 0.0
    trim: tuple[Seconds, Seconds | None] = WHOLE
    offset: Seconds = 0.0
    loop_overlap: Seconds = 0.0
    speed: Speed = 1.0
    level: Level = 1.0
    pan: Pan = 0.0
    level_line: Line = ()
    pan_line: Line = ()
    line_over: Literal["run", "loop"] = "run"
    fade_in: Seconds = 0.0
    fade_out: Seconds = 0.0
    fade_shape: FadeShape = "linear"


class GlideDeed(_Deed, frozen=True, kw_only=True, tag="glide"):
    """Move a value to a number, or back to its line, over some seconds."""

    value: str
    to: float | None = None
    over: Seconds = 0.0


class GoOn(_Deed, frozen=True, kw_only=True, tag="go_on"):
    """Let the picture go on at a press point: now, or when the pad is over."""

    when: Literal["now", "over"] = "now"


Deed = HushDeed | Fire | GlideDeed | GoOn


class Watch(Part, frozen=True, kw_only=True):
    """A pad acts as the value comes into a range."""

    value: str
    enters: Range


class Zone(Part, frozen=True, kw_only=True):
    """A part of the picture that is clicked: x, y, width and height as parts of the whole."""

    scene: str
    frames: tuple[Frame, Frame]
    at: tuple[float, float, float, float]


class Pad(Named, frozen=True, kw_only=True):
    """A layer that no frame fires: it acts when it is pressed, or as a value changes."""

    off: bool = False
    mute: bool = False
    solo: bool = False
    level: Level = 1.0
    pan: Pan = 0.0
    past_scene: bool = True
    follows: Follows | None = None
    at_start: bool = False
    watch: Watch | None = None
    key: str | None = None
    zone: Zone | None = None
    message: str | None = None
    does: tuple[Deed, ...] = ()


class Input(Part, frozen=True, kw_only=True):
    """What was done at run sample ``at``: a pad pressed, a value moved, or nothing."""

    at: Count
    pad: str | None = None
    value: str | None = None
    to: float | None = None
    over: Seconds = 0.0
