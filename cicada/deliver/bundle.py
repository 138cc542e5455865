"""The film as a folder for any web page: the player, its page, what it reads and fetches."""

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote

import msgspec
from msgspec.structs import replace

from cicada.core.answers import Fire
from cicada.core.model import Clip, Project, Scene, clip_of
from cicada.core.naming import file_names
from cicada.core.needs import Need, needs
from cicada.core.placed import live_keyframes
from cicada.core.scoped import Asked
from cicada.core.stack import drawn_on
from cicada.core.timebase import decimal_ratio, round_half_up
from cicada.deliver.player_data import Placed, exact, placed_in

FORMAT, VERSION = "cicada-bundle", 1
PLAYER = Path(__file__).parent / "player"
# In the order they stand in: each needs only what comes before.
PARTS = (
    "exact", "picking", "placed", "state", "rules", "planner", "live", "lines", "mixer", "player",
    "loading",
)  # fmt: skip
SCRIPT, PAGE, FILM = "cicada-player.js", "index.html", "film.json"
SOUNDS, PICTURES = "sounds", "pictures"
# What is said to be the page, of the files that are made.
PAGE_KIND = "page"


class Piece(NamedTuple):
    """A sound that is fetched: what it is of, its length in samples, and when it is needed."""

    need: Need
    name: str
    length: int
    needed: int


class Image(NamedTuple):
    """A picture, from frame ``frame`` of its scene on."""

    scene: str
    frame: int
    name: str


class BundledSound(msgspec.Struct, frozen=True):
    """A sound's file: samples ``first`` to ``last`` of a sound, changed by ``speed``.

    ``file`` is where it stands, as a web address below the film's. It has ``samples`` at the
    film's rate, which are multiplied by ``gain``, and is ``needed`` first at that run sample.
    """

    sound: str
    first: int
    last: int
    speed: str
    file: str
    samples: int
    channels: int
    gain: float
    bytes: int
    needed: int


class PictureFiles(msgspec.Struct, frozen=True):
    """How large pictures are in pixels, and by scene from which frame on which file is shown."""

    width: int
    height: int
    scenes: dict[str, list[tuple[int, str]]]


class Bundle(msgspec.Struct, frozen=True):
    """What the player reads: the film and the run's conditions, with nothing left out."""

    format: str
    version: int
    name: str
    film: dict[str, Any]
    run: dict[str, Any]
    placed: list[Placed]
    sounds: list[BundledSound]
    picture: PictureFiles | None


def bundle_json(
    found: Asked, name: str, sounds: list[BundledSound], picture: PictureFiles | None
) -> bytes:
    """What the player reads, as JSON."""
    # Runs that were kept are nobody's business there.
    film = replace(found.project, runs=())
    made = Bundle(
        FORMAT, VERSION, name, exact(film), exact(found.run), placed_in(film), sounds, picture
    )
    return msgspec.json.encode(made)


def player_script() -> str:
    """The player: one classic script that is nothing but ``Cicada``."""
    parts = [(PLAYER / f"{name}.js").read_text("utf-8").rstrip() for name in PARTS]
    return (PLAYER / "head.txt").read_text("utf-8") + "\n\n".join(parts) + "\n}());\n"


def player_page() -> str:
    """The page a developer starts from."""
    return (PLAYER / "page.html").read_text("utf-8")


# -- sounds ----------------------------------------------------------------------------------------


def pieces_fetched(found: Asked, silent: frozenset[str], suffix: str) -> list[Piece]:
    """The sounds that may be heard of a film, each trim and speed once, in the order of need."""
    project = found.project
    starts: dict[tuple[str, int], int] = {}
    for voice in found.plan.voices:
        cell = voice.layer, voice.frame
        starts[cell] = min(starts.get(cell, voice.start), voice.start)
    clips: dict[tuple[object, ...], tuple[Clip, int]] = {}
    for clip, layer in _heard_clips(found, silent):
        # What a pad fires may be wanted at once; what does not sound in this run, at its end.
        at = starts.get((layer, clip.frame), found.plan.length) if layer else 0
        key = clip.sound, clip.trim, clip.speed
        clips[key] = clip, min(at, clips[key][1]) if key in clips else at
    needed: dict[Need, int] = {}
    for clip, at in clips.values():
        for need in needs(project, (clip,)):
            needed[need] = min(needed.get(need, at), at)
    wanted = sorted(needed, key=lambda need: needed[need])
    labels = [_called(project, need.sound) for need in wanted]
    return [
        Piece(need, f"{SOUNDS}/{name}{suffix}", _length(need), needed[need])
        for need, name in zip(wanted, file_names(labels), strict=True)
    ]


def _heard_clips(found: Asked, silent: frozenset[str]) -> Iterator[tuple[Clip, str]]:
    """Every clip that may sound, with its layer; none for what a pad fires."""
    for scene in _scenes(found):
        for layer in scene.layers:
            if layer.id not in silent:
                for keyframe in live_keyframes(scene, layer):
                    if isinstance(keyframe, Clip):
                        yield keyframe, layer.id
    for pad in found.project.pads:
        if not pad.off and pad.id not in silent:
            for deed in pad.does:
                if isinstance(deed, Fire):
                    yield clip_of(deed, 0), ""


def _scenes(found: Asked) -> list[Scene]:
    project, run = found.project, found.run
    if run.only_scene:
        return [project.scene(run.scene or project.scenes[0].id)]
    return list(project.scenes)


def _called(project: Project, sound: str) -> str:
    placed = project.placeable(sound)
    return placed.code_name or placed.label


def _length(need: Need) -> int:
    numerator, denominator = decimal_ratio(need.speed)
    return round_half_up((need.last - need.first) * denominator, numerator)


# -- pictures --------------------------------------------------------------------------------------


def images_fetched(found: Asked) -> list[Image]:
    """The pictures of a film: what stays the same from a frame to the next is one."""
    made = list[Image]()
    scenes = [scene for scene in _scenes(found) if scene.picture]
    for folder, scene in zip(file_names(scene.label for scene in scenes), scenes, strict=True):
        before: object = ()
        number = 0
        for frame in range(scene.length):
            drawn = drawn_on(scene, frame)
            if drawn != before:
                number += 1
                made.append(Image(scene.id, frame, f"{PICTURES}/{folder}/{number:05d}.webp"))
            before = drawn
    return made


def picture_files(images: Iterable[Image], width: int, height: int) -> PictureFiles:
    """How the player finds the pictures."""
    scenes: dict[str, list[tuple[int, str]]] = {}
    for image in images:
        scenes.setdefault(image.scene, []).append((image.frame, quote(image.name)))
    return PictureFiles(width, height, scenes)
