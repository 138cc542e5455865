"""Edits of scenes, of what stands on their rulers, and of the project's own settings."""

from collections.abc import Callable

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.answers import Pad
from cicada.core.editing import Changes, Edit, changed, must_be_inside, with_scene
from cicada.core.kept_runs import at_rate, that_fit
from cicada.core.keyframe_edits import marked
from cicada.core.model import Mark, PressPoint, Project, Scene, Tempo
from cicada.core.naming import all_ids, free_id, free_name, next_id
from cicada.errors import BadEdit

# -- scenes -------------------------------------------------------------------------------------


def _place_of(project: Project, scene_id: str) -> int:
    for index, scene in enumerate(project.scenes):
        if scene.id == scene_id:
            return index
    raise BadEdit("that scene is gone", remedy="choose another")


class AddScene(Edit, frozen=True, kw_only=True, tag="add-scene"):
    """Add an empty scene behind another; its layers have the names of that one's."""

    after: str
    name: str
    length: int

    @property
    @override
    def title(self) -> str:
        return f"add the scene {self.name}"

    @override
    def apply(self, project: Project) -> Project:
        index = _place_of(project, self.after)
        taken = all_ids(project)
        layers = []
        for layer in project.scenes[index].layers:
            own = next_id("l", taken)
            taken.add(own)
            layers.append(
                replace(layer, id=own, keyframes=(), line=(), guarded=False, off=False, solo=False)
            )
        scene = changed(
            Scene(id=free_id("sc", project), name=self.name, length=1, layers=tuple(layers)),
            {"length": self.length},
        )
        scenes = list(project.scenes)
        scenes.insert(index + 1, scene)
        return replace(project, scenes=tuple(scenes))


class DuplicateScene(Edit, frozen=True, kw_only=True, tag="duplicate-scene"):
    """Put a copy of a scene behind it, under a name of its own."""

    scene: str

    @property
    @override
    def title(self) -> str:
        return "duplicate the scene"

    @override
    def apply(self, project: Project) -> Project:
        index = _place_of(project, self.scene)
        scene, taken = project.scenes[index], all_ids(project)
        layers = []
        for layer in scene.layers:
            own = next_id("l", taken)
            taken.add(own)
            layers.append(replace(layer, id=own))
        name = free_name(scene.label, {other.name for other in project.scenes})
        copy = replace(scene, id=free_id("sc", project), name=name, layers=tuple(layers))
        scenes = list(project.scenes)
        scenes.insert(index + 1, copy)
        return replace(project, scenes=tuple(scenes))


class RemoveScene(Edit, frozen=True, kw_only=True, tag="remove-scene"):
    """Remove a scene with its layers; the last one stays."""

    scene: str

    @property
    @override
    def title(self) -> str:
        return "remove the scene"

    @override
    def apply(self, project: Project) -> Project:
        index = _place_of(project, self.scene)
        if len(project.scenes) == 1:
            raise BadEdit("a film has at least one scene", remedy="add another one first")
        guarded = [layer.name for layer in project.scenes[index].layers if layer.guarded]
        if guarded:
            raise BadEdit(
                f"the layer {guarded[0]} is guarded", remedy="lift its guard to remove the scene"
            )
        left = (*project.scenes[:index], *project.scenes[index + 1 :])
        pads = tuple(_without_zone(pad, self.scene) for pad in project.pads)
        return that_fit(replace(project, scenes=left, pads=pads))


def _without_zone(pad: Pad, scene: str) -> Pad:
    """A pad that is not pressed by clicks in a scene that is gone."""
    return replace(pad, zone=None) if pad.zone is not None and pad.zone.scene == scene else pad


class MoveScene(Edit, frozen=True, kw_only=True, tag="move-scene"):
    """Move a scene to another place in the film, counted from 0."""

    scene: str
    to: int

    @property
    @override
    def title(self) -> str:
        return "move the scene"

    @override
    def apply(self, project: Project) -> Project:
        index = _place_of(project, self.scene)
        scenes = list(project.scenes)
        moved = scenes.pop(index)
        scenes.insert(max(0, min(self.to, len(scenes))), moved)
        return that_fit(replace(project, scenes=tuple(scenes)))


class ChangeScene(Edit, frozen=True, kw_only=True, tag="change-scene"):
    """Change fields of a scene: name, length, picture ..."""

    scene: str
    changes: Changes

    @property
    @override
    def title(self) -> str:
        words = {
            "picture": "choose the picture",
            "length": "change the scene's length",
            "name": "rename the scene",
        }
        named = [words[field] for field in self.changes if field in words]
        return named[0] if named else "change the scene"

    @override
    def apply(self, project: Project) -> Project:
        return with_scene(project, self.scene, lambda scene: changed(scene, self.changes))


# -- on the rulers ------------------------------------------------------------------------------


class _OnRuler(Edit, frozen=True, kw_only=True):
    """A change to what stands on a frame of a scene's rulers."""

    scene: str
    frame: int

    def _change(self, project: Project, change: Callable[[Scene], Scene]) -> Project:
        return with_scene(project, self.scene, change)


class PutMark(_OnRuler, frozen=True, kw_only=True, tag="put-mark"):
    """Put a mark on a frame; one that stands there gets the text."""

    text: str = ""

    @property
    @override
    def title(self) -> str:
        return "put a mark"

    @override
    def apply(self, project: Project) -> Project:
        def put(scene: Scene) -> Scene:
            others = tuple(mark for mark in scene.marks if mark.frame != self.frame)
            return marked(replace(scene, marks=others), self.frame, self.text)

        return self._change(project, put)


class ClearMark(_OnRuler, frozen=True, kw_only=True, tag="clear-mark"):
    """Take the marks of a frame away."""

    @property
    @override
    def title(self) -> str:
        return "clear the mark"

    @override
    def apply(self, project: Project) -> Project:
        return self._change(
            project,
            lambda s: replace(s, marks=tuple(m for m in s.marks if m.frame != self.frame)),
        )


class MoveMark(_OnRuler, frozen=True, kw_only=True, tag="move-mark"):
    """Move the mark on a frame to another."""

    to: int

    @property
    @override
    def title(self) -> str:
        return "move the mark"

    @override
    def apply(self, project: Project) -> Project:
        def move(scene: Scene) -> Scene:
            text = next((m.text for m in scene.marks if m.frame == self.frame), None)
            if text is None:
                raise BadEdit("there is no mark on that frame", remedy="choose one that is there")
            left = tuple(mark for mark in scene.marks if mark.frame != self.frame)
            return marked(replace(scene, marks=left), self.to, text)

        return self._change(project, move)


class PutPressPoint(_OnRuler, frozen=True, kw_only=True, tag="put-press-point"):
    """Let the picture wait for a press on a frame, or until ``after`` seconds are over."""

    label: str = ""
    after: float | None = None

    @property
    @override
    def title(self) -> str:
        return "put a press point"

    @override
    def apply(self, project: Project) -> Project:
        def put(scene: Scene) -> Scene:
            must_be_inside(scene, self.frame)
            point = changed(
                PressPoint(frame=self.frame), {"label": self.label, "after": self.after}
            )
            return _with_point(scene, self.frame, point)

        return self._change(project, put)


class ClearPressPoint(_OnRuler, frozen=True, kw_only=True, tag="clear-press-point"):
    """Let the picture pass a frame without waiting."""

    @property
    @override
    def title(self) -> str:
        return "clear the press point"

    @override
    def apply(self, project: Project) -> Project:
        return self._change(project, lambda scene: _with_point(scene, self.frame, None))


class MovePressPoint(_OnRuler, frozen=True, kw_only=True, tag="move-press-point"):
    """Move the press point on a frame to another; one there is replaced."""

    to: int

    @property
    @override
    def title(self) -> str:
        return "move the press point"

    @override
    def apply(self, project: Project) -> Project:
        def move(scene: Scene) -> Scene:
            must_be_inside(scene, self.to)
            for point in scene.press_points:
                if point.frame == self.frame:
                    left = _with_point(scene, self.frame, None)
                    return _with_point(left, self.to, replace(point, frame=self.to))
            raise BadEdit(
                "there is no press point on that frame", remedy="choose one that is there"
            )

        return self._change(project, move)


def _with_point(scene: Scene, frame: int, point: PressPoint | None) -> Scene:
    points = [other for other in scene.press_points if other.frame != frame]
    if point is not None:
        points.append(point)
    points.sort(key=lambda other: other.frame)
    return replace(scene, press_points=tuple(points))


class PutTempo(_OnRuler, frozen=True, kw_only=True, tag="put-tempo"):
    """Let beats fall at a tempo from a frame on; ``bpm`` None takes the change away."""

    bpm: float | None
    offset: float = 0.0

    @property
    @override
    def title(self) -> str:
        return "clear the tempo" if self.bpm is None else "set the tempo"

    @override
    def apply(self, project: Project) -> Project:
        def put(scene: Scene) -> Scene:
            must_be_inside(scene, self.frame)
            tempo = [other for other in scene.tempo if other.frame != self.frame]
            if self.bpm is not None:
                new = Tempo(frame=self.frame, bpm=1.0)
                tempo.append(changed(new, {"bpm": self.bpm, "offset": self.offset}))
            tempo.sort(key=lambda other: other.frame)
            return replace(scene, tempo=tuple(tempo))

        return self._change(project, put)


def mark_at(scene: Scene, frame: int) -> Mark | None:
    """The mark on a frame."""
    return next((mark for mark in scene.marks if mark.frame == frame), None)


def press_point_at(scene: Scene, frame: int) -> PressPoint | None:
    """The press point on a frame."""
    return next((point for point in scene.press_points if point.frame == frame), None)


# -- the project --------------------------------------------------------------------------------


class ChangeProject(Edit, frozen=True, kw_only=True, tag="change-project"):
    """Change the project's name, frame rate, sample rate, first frame, level, plays or seed.

    Keyframes stay on their frames.
    """

    changes: Changes

    @property
    @override
    def title(self) -> str:
        if set(self.changes) == {"plays"}:
            return "change how often the film plays"
        if set(self.changes) == {"seed"}:
            return "keep these draws"
        return "change the project's settings"

    @override
    def apply(self, project: Project) -> Project:
        made = changed(project, self.changes)
        # What was pressed stays at its times.
        return replace(made, runs=at_rate(project, made.rate)) if project.runs else made
