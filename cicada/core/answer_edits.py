"""Edits of what answers: values and their lines, what is made of sounds, pads, kept runs."""

from collections.abc import Callable

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.answer_rules import Names, validate_answers
from cicada.core.answers import (
    Blend,
    Follows,
    GlideDeed,
    HushDeed,
    Pad,
    Playlist,
    Pool,
    PoolPart,
    Value,
)
from cicada.core.editing import Edit, plainly, put, with_layer, with_scene
from cicada.core.kept_runs import without
from cicada.core.model import KeptRun, Layer, Project, Scene
from cicada.core.naming import free_id
from cicada.core.recipes import AnyRecipe
from cicada.core.values import Line
from cicada.errors import BadEdit, BadProject

# Seconds over which the pad that comes with the first one silences everything.
STOP_ALL = 0.05


def _held(project: Project) -> Project:
    """The project, if it keeps the rules of what answers; raises ``BadEdit``."""
    _keeps_the_rules(lambda: validate_answers(project))
    return project


def _keeps_the_rules(check: Callable[[], None]) -> None:
    try:
        check()
    except BadProject as error:
        raise BadEdit(error.problem, remedy=error.remedy) from None


# -- what is made of sounds ----------------------------------------------------------------------


class PutBlend(Edit, frozen=True, kw_only=True, tag="put-blend"):
    """Put a blend on the shelf, or change the one of its id."""

    blend: Blend
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"make the blend {self.blend.label}"

    @override
    def apply(self, project: Project) -> Project:
        return _held(replace(project, blends=put(project.blends, plainly(self.blend), project)))


class PutPool(Edit, frozen=True, kw_only=True, tag="put-pool"):
    """Put a pool on the shelf, or change the one of its id."""

    pool: Pool
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"make the pool {self.pool.label}"

    @override
    def apply(self, project: Project) -> Project:
        return _held(replace(project, pools=put(project.pools, plainly(self.pool), project)))


class PutPlaylist(Edit, frozen=True, kw_only=True, tag="put-playlist"):
    """Put a playlist on the shelf, or change the one of its id."""

    playlist: Playlist
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"make the playlist {self.playlist.label}"

    @override
    def apply(self, project: Project) -> Project:
        made = put(project.playlists, plainly(self.playlist), project)
        return _held(replace(project, playlists=made))


# -- values --------------------------------------------------------------------------------------


class PutValue(Edit, frozen=True, kw_only=True, tag="put-value"):
    """Add a value, or change the one of its id."""

    value: Value
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"add the value {self.value.label}"

    @override
    def apply(self, project: Project) -> Project:
        return _held(replace(project, values=put(project.values, plainly(self.value), project)))


class DrawValue(Edit, frozen=True, kw_only=True, tag="draw-value"):
    """Draw a value's line in a scene; one without points is none."""

    scene: str
    value: str
    line: Line
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or "draw the value"

    @override
    def apply(self, project: Project) -> Project:
        if all(value.id != self.value for value in project.values):
            raise BadEdit("that value is gone", remedy="choose another")

        def draw(scene: Scene) -> Scene:
            lines = {**scene.value_lines, self.value: self.line}
            kept = {value: line for value, line in lines.items() if line}
            return replace(scene, value_lines=kept)

        return with_scene(project, self.scene, draw)


class RemoveValue(Edit, frozen=True, kw_only=True, tag="remove-value"):
    """Remove a value, its lines, what watches and follows it, and kept inputs of it.

    A blend that follows it keeps it.
    """

    value: str

    @property
    @override
    def title(self) -> str:
        return "remove the value"

    @override
    def apply(self, project: Project) -> Project:
        blend = next((blend for blend in project.blends if blend.value == self.value), None)
        if blend is not None:
            raise BadEdit(
                f"the blend {blend.label} follows it", remedy="let it follow another value first"
            )
        left = tuple(value for value in project.values if value.id != self.value)
        if len(left) == len(project.values):
            raise BadEdit("that value is gone", remedy="choose another")
        return replace(
            project,
            values=left,
            pools=tuple(self._pool(pool) for pool in project.pools),
            pads=tuple(self._pad(pad) for pad in project.pads),
            scenes=tuple(self._scene(scene) for scene in project.scenes),
            runs=without(project, {self.value}),
        )

    def _pool(self, pool: Pool) -> Pool:
        def always_open(part: PoolPart) -> PoolPart:
            return replace(part, value=None, range=None) if part.value == self.value else part

        return replace(pool, parts=tuple(always_open(part) for part in pool.parts))

    def _pad(self, pad: Pad) -> Pad:
        does = [x for x in pad.does if not (isinstance(x, GlideDeed) and x.value == self.value)]
        watches = pad.watch is not None and pad.watch.value == self.value
        follows = pad.follows is not None and pad.follows.value == self.value
        return replace(
            pad,
            does=tuple(does),
            watch=None if watches else pad.watch,
            follows=None if follows else pad.follows,
        )

    def _scene(self, scene: Scene) -> Scene:
        lines = {value: line for value, line in scene.value_lines.items() if value != self.value}
        layers = tuple(self._layer(layer) for layer in scene.layers)
        return replace(scene, value_lines=lines, layers=layers)

    def _layer(self, layer: Layer) -> Layer:
        follows = layer.follows is not None and layer.follows.value == self.value
        return replace(layer, follows=None) if follows else layer


class FollowValue(Edit, frozen=True, kw_only=True, tag="follow-value"):
    """Let a layer's level follow a value, or none any more."""

    layer: str
    follows: Follows | None

    @property
    @override
    def title(self) -> str:
        return "what the layer's level follows"

    @override
    def apply(self, project: Project) -> Project:
        follows = None if self.follows is None else plainly(self.follows)
        if follows is not None:
            _keeps_the_rules(lambda: Names(project).follows(follows, "follows"))
        return with_layer(project, self.layer, lambda _, layer: replace(layer, follows=follows))


# -- pads ----------------------------------------------------------------------------------------


class PutPad(Edit, frozen=True, kw_only=True, tag="put-pad"):
    """Add a pad, or change the one of its id; with the first comes one that stops everything."""

    pad: Pad
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"add the pad {self.pad.label}"

    @override
    def apply(self, project: Project) -> Project:
        first = not project.pads
        project = replace(project, pads=put(project.pads, plainly(self.pad), project))
        if first:
            stops = HushDeed(target="all", fade=STOP_ALL)
            stop = Pad(id=free_id("p", project), name="Stop all", does=(stops,))
            project = replace(project, pads=(*project.pads, stop))
        return _held(project)


class RemovePad(Edit, frozen=True, kw_only=True, tag="remove-pad"):
    """Remove a pad, and the kept inputs of it."""

    pad: str

    @property
    @override
    def title(self) -> str:
        return "remove the pad"

    @override
    def apply(self, project: Project) -> Project:
        left = tuple(pad for pad in project.pads if pad.id != self.pad)
        if len(left) == len(project.pads):
            raise BadEdit("that pad is gone", remedy="choose another")
        return replace(project, pads=left, runs=without(project, {self.pad}))


class MovePad(Edit, frozen=True, kw_only=True, tag="move-pad"):
    """Move a pad to another place, counted from 0."""

    pad: str
    to: int

    @property
    @override
    def title(self) -> str:
        return "move the pad"

    @override
    def apply(self, project: Project) -> Project:
        pads = list(project.pads)
        place = next((n for n, pad in enumerate(pads) if pad.id == self.pad), None)
        if place is None:
            raise BadEdit("that pad is gone", remedy="choose another")
        moved = pads.pop(place)
        pads.insert(max(0, min(self.to, len(pads))), moved)
        return replace(project, pads=tuple(pads))


# -- kept runs -----------------------------------------------------------------------------------


class KeepRun(Edit, frozen=True, kw_only=True, tag="keep-run"):
    """Keep what was pressed under a name."""

    run: KeptRun

    @property
    @override
    def title(self) -> str:
        return f"keep {self.run.name}"

    @override
    def apply(self, project: Project) -> Project:
        if any(run.name == self.run.name for run in project.runs):
            raise BadEdit(f"{self.run.name!r} is kept already", remedy="choose another name")
        return _held(replace(project, runs=(*project.runs, plainly(self.run))))


class ChangeRun(Edit, frozen=True, kw_only=True, tag="change-run"):
    """Put another run in the place of one that is kept: renamed, trimmed, moved."""

    name: str
    run: KeptRun
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or f"change {self.name}"

    @override
    def apply(self, project: Project) -> Project:
        if self.run.name != self.name and any(x.name == self.run.name for x in project.runs):
            raise BadEdit(f"{self.run.name!r} is kept already", remedy="choose another name")
        changed = replace(project, runs=_without(project, self.name, lambda _: self.run))
        return _held(replace(changed, recipes=_renamed(project, self.name, self.run.name)))


class ForgetRun(Edit, frozen=True, kw_only=True, tag="forget-run"):
    """Forget what was kept under a name."""

    name: str

    @property
    @override
    def title(self) -> str:
        return f"forget {self.name}"

    @override
    def apply(self, project: Project) -> Project:
        return replace(project, runs=_without(project, self.name, lambda _: None))


def _renamed(project: Project, run: str, name: str) -> tuple[AnyRecipe, ...]:
    """The recipes, of which those that name a kept run name it as it is called now."""
    return tuple(
        replace(recipe, scope=replace(recipe.scope, run=name))
        if recipe.scope.run == run
        else recipe
        for recipe in project.recipes
    )


def _without(
    project: Project, name: str, instead: Callable[[KeptRun], KeptRun | None]
) -> tuple[KeptRun, ...]:
    if all(run.name != name for run in project.runs):
        raise BadEdit(f"{name!r} is not kept any more", remedy="choose another")
    made = [instead(run) if run.name == name else run for run in project.runs]
    return tuple(run for run in made if run is not None)
