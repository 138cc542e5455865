"""What a project must hold beyond what its types say (semantics.md, section 2; format.md)."""

from typing import NoReturn

from cicada.core.model import FORMAT, VERSION, Clip, Hush, Layer, Project, Scene
from cicada.core.timebase import MAX_FPS
from cicada.core.values import Line
from cicada.errors import BadProject


def validate(project: Project) -> None:
    """Raise ``BadProject``, naming the place, if ``project`` breaks a rule."""
    if project.format != FORMAT:
        _refuse("format", f"is {project.format!r}", f"it must be {FORMAT!r}")
    if project.version < 1:
        _refuse("version", f"is {project.version}", "versions begin with 1; write that")
    if project.version > VERSION:
        _refuse(
            "version",
            f"is {project.version}, newer than this Cicada knows",
            f"open it with a newer Cicada; this one reads up to version {VERSION}",
        )
    num, den = project.fps
    if num > MAX_FPS * den:
        _refuse("fps", f"is {num}/{den} frames a second", f"use at most {MAX_FPS}")
    sounds = [sound.id for sound in project.sounds]
    places = [f"scenes[{i}]" for i in range(len(project.scenes))]
    ids = [scene.id for scene in project.scenes]
    for number, scene in enumerate(project.scenes):
        places += [f"scenes[{number}].layers[{i}]" for i in range(len(scene.layers))]
        ids += [layer.id for layer in scene.layers]
    _ids_differ([*(f"sounds[{i}]" for i in range(len(sounds))), *places], sounds + ids)
    known = frozenset(sounds)
    for number, scene in enumerate(project.scenes):
        _scene(project, scene, f"scenes[{number}]", known)
    for number, style in enumerate(project.styles):
        place = f"styles[{number}]"
        _line(style.level_line or (), f"{place}.level_line", 0, 16)
        _line(style.pan_line or (), f"{place}.pan_line", -1, 1)


def _refuse(place: str, problem: str, remedy: str) -> NoReturn:
    raise BadProject(problem, place=place, remedy=remedy)


def _ids_differ(places: list[str], ids: list[str]) -> None:
    if len(set(ids)) == len(ids):
        return
    seen: dict[str, str] = {}
    for place, given in zip(places, ids, strict=True):
        if given in seen:
            _refuse(f"{place}.id", f"{given!r} is also the id of {seen[given]}", "rename one")
        seen[given] = place


def _scene(project: Project, scene: Scene, place: str, sounds: frozenset[str]) -> None:
    frames = [point.frame for point in scene.press_points]
    _frames_differ(frames, f"{place}.press_points", project.first_frame)
    _line(scene.master, f"{place}.master", 0, 16)
    for number, layer in enumerate(scene.layers):
        _layer(project, layer, f"{place}.layers[{number}]", sounds)


def _layer(project: Project, layer: Layer, place: str, sounds: frozenset[str]) -> None:
    frames = [keyframe.frame for keyframe in layer.keyframes]
    _frames_differ(frames, f"{place}.keyframes", project.first_frame)
    if layer.line:
        _line(layer.line, f"{place}.line", 0, 16)
    for number, keyframe in enumerate(layer.keyframes):
        if isinstance(keyframe, Clip):
            if keyframe.sound not in sounds:
                _no_sound(f"{place}.keyframes[{number}]", keyframe.sound)
            if keyframe.level_line or keyframe.pan_line:
                here = f"{place}.keyframes[{number}]"
                _line(keyframe.level_line, f"{here}.level_line", 0, 16)
                _line(keyframe.pan_line, f"{here}.pan_line", -1, 1)
        elif isinstance(keyframe, Hush):
            _hush(keyframe, f"{place}.keyframes[{number}]", sounds)


def _hush(hush: Hush, place: str, sounds: frozenset[str]) -> None:
    if hush.target == "sound" and hush.sound is None:
        _refuse(f"{place}.sound", "is missing", "say which sound this hush silences")
    if hush.sound is not None and hush.sound not in sounds:
        _no_sound(place, hush.sound)


def _no_sound(place: str, sound: str) -> NoReturn:
    _refuse(f"{place}.sound", f"there is no sound {sound!r}", "name one of the project's sounds")


def _frames_differ(frames: list[int], place: str, first_frame: int) -> None:
    if len(set(frames)) == len(frames):
        return
    seen: set[int] = set()
    for number, frame in enumerate(frames):
        if frame in seen:
            shown = frame + first_frame
            _refuse(f"{place}[{number}]", f"a second one on frame {shown}", "move one of them")
        seen.add(frame)


def _line(line: Line, place: str, low: float, high: float) -> None:
    previous = 0.0
    for number, point in enumerate(line):
        at, value = point[0], point[1]
        here = f"{place}[{number}]"
        if isinstance(at, str) or isinstance(value, str):
            _refuse(here, "starts with a word", "a point is a place, a value and maybe a shape")
        if len(point) == 3 and not isinstance(point[2], str):
            _refuse(here, "has a number for its shape", 'use "smooth" or "step"')
        if at < previous:
            where = "below 0" if not number else "before the point in front of it"
            _refuse(here, f"stands at {at:g}, {where}", "put the points in order")
        if not low <= value <= high:
            _refuse(here, f"has the value {value:g}", f"use {low:g} to {high:g}")
        previous = at
