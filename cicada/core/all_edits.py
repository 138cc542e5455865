"""Every kind of edit, so that what was written down can be read back."""

from typing import Any

import msgspec

from cicada.core.answer_edits import (
    ChangeRun,
    DrawValue,
    FollowValue,
    ForgetRun,
    KeepRun,
    MovePad,
    PutBlend,
    PutPad,
    PutPlaylist,
    PutPool,
    PutValue,
    RemovePad,
    RemoveValue,
)
from cicada.core.editing import Edit, Several
from cicada.core.frame_rate import KeepSeconds
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    HushSound,
    MoveKeyframes,
    MoveSpanEnd,
    PlaceClip,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.made_edits import ChangeMaking, followed
from cicada.core.model import Project
from cicada.core.picture_edits import AddParts, ChangePart, MovePart, MovePartEnds, RemovePart
from cicada.core.recipe_edits import PutRecipe, RemoveRecipe
from cicada.core.reshaping import ReshapeClip
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.scene_edits import (
    AddScene,
    ChangeProject,
    ChangeScene,
    ClearMark,
    ClearPressPoint,
    DuplicateScene,
    MoveMark,
    MovePressPoint,
    MoveScene,
    PutMark,
    PutPressPoint,
    PutTempo,
    RemoveScene,
)
from cicada.core.shelf_edits import (
    AddSounds,
    AddTake,
    ChangeSounds,
    RemoveSounds,
    ReplaceSound,
    TagSounds,
    UseTake,
)
from cicada.core.styles import ForgetStyle, KeepStyle
from cicada.errors import BadEdit

KINDS: tuple[type[Edit], ...] = (
    ChangeRun, DrawValue, FollowValue, ForgetRun, KeepRun, MovePad, PutBlend, PutPad, PutPlaylist,
    PutPool, PutValue, RemovePad, RemoveValue,
    ChangeMaking, PutRecipe, RemoveRecipe,
    AddLayer, AddParts, AddScene, AddSounds, AddTake, ChangeKeyframes, ChangeLayer, ChangePart,
    ChangeProject, ChangeScene, ChangeSounds, ClearKeyframes, ClearMark, ClearPressPoint,
    DuplicateLayer, DuplicateScene, ForgetStyle, HushSound, InsertFrames, KeepSeconds, KeepStyle,
    MoveKeyframes, MoveLayer, MoveMark, MovePart, MovePartEnds, MovePressPoint, MoveScene,
    MoveSpanEnd, PlaceClip, PutKeyframes, PutMark, PutPressPoint, PutTempo, RemoveFrames,
    RemoveLayer, RemovePart, RemoveScene, RemoveSounds, ReplaceSound, ReshapeClip, Several,
    TagSounds, TakeSoundsOff, UseTake,
)  # fmt: skip
# By the name each kind is written under. The one that holds others is read by hand.
_BY_NAME = {kind.__struct_config__.tag: kind for kind in KINDS if kind is not Several}


def applied(edit: Edit, project: Project) -> Project:
    """The project with an edit made, and with what follows other things kept up with them.

    Raises ``BadEdit``.
    """
    return followed(edit.apply(project))


def encoded(edit: Edit) -> bytes:
    """An edit as JSON. Raises ``TypeError`` if it holds what JSON has no form for."""
    return msgspec.json.encode(edit)


def decoded(data: bytes) -> Edit:
    """The edit that ``data`` holds; raises ``BadEdit``."""
    try:
        return _converted(msgspec.json.decode(data))
    except (msgspec.MsgspecError, ValueError, RecursionError, TypeError) as error:
        raise BadEdit("an edit cannot be read back", remedy="go on without it") from error


def _converted(plain: Any) -> Edit:  # noqa: ANN401 - anything may have been written
    if isinstance(plain, dict) and plain.get("edit") == "several":
        inner = tuple(_converted(each) for each in plain.get("edits", ()))
        return Several(named=str(plain.get("named", "")), edits=inner)
    kind = _BY_NAME.get(plain.get("edit")) if isinstance(plain, dict) else None
    if kind is None:
        raise BadEdit("there is no such edit", remedy="open it with a newer Cicada")
    return msgspec.convert(plain, kind)
