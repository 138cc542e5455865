"""Recipes: what is delivered of a film, how it is written, and what is promised of it.

A recipe names only places below the folder that is chosen when it is delivered.
"""

from typing import Annotated, Literal, get_args

from msgspec import Meta

from cicada.core.parts import Named, Part
from cicada.core.values import Frame

SoundKind = Literal["wav", "flac", "vorbis", "opus", "mp3", "aiff", "caf"]
Bits = Literal[16, 24, 32]
Tail = Literal["ring", "cut", "fold", "steady"]
DataForm = Literal["json", "csv", "captions", "timeline", "midi", "levels"]
ALL_FORMS: tuple[DataForm, ...] = get_args(DataForm)
Place = Annotated[str, Meta(max_length=200)]
Share = Annotated[float, Meta(ge=0, le=1)]
Decibels = Annotated[float, Meta(ge=-120, le=20)]
MOST_PASSES = 1000


class Encoding(Part, frozen=True, kw_only=True):
    """How sound is written; ``rate`` None is the project's.

    ``bits`` (32: floating point) mean nothing where it is compressed with loss, ``quality`` nothing
    elsewhere.
    """

    kind: SoundKind = "wav"
    bits: Bits = 24
    quality: Share = 0.6
    rate: Annotated[int, Meta(ge=8000, le=192_000)] | None = None
    mono: bool = False

    @property
    def lossy(self) -> bool:
        """Whether what is read back is not what was written."""
        return self.kind in ("vorbis", "opus", "mp3")

    @property
    def whole_numbers(self) -> bool:
        """Whether samples are written as whole numbers of ``bits``."""
        return not self.lossy and self.bits != 32


class Loud(Part, frozen=True, kw_only=True):
    """How loud it is to be, by gain alone: the aim in dB of true peak or in LUFS.

    ``ceiling`` is the true peak in dB that the decoded file keeps below, whatever is aimed at.
    """

    aim: Literal["none", "peak", "loudness"] = "none"
    target: Decibels = -1.0
    ceiling: Decibels | None = None


class Scope(Part, frozen=True, kw_only=True):
    """What of the film is delivered, and how it ends.

    A kept run (``run``, by name), or a scene (None: all), or its frames ``first`` to ``last``. What
    rings past the end is left to ring, cut, or folded over the beginning; ``steady`` is the first
    pass from which all are alike, with what rings into it.
    """

    run: str | None = None
    scene: str | None = None
    first: Frame = 0
    last: Frame | None = None
    passes: Annotated[int, Meta(ge=1, le=MOST_PASSES)] = 1
    tail: Tail = "ring"
    seed: int | None = None


class Recipe(Named, frozen=True, kw_only=True, tag_field="what"):
    """What all recipes have; ``place`` is where below the folder it goes (empty: by its name)."""

    place: Place = ""
    scope: Scope = Scope()


class MixRecipe(Recipe, frozen=True, kw_only=True, tag="mix"):
    """The mix in one file."""

    encoding: Encoding = Encoding()
    loud: Loud = Loud()


class StemsRecipe(Recipe, frozen=True, kw_only=True, tag="stems"):
    """The mix in parts that sum to it, a file each, all by one gain."""

    by: Literal["layer", "folder", "sound"] = "layer"
    encoding: Encoding = Encoding()
    loud: Loud = Loud()


class TrimmedRecipe(Recipe, frozen=True, kw_only=True, tag="trimmed"):
    """Each sound in use as its clips shape it, once for each shape, for player code.

    Where they ``share``, each sound is there once and whole, and all shaping is left to the player.
    """

    encoding: Encoding = Encoding()
    share: bool = False


class DataRecipe(Recipe, frozen=True, kw_only=True, tag="data"):
    """What the plan says, for player code and other programs."""

    forms: tuple[DataForm, ...] = ("json",)


class VideoRecipe(Recipe, frozen=True, kw_only=True, tag="video"):
    """The picture with its sound; without a picture, its waveform.

    ``height`` None is the picture's own. Where the picture stands still it does so in a frame as
    long as that (``true``), or in ``even`` ones.
    """

    kind: Literal["mp4", "webm"] = "mp4"
    height: Annotated[int, Meta(ge=16, le=4320)] | None = None
    waits: Literal["true", "even"] = "true"
    quality: Share = 0.7
    rate: Annotated[int, Meta(ge=8000, le=192_000)] | None = None
    mono: bool = False
    loud: Loud = Loud()


class SheetRecipe(Recipe, frozen=True, kw_only=True, tag="sheet"):
    """The sheet on paper: frames down the page, a column for each layer."""

    paper: Literal["a4", "letter"] = "a4"


class BundleRecipe(Recipe, frozen=True, kw_only=True, tag="bundle"):
    """The film as a folder that plays in any web page, by the same rules and with all that answers.

    Without ``picture`` the page draws the frames itself; ``height`` None is the picture's own.
    ``endless``: pass after pass.
    """

    encoding: Encoding = Encoding(kind="flac")
    picture: bool = True
    height: Annotated[int, Meta(ge=16, le=4320)] | None = None
    endless: bool = False


AnyRecipe = (
    MixRecipe | StemsRecipe | TrimmedRecipe | DataRecipe | VideoRecipe | SheetRecipe | BundleRecipe
)
