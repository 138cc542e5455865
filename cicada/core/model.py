"""The project: frozen structs that are at once the document, the file's schema and its limits.

Field order is the file's key order; fields at their default are left out of the file.
Times are seconds, except points of ``Layer.line`` and ``Scene.master``, which are frames.
"""

from collections.abc import Iterator
from typing import Annotated, Literal

from msgspec import Meta, Struct, field
from msgspec.structs import force_setattr

from cicada.core.answers import Blend, Fire, Follows, Input, Pad, Playlist, Pool, Value
from cicada.core.made import Making, made_key
from cicada.core.parts import Named, Part
from cicada.core.picture_parts import PicturePart
from cicada.core.recipes import AnyRecipe
from cicada.core.timebase import Timebase
from cicada.core.values import (
    WHOLE,
    Count,
    FadeShape,
    Frame,
    Hash,
    IfSounding,
    Level,
    Line,
    Pan,
    Seconds,
    Speed,
    Sync,
    Target,
)

FORMAT = "cicada-project"
VERSION = 4

MAX_LENGTH = 2_000_000


class Clip(
    Struct,
    frozen=True,
    kw_only=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    tag_field="kind",
    tag="clip",
):
    """A keyframe that places a sound."""

    frame: Frame
    off: bool = False
    sound: str
    sync: Sync = "free"
    loops: Count = 1
    if_sounding: IfSounding = "on_top"
    busy: Literal["sound", "layer"] = "sound"
    gap: Seconds = 0.0
    hand_over: Seconds = 0.0
    ends: Literal["ring", "span"] = "ring"
    release: Seconds = 0.0
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

    def __post_init__(self) -> None:
        # The writer leaves out what *is* the default, so an equal trim must be that object.
        if self.trim is not WHOLE and self.trim == WHOLE:
            force_setattr(self, "trim", WHOLE)


class Rest(
    Struct,
    frozen=True,
    kw_only=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    tag_field="kind",
    tag="rest",
):
    """A keyframe that places nothing; it ends the span before it."""

    frame: Frame
    off: bool = False


class Hush(
    Struct,
    frozen=True,
    kw_only=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    tag_field="kind",
    tag="hush",
):
    """A keyframe that silences what its target names, over ``fade`` seconds."""

    frame: Frame
    off: bool = False
    target: Target = "layer"
    sound: str | None = None
    fade: Seconds = 0.0


Keyframe = Clip | Rest | Hush


class Layer(Named, frozen=True, kw_only=True):
    """A row of keyframes, at most one a frame, in any order."""

    off: bool = False
    mute: bool = False
    solo: bool = False
    guarded: bool = False
    level: Level = 1.0
    pan: Pan = 0.0
    line: Line = ()
    past_scene: bool = True
    follows: Follows | None = None
    keyframes: tuple[Keyframe, ...]


class PressPoint(Part, frozen=True, kw_only=True):
    """A frame where the picture waits for a press, or until ``after`` seconds are over."""

    frame: Frame
    label: str = ""
    after: Seconds | None = None


class Mark(Part, frozen=True, kw_only=True):
    """A frame worth remembering."""

    frame: Frame
    text: str = ""


class Tempo(Part, frozen=True, kw_only=True):
    """From ``frame`` plus ``offset`` seconds on, a beat falls every 60/``bpm`` seconds."""

    frame: Frame
    bpm: Annotated[float, Meta(gt=0, le=1000)]
    offset: Seconds = 0.0


class Scene(Named, frozen=True, kw_only=True):
    """A stretch of picture with its layers, top first; the parts of its picture go bottom up."""

    length: Annotated[int, Meta(ge=1, le=MAX_LENGTH)]
    press_points: tuple[PressPoint, ...] = ()
    marks: tuple[Mark, ...] = ()
    tempo: tuple[Tempo, ...] = ()
    master: Line = ()
    value_lines: dict[str, Line] = field(default_factory=dict)
    picture: tuple[PicturePart, ...] = ()
    layers: tuple[Layer, ...]

    def layer(self, layer_id: str) -> Layer:
        """The layer of that id; ``KeyError`` if there is none."""
        for layer in self.layers:
            if layer.id == layer_id:
                return layer
        raise KeyError(layer_id)


class Take(Part, frozen=True, kw_only=True):
    """A take of a sound that is not in use."""

    name: str = ""
    file: str = ""
    kept: Literal["inside", "linked"] = "inside"
    hash: Hash = ""
    pcm_hash: Hash = ""
    frames: Count
    rate: Annotated[int, Meta(ge=1, le=1_000_000)]
    channels: Annotated[int, Meta(ge=1, le=4096)]
    encoding: str = ""


class Sound(Named, frozen=True, kw_only=True):
    """One imported piece of audio: ``frames`` sample frames at its own ``rate``."""

    code_name: str = ""
    file: str = ""
    kept: Literal["inside", "linked"] = "inside"
    hash: Hash = ""
    pcm_hash: Hash = ""
    frames: Count
    rate: Annotated[int, Meta(ge=1, le=1_000_000)]
    channels: Annotated[int, Meta(ge=1, le=4096)]
    encoding: str = ""
    origin: str = ""
    terms: str = ""
    folder: str = ""
    tags: tuple[str, ...] = ()
    note: str = ""
    hits: tuple[Seconds, ...] = ()
    takes: tuple[Take, ...] = ()
    making: Making | None = None

    @property
    def content(self) -> str:
        """What its samples are known by: its file's hash, or how it was made here."""
        return self.hash if self.making is None else made_key(self.making)


def all_takes(sound: Sound) -> tuple[Sound | Take, ...]:
    """The sound, for the take that is in use, and its other takes."""
    return (sound, *sound.takes)


class Style(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """A clip's settings under a name; ``None`` leaves a setting as it is."""

    name: str
    sync: Sync | None = None
    loops: Count | None = None
    if_sounding: IfSounding | None = None
    busy: Literal["sound", "layer"] | None = None
    gap: Seconds | None = None
    hand_over: Seconds | None = None
    ends: Literal["ring", "span"] | None = None
    release: Seconds | None = None
    delay: Seconds | None = None
    trim: tuple[Seconds, Seconds | None] | None = None
    offset: Seconds | None = None
    loop_overlap: Seconds | None = None
    speed: Speed | None = None
    level: Level | None = None
    pan: Pan | None = None
    level_line: Line | None = None
    pan_line: Line | None = None
    line_over: Literal["run", "loop"] | None = None
    fade_in: Seconds | None = None
    fade_out: Seconds | None = None
    fade_shape: FadeShape | None = None


Placeable = Sound | Blend | Pool | Playlist
"""What a clip may place: it stands on the shelf."""


class KeptRun(Part, frozen=True, kw_only=True):
    """A run that was played and is kept by name; ``delay`` is how late in seconds it was heard."""

    name: str
    delay: Seconds = 0.0
    scene: str | None = None
    frame: Frame = 0
    only_scene: bool = False
    passes: Annotated[int, Meta(ge=0, le=1_000_000)] = 1
    chase: bool = True
    press_points: Literal["pass", "wait"] = "pass"
    presses: tuple[Count, ...] = ()
    inputs: tuple[Input, ...] = ()
    seed: int | None = None
    draw_time: "DrawTime | dict[str, DrawTime]" = 0.0
    tail: Literal["ring", "cut"] = "ring"
    limit: Seconds | None = None

    def run(self) -> "Run":
        """Its conditions."""
        return Run(**{name: getattr(self, name) for name in Run.__struct_fields__})


class Project(Part, frozen=True, kw_only=True):
    """A whole project, scenes in order."""

    format: Literal["cicada-project"]
    version: int
    name: str = ""
    fps: tuple[Annotated[int, Meta(ge=1, le=2**31)], Annotated[int, Meta(ge=1, le=2**31)]]
    rate: Annotated[int, Meta(ge=8000, le=192_000)]
    first_frame: Annotated[int, Meta(ge=-(2**53), le=2**53)] = 1
    plays: Count = 1
    level: Level = 1.0
    seed: int = 1
    styles: tuple[Style, ...] = ()
    sounds: tuple[Sound, ...]
    blends: tuple[Blend, ...] = ()
    pools: tuple[Pool, ...] = ()
    playlists: tuple[Playlist, ...] = ()
    values: tuple[Value, ...] = ()
    pads: tuple[Pad, ...] = ()
    runs: tuple[KeptRun, ...] = ()
    recipes: tuple[AnyRecipe, ...] = ()
    scenes: Annotated[tuple[Scene, ...], Meta(min_length=1)]

    @property
    def timebase(self) -> Timebase:
        """Its frames against its samples."""
        return Timebase(self.fps[0], self.fps[1], self.rate)

    def shown(self, frame: int) -> int:
        """The number people read for a frame of a scene, which count from ``first_frame``."""
        return frame + self.first_frame

    def sound(self, sound_id: str) -> Sound:
        """The sound of that id; ``KeyError`` if there is none."""
        for sound in self.sounds:
            if sound.id == sound_id:
                return sound
        raise KeyError(sound_id)

    def placeable(self, placed: str) -> Placeable:
        """The sound, blend, pool or playlist of that id; ``KeyError`` if there is none."""
        for group in (self.sounds, self.blends, self.pools, self.playlists):
            for each in group:
                if each.id == placed:
                    return each
        raise KeyError(placed)

    def all_placeables(self) -> Iterator[Placeable]:
        """All that a clip may place, sounds first."""
        yield from self.sounds
        yield from self.blends
        yield from self.pools
        yield from self.playlists

    def pad(self, pad_id: str) -> Pad:
        """The pad of that id; ``KeyError`` if there is none."""
        for pad in self.pads:
            if pad.id == pad_id:
                return pad
        raise KeyError(pad_id)

    def heard_on(self, place: str) -> Layer | Pad:
        """The layer or pad of that id, as a voice names it; ``KeyError`` if there is none."""
        for pad in self.pads:
            if pad.id == place:
                return pad
        return self.layer(place)[1]

    def value(self, value_id: str) -> Value:
        """The value of that id; ``KeyError`` if there is none."""
        for value in self.values:
            if value.id == value_id:
                return value
        raise KeyError(value_id)

    def recipe(self, recipe_id: str) -> AnyRecipe:
        """The recipe of that id; ``KeyError`` if there is none."""
        for recipe in self.recipes:
            if recipe.id == recipe_id:
                return recipe
        raise KeyError(recipe_id)

    def scene(self, scene_id: str) -> Scene:
        """The scene of that id; ``KeyError`` if there is none."""
        for scene in self.scenes:
            if scene.id == scene_id:
                return scene
        raise KeyError(scene_id)

    def all_layers(self) -> Iterator[tuple[Scene, Layer]]:
        """Every layer with its scene, in order."""
        for scene in self.scenes:
            for layer in scene.layers:
                yield scene, layer

    def layer(self, layer_id: str) -> tuple[Scene, Layer]:
        """The layer of that id and its scene; ``KeyError`` if there is none."""
        for scene, layer in self.all_layers():
            if layer.id == layer_id:
                return scene, layer
        raise KeyError(layer_id)


DrawTime = Seconds | tuple[Seconds, ...]
"""How long drawing one picture takes: every one, or each in turn by its frame."""


class Run(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """The conditions of one run."""

    scene: str | None = None
    frame: Frame = 0
    only_scene: bool = False
    passes: Annotated[int, Meta(ge=0, le=1_000_000)] = 1
    chase: bool = True
    press_points: Literal["pass", "wait"] = "pass"
    presses: tuple[Count, ...] = ()
    inputs: tuple[Input, ...] = ()
    seed: int | None = None
    draw_time: DrawTime | dict[str, DrawTime] = 0.0
    tail: Literal["ring", "cut"] = "ring"
    limit: Seconds | None = None


def clip_of(fire: Fire, frame: int) -> Clip:
    """The clip that a pad's fire places, on the frame the picture is on then."""
    return Clip(frame=frame, **{name: getattr(fire, name) for name in fire.__struct_fields__})


def lowest_version(project: Project) -> int:
    """The lowest version of the file that holds a project."""
    if project.recipes:
        return 4
    if any(sound.making is not None for sound in project.sounds):
        return 3
    return 2 if is_live(project) else 1


def is_live(project: Project) -> bool:
    """Whether a project has anything of what version 2 brought."""
    if project.seed != 1 or any(
        (project.blends, project.pools, project.playlists, project.values, project.pads)
    ):
        return True
    return (
        bool(project.runs)
        or any(
            scene.value_lines or any(map(_layer_is_live, scene.layers)) for scene in project.scenes
        )
        or any(style.hand_over is not None for style in project.styles)
    )


def _layer_is_live(layer: Layer) -> bool:
    return layer.follows is not None or any(
        isinstance(keyframe, Clip) and keyframe.hand_over for keyframe in layer.keyframes
    )


def keyframe_at(layer: Layer, frame: int) -> Keyframe | None:
    """The keyframe on ``frame``, switched off or not."""
    for keyframe in layer.keyframes:
        if keyframe.frame == frame:
            return keyframe
    return None


def empty_project(
    name: str, fps: tuple[int, int] = (24, 1), rate: int = 48000, length: int = 240
) -> Project:
    """A project with one scene and one layer, ready for its first sound."""
    return Project(
        format="cicada-project",
        version=1,
        name=name,
        fps=fps,
        rate=rate,
        sounds=(),
        scenes=(
            Scene(
                id="sc1",
                name="Scene 1",
                length=length,
                layers=(Layer(id="l1", name="Layer 1", keyframes=()),),
            ),
        ),
    )
