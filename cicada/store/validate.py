"""What a project must hold beyond what its types say (semantics.md, section 2; format.md)."""

from math import inf

from cicada.core.answer_rules import Names, line, refuse, validate_answers, validate_run
from cicada.core.made import LONGEST, made_channels, made_frames, made_seconds
from cicada.core.model import FORMAT, VERSION, Clip, Hush, Layer, Project, Scene, Sound
from cicada.core.recipe_rules import validate_recipes
from cicada.core.timebase import MAX_FPS

__all__ = ["validate", "validate_run"]


def validate(project: Project) -> None:
    """Raise ``BadProject``, naming the place, if ``project`` breaks a rule."""
    if project.format != FORMAT:
        refuse("format", f"is {project.format!r}", f"it must be {FORMAT!r}")
    if project.version < 1:
        refuse("version", f"is {project.version}", "versions begin with 1; write that")
    if project.version > VERSION:
        refuse(
            "version",
            f"is {project.version}, newer than this Cicada knows",
            f"open it with a newer Cicada; this one reads up to version {VERSION}",
        )
    num, den = project.fps
    if num > MAX_FPS * den:
        refuse("fps", f"is {num}/{den} frames a second", f"use at most {MAX_FPS}")
    sounds = [sound.id for sound in project.sounds]
    places = [f"scenes[{i}]" for i in range(len(project.scenes))]
    ids = [scene.id for scene in project.scenes]
    for number, scene in enumerate(project.scenes):
        places += [f"scenes[{number}].layers[{i}]" for i in range(len(scene.layers))]
        ids += [layer.id for layer in scene.layers]
    for name in ("blends", "pools", "playlists", "values", "pads", "recipes"):
        group = getattr(project, name)
        places += [f"{name}[{i}]" for i in range(len(group))]
        ids += [each.id for each in group]
    _ids_differ([*(f"sounds[{i}]" for i in range(len(sounds))), *places], sounds + ids)
    for number, sound in enumerate(project.sounds):
        if sound.making is not None:
            _made(sound, f"sounds[{number}]")
    names = Names(project)
    for number, scene in enumerate(project.scenes):
        _scene(project, scene, f"scenes[{number}]", names)
    validate_answers(project)
    validate_recipes(project)
    for number, style in enumerate(project.styles):
        place = f"styles[{number}]"
        line(style.level_line or (), f"{place}.level_line", 0, 16)
        line(style.pan_line or (), f"{place}.pan_line", -1, 1)


def _made(sound: Sound, place: str) -> None:
    """What says how it was made must be what that comes to."""
    making = sound.making
    assert making is not None
    seconds = made_seconds(making)
    if seconds > LONGEST:
        refuse(f"{place}.making", f"comes to {seconds:,.0f} seconds", "make it a day at most")
    frames, channels = made_frames(making, sound.rate), made_channels(making)
    if sound.frames != frames:
        refuse(f"{place}.frames", f"is {sound.frames}, and made so it has {frames}", "write that")
    if sound.channels != channels:
        refuse(f"{place}.channels", f"is {sound.channels}, and it has {channels}", "write that")


def _ids_differ(places: list[str], ids: list[str]) -> None:
    if len(set(ids)) == len(ids):
        return
    seen: dict[str, str] = {}
    for place, given in zip(places, ids, strict=True):
        if given in seen:
            refuse(f"{place}.id", f"{given!r} is also the id of {seen[given]}", "rename one")
        seen[given] = place


def _scene(project: Project, scene: Scene, place: str, names: Names) -> None:
    frames = [point.frame for point in scene.press_points]
    _frames_differ(frames, f"{place}.press_points", project.first_frame)
    line(scene.master, f"{place}.master", 0, 16)
    for value, points in scene.value_lines.items():
        names.value(value, f"{place}.value_lines")
        line(points, f"{place}.value_lines[{value}]", -inf, inf)
    for number, layer in enumerate(scene.layers):
        _layer(project, layer, f"{place}.layers[{number}]", names)


def _layer(project: Project, layer: Layer, place: str, names: Names) -> None:
    frames = [keyframe.frame for keyframe in layer.keyframes]
    _frames_differ(frames, f"{place}.keyframes", project.first_frame)
    if layer.line:
        line(layer.line, f"{place}.line", 0, 16)
    if layer.follows is not None:
        names.follows(layer.follows, f"{place}.follows")
    for number, keyframe in enumerate(layer.keyframes):
        if isinstance(keyframe, Clip):
            if keyframe.sound not in names.placeable:
                names.sound(keyframe.sound, f"{place}.keyframes[{number}]")
            if keyframe.level_line or keyframe.pan_line:
                here = f"{place}.keyframes[{number}]"
                line(keyframe.level_line, f"{here}.level_line", 0, 16)
                line(keyframe.pan_line, f"{here}.pan_line", -1, 1)
        elif isinstance(keyframe, Hush):
            _hush(keyframe, f"{place}.keyframes[{number}]", names)


def _hush(hush: Hush, place: str, names: Names) -> None:
    if hush.target == "sound" and hush.sound is None:
        refuse(f"{place}.sound", "is missing", "say which sound this hush silences")
    if hush.sound is not None:
        names.sound(hush.sound, place)


def _frames_differ(frames: list[int], place: str, first_frame: int) -> None:
    if len(set(frames)) == len(frames):
        return
    seen: set[int] = set()
    for number, frame in enumerate(frames):
        if frame in seen:
            shown = frame + first_frame
            refuse(f"{place}[{number}]", f"a second one on frame {shown}", "move one of them")
        seen.add(frame)
