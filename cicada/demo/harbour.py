"""Lays out "Harbour light": every kind of keyframe and sync, and two deliberate mistakes.

Its storm is a room of its own.
"""

import os
import tempfile
from pathlib import Path

from msgspec.structs import replace

from cicada.core.model import (
    VERSION,
    Clip,
    Hush,
    Keyframe,
    Layer,
    Mark,
    PressPoint,
    Project,
    Rest,
    Scene,
)
from cicada.core.picture_parts import Images, Still
from cicada.demo.leaving import RECIPES
from cicada.demo.pictures import make_pictures, make_title
from cicada.demo.sounds import make_sounds
from cicada.demo.storm import BLENDS, PADS, PLAYLISTS, POOLS, RUNS, VALUES, storm
from cicada.disk.paths import is_there
from cicada.errors import BadProject, CannotWrite
from cicada.media.cache import user_cache
from cicada.media.ingest import ingest
from cicada.store.folders import data_folder
from cicada.store.importing import new_sound
from cicada.store.projectfile import load, save

LIGHT, WELL, SWEEP, BUOY, DISTANT, RAIN, WAVES, HORN, TAP, HUM, GULL = (
    f"s{number}" for number in range(1, 12)
)
NAMES = {
    LIGHT: "Keeper: “light on the water”",
    WELL: "Keeper: “all's well”",
    HORN: "Foghorn",
    HUM: "Wing hum",
}
FOLDERS = {LIGHT: "Keeper", WELL: "Keeper", BUOY: "Water", DISTANT: "Water", WAVES: "Water"}
FOLDERS |= {f"s{number}": "Storm" for number in range(12, 19)}


def demo_folder() -> Path:
    """Where the demo stands for this user (``CICADA_DATA`` names another data folder)."""
    return data_folder() / "demo"


# The title comes and goes over the dusk, rising a little.
TITLE = Still(
    file="", start=8, shown=46, place=(0.64, 0.2, 0.56), moves_to=(0.64, 0.16, 0.6),
    dissolve_in=14, dissolve_out=14,
)  # fmt: skip


def make_demo(folder: Path) -> Path:
    """Make the demo in ``folder`` unless it is there; its project file.

    Raises ``CannotWrite``. A demo that is there already is left exactly as it is.
    """
    project_file = folder / "harbour.cicada"
    if is_there(project_file):
        return project_file
    try:
        folder.mkdir(parents=True, exist_ok=True)
        pictures = make_pictures(folder / "harbour.pictures")
        title = make_title(folder / "harbour.pictures" / "title.svg")
        with tempfile.TemporaryDirectory() as made:
            project = _with_sounds(_layout(), make_sounds(Path(made)), project_file)
    except OSError as error:
        raise CannotWrite(
            f"cannot be written ({error.strerror})",
            file=str(folder),
            remedy="choose another folder",
        ) from None
    first, *others = (
        replace(scene, picture=(Images(folder=os.path.relpath(place, folder)),))
        for scene, place in zip(project.scenes, pictures, strict=True)
    )
    over = replace(TITLE, file=os.path.relpath(title, folder))
    scenes = (replace(first, picture=(*first.picture, over)), *others)
    save(replace(project, scenes=scenes), project_file)
    return project_file


def said_of(project_file: Path) -> str:
    """What to say of a demo that lacks scenes of today's; empty if there is nothing to say."""
    try:
        there = {scene.id for scene in load(project_file).scenes}
    except BadProject:
        return ""
    missing = [scene.label for scene in _layout().scenes if scene.id not in there]
    if not missing:
        return ""
    return (
        f"This demo, {project_file}, has been here for longer and is kept as it is: "
        f"{' and '.join(missing)} came later. Move its folder away to have the newest."
    )


def _with_sounds(project: Project, files: list[Path], project_file: Path) -> Project:
    cache = user_cache()
    for path in files:
        sound = new_sound(path, ingest(path, project.rate, cache), project, project_file)
        sound = replace(
            sound,
            name=NAMES.get(sound.id, sound.name),
            folder=FOLDERS.get(sound.id, ""),
            origin="made for the demo",
            terms="free to use",
        )
        project = replace(project, sounds=(*project.sounds, sound))
    return project


def _layout() -> Project:
    return Project(
        format="cicada-project",
        version=VERSION,
        name="Harbour light",
        fps=(24, 1),
        rate=48000,
        plays=0,
        level=0.8,
        sounds=(),
        scenes=(_dusk(), _night(), _dawn(), storm()),
        values=VALUES,
        blends=BLENDS,
        pools=POOLS,
        playlists=PLAYLISTS,
        pads=PADS,
        runs=RUNS,
        recipes=RECIPES,
    )


def _layer(
    layer_id: str, name: str, *keyframes: Keyframe, level: float = 1.0, pan: float = 0.0
) -> Layer:
    return Layer(id=layer_id, name=name, level=level, pan=pan, keyframes=keyframes)


def _dusk() -> Scene:
    waves = Clip(frame=0, sound=WAVES, fade_in=0.3)
    return Scene(
        id="sc1",
        name="Dusk",
        length=60,
        marks=(Mark(frame=30, text="the lamp is lit"),),
        layers=(
            _layer("l1", "Foghorn", waves, level=0.9),
            _layer("l2", "Gulls", Clip(frame=14, sound=GULL, pan=0.4), Rest(frame=37), level=0.5),
            _layer(
                "l3", "Buoy bell", Clip(frame=34, sound=BUOY, level=0.6), Rest(frame=54), pan=0.35
            ),
        ),
    )


def _night() -> Scene:
    # The first deliberate mistake: the one on 84 is left out every time.
    sweeps = tuple(
        Clip(frame=frame, sound=SWEEP, if_sounding="skip") for frame in (0, 68, 84, 136, 204)
    )
    taps = tuple(
        Clip(frame=frame, sound=TAP, if_sounding="restart", pan=pan, level=0.8)
        for frame, pan in ((24, -0.6), (40, -0.2), (46, 0.1), (82, -0.5), (92, -0.1))
    )
    return Scene(
        id="sc2",
        name="Night",
        length=240,
        press_points=(PressPoint(frame=118, label="until the lamp is pressed", after=1.5),),
        marks=(
            Mark(frame=46, text="beam crosses the buoy"),
            Mark(frame=156, text="all's well"),
        ),
        master=((0.0, 1.0), (216.0, 1.0, "smooth"), (240.0, 0.3)),
        layers=_night_layers(sweeps, taps),
    )


def _night_layers(sweeps: tuple[Clip, ...], taps: tuple[Clip, ...]) -> tuple[Layer, ...]:
    return (
        _layer(
            "l4",
            "Keeper's line",
            Clip(frame=10, sound=LIGHT, sync="locked", pan=-0.25),
            Rest(frame=58),
            Clip(frame=150, sound=WELL, sync="locked", pan=-0.25, fade_in=0.02),
            Rest(frame=181),
        ),
        _layer("l5", "Beam sweep", *_with_rests(sweeps, (22, None, 90, 158, 226)), level=0.55),
        _layer(
            "l6",
            "Buoy bell",
            Clip(frame=6, sound=BUOY, loops=3, loop_overlap=0.08),
            Rest(frame=18),
            Clip(frame=48, sound=DISTANT, if_sounding="queue", gap=0.1, pan=0.2),
            Rest(frame=84),
            level=0.7,
            pan=0.35,
        ),
        _layer(
            "l7",
            "Rain bed",
            Clip(
                frame=0,
                sound=RAIN,
                loops=0,
                loop_overlap=0.25,
                fade_in=1.0,
                level_line=((0.0, 0.5), (2.0, 1.0), (4.5, 0.6)),
            ),
            Hush(frame=119, fade=0.8),
            level=0.6,
        ),
        _layer(
            "l8",
            "Foghorn",
            Clip(frame=84, sound=HORN, level=0.6, fade_out=0.6),
            Rest(frame=92),
            Clip(frame=184, sound=WAVES, ends="span", release=0.6, level=0.8),
            Rest(frame=214),
        ),
        _layer(
            "l9",
            "Moth taps",
            *_with_rests(taps, (28, None, 54, 90, 100)),
            Clip(frame=103, sound=HUM, sync="hold", pan_line=((0.0, -0.7), (1.25, 0.5))),
            Rest(frame=106),
        ),
    )


def _dawn() -> Scene:
    return Scene(
        id="sc3",
        name="Dawn",
        length=60,
        layers=(
            _layer(
                "l10",
                "Gulls",
                # The second mistake: nothing ever ends it, so every pass adds another.
                Clip(frame=8, sound=GULL, loops=0, speed=0.9, pan=-0.4),
                level=0.5,
            ),
            _layer("l11", "Buoy bell", Clip(frame=20, sound=BUOY, level=0.5, speed=0.95), pan=0.35),
            _layer("l12", "Waves", Clip(frame=2, sound=WAVES, fade_in=0.5), level=0.8),
        ),
    )


def _with_rests(clips: tuple[Clip, ...], ends: tuple[int | None, ...]) -> tuple[Keyframe, ...]:
    """The clips, each followed by a rest on the frame given."""
    keyframes: list[Keyframe] = []
    for clip, end in zip(clips, ends, strict=True):
        keyframes.append(clip)
        if end is not None:
            keyframes.append(Rest(frame=end))
    return tuple(keyframes)
