"""The quantities of a project and the limits that the file holds them to; times are in seconds."""

from typing import Annotated, Literal

from msgspec import Meta

Seconds = Annotated[float, Meta(ge=0, le=1e9)]
HIGHEST_LEVEL = 16
Level = Annotated[float, Meta(ge=0, le=HIGHEST_LEVEL)]
Pan = Annotated[float, Meta(ge=-1, le=1)]
Speed = Annotated[float, Meta(ge=0.1, le=10)]
Frame = Annotated[int, Meta(ge=0, le=2**53)]
Count = Annotated[int, Meta(ge=0, le=2**53)]
# What a file or its samples are known by; nothing else may be made a path of.
Hash = Annotated[str, Meta(pattern=r"^(blake2b:[0-9a-f]{40})?$(?!\n)")]
ShapeName = Literal["smooth", "step"]
# A place, a value and, if not straight, the shape of the stretch after it.
Point = Annotated[tuple[float | ShapeName, ...], Meta(min_length=2, max_length=3)]
Line = tuple[Point, ...]

Sync = Literal["locked", "free", "hold"]
IfSounding = Literal["on_top", "skip", "restart", "queue"]
FadeShape = Literal["linear", "power", "smooth"]
Target = Literal["layer", "sound", "all"]

WHOLE: tuple[float, None] = (0.0, None)
