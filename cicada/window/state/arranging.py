"""What is done to chosen keyframes: moved, copied, cleared, hushed; and frames put in or out."""

from cicada.core.arrange import Shift
from cicada.core.editing import Cell, Changes, Edit
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Hush, Rest, keyframe_at
from cicada.core.placing import hush_on, hushing, placing, row_of
from cicada.core.plan import Voice
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.words.quantities import count

# What frames are put into or taken out of.
SCOPES = {
    "all": "all layers and what stands on the rulers",
    "chosen": "the layers of the chosen keyframes",
    "layer": "this layer",
}


class Arranging:
    """Edits of what is chosen on the sheet; what is not seen there is said."""

    def __init__(self, session: Session, planning: Planning, notices: Notices) -> None:
        self._session, self._planning, self._notices = session, planning, notices
        self._document = session.document
        self.scope = "all"

    def _do(self, edit: Edit | None) -> bool:
        return edit is not None and self._document.do(edit)

    def _some(self) -> bool:
        if not self._session.chosen:
            self._notices.say("Choose a keyframe first.")
        return bool(self._session.chosen)

    # -- moving and copying --------------------------------------------------------------------

    def shift(self, by: int, rows: int = 0) -> None:
        """Move what is chosen by some frames and layers."""
        if not self._some():
            return
        shift = Shift(self._session.scene, self._session.chosen)
        by, rows = shift.within(by, rows)
        lead = self._session.cell
        if self._do(shift.moving(by, rows)):
            self._session.choose_all(
                [shift.moved(cell, by, rows) for cell in shift.cells],
                shift.moved(lead, by, rows) if lead in shift.cells and lead is not None else None,
            )

    def move_to(self, frame: int) -> None:
        """Move what is chosen so that the card's keyframe stands on a frame."""
        if self._some() and self._session.cell is not None:
            self.shift(frame - self._session.cell.frame)

    def duplicate(self) -> None:
        """Put copies of what is chosen right behind it."""
        if not self._some():
            return
        shift = Shift(self._session.scene, self._session.chosen)
        by = shift.behind()
        if self._do(shift.copying(by, 0, "duplicate")):
            self._session.choose_all([shift.moved(cell, by, 0) for cell in shift.cells])

    # -- changing ------------------------------------------------------------------------------

    def clear(self) -> None:
        """Take the chosen keyframes away."""
        if not self._some():
            return
        cells, before = self._session.cells(), self._session.scene
        if self._do(ClearKeyframes(cells=cells)):
            left = sum(len(layer.keyframes) for layer in self._session.scene.layers)
            gone = sum(len(layer.keyframes) for layer in before.layers) - left - len(cells)
            rests = f", with {count(gone, 'rest')} that gave room" if gone else ""
            self._notices.say(f"Cleared {count(len(cells), 'keyframe')}{rests}.")

    def take_sounds_off(self, leave: str) -> None:
        """Take the sounds off the chosen clips, leaving rests or marks."""
        clips = self._session.clip_cells()
        if clips:
            self._do(TakeSoundsOff(cells=clips, leave=leave))
        else:
            self._notices.say("Choose a clip first.")

    def place(self, sound: str, cell: Cell) -> None:
        """Put a sound on a cell and show it; without a layer, on a new one named after it."""
        project, scene = self._document.project, self._session.scene
        if all(sound != each.id for each in project.all_placeables()):
            return
        layer = next((layer for layer in scene.layers if layer.id == cell.layer), None)
        before = keyframe_at(layer, cell.frame) if layer is not None else None
        edit, cell = placing(project, scene, sound, cell)
        if self._do(edit):
            # Chosen anew, also where it was chosen already: it is another keyframe now.
            self._session.choose(None)
            self._session.choose(cell)
            if isinstance(before, Clip):
                name, gone = (project.placeable(each).label for each in (sound, before.sound))
                self._notices.say(f"{name} has replaced {gone} there; Ctrl+Z brings it back.")

    def drop(self, sound: str, layer: str, frame: int) -> None:
        """Put a sound where it was dropped."""
        self.place(sound, Cell(layer, frame))

    def replace_sound(self, sound: str) -> None:
        """Put another sound on the chosen clips; their settings stay."""
        clips = self._session.clip_cells()
        if clips:
            self._do(ChangeKeyframes(cells=clips, changes={"sound": sound}, what="the sound"))

    def change(self, changes: Changes, what: str) -> None:
        """Change fields of all chosen clips."""
        clips = self._session.clip_cells()
        if clips:
            self._do(ChangeKeyframes(cells=clips, changes=changes, what=what))

    def switch_off(self) -> None:
        """Switch what is chosen off, or on again if all of it is off."""
        found = self._session.keyframes()
        if self._some():
            off = not all(keyframe.off for _, keyframe in found)
            what = "what is off"
            self._do(ChangeKeyframes(cells=self._session.cells(), changes={"off": off}, what=what))

    def choose_everything(self) -> None:
        """Choose all keyframes of the scene."""
        scene = self._session.scene
        self._choose([Cell(x.id, k.frame) for x in scene.layers for k in x.keyframes])

    def _choose(self, cells: list[Cell]) -> None:
        if cells:
            self._session.choose_all(cells)
        else:
            self._notices.say("There is nothing to choose.")

    def choose_same_sound(self) -> None:
        """Choose all clips of the scene with the sounds of those chosen."""
        chosen = {k.sound for _, k in self._session.keyframes() if isinstance(k, Clip)}
        sounds = chosen or ({self._session.sound} if self._session.sound else set())
        self._choose(
            [
                Cell(layer.id, keyframe.frame)
                for layer in self._session.scene.layers
                for keyframe in layer.keyframes
                if isinstance(keyframe, Clip) and keyframe.sound in sounds
            ]
        )

    def put_rest(self) -> None:
        """Put a rest where the next keyframe goes."""
        cell = self._place()
        if cell is not None:
            self._put(Rest(frame=cell.frame), cell.layer, "A rest")

    def put_hush(self) -> None:
        """Put a hush where the next keyframe goes, which silences what its layer sounds there.

        What rings in from another scene is not placed on this layer; it is hushed by its sound.
        """
        cell = self._place()
        if cell is None:
            return
        project, scene = self._planning.project, self._session.scene
        here = self._sounding(cell.frame)
        row = [voice for voice in here if row_of(project, scene, voice.layer) == cell.layer]
        self._put(hush_on(cell, row), cell.layer, "A hush")

    def _place(self) -> Cell | None:
        cell = self._session.place()
        if cell is None:
            self._notices.say("Choose a frame on a layer first.")
        return cell

    def _put(self, keyframe: Rest | Hush, layer: str, what: str) -> None:
        """Put a keyframe on a layer and show it; what it replaces is said."""
        before = keyframe_at(self._document.project.layer(layer)[1], keyframe.frame)
        if self._do(PutKeyframes(keyframes=((layer, keyframe),))):
            self._session.choose(Cell(layer, keyframe.frame))
            if isinstance(before, Clip):
                name = self._document.project.placeable(before.sound).name
                shown = self._document.project.shown(keyframe.frame)
                self._notices.say(
                    f"{what} has replaced {name} on frame {shown}; Ctrl+Z brings it back."
                )

    # -- what sounds at the playhead -----------------------------------------------------------

    def _sounding(self, frame: int) -> list[Voice]:
        """The voices that sound while a frame of the scene is shown, by layers from the top."""
        plan, scene = self._planning.plan, self._session.scene
        visit = plan.visit_of(scene.id, self._planning.number)
        rows = {layer.id: row for row, layer in enumerate(scene.layers)}
        found = [] if visit is None else plan.sounding_on(frame, visit)
        return sorted(found, key=lambda voice: rows.get(voice.layer, len(rows)))

    def hush_here(self) -> None:
        """Silence all that sounds at the playhead."""
        self._hush(self._sounding(self._session.playhead))

    def hush_chosen(self) -> None:
        """Silence at the playhead what is chosen, of what sounds there."""
        chosen, sounding = self._session.chosen, self._sounding(self._session.playhead)
        here = [v for v in sounding if v.cell in chosen]
        if sounding and not here:
            self._notices.say("What is chosen does not sound at the playhead.")
            return
        self._hush(here)

    def _hush(self, voices: list[Voice]) -> None:
        if not voices:
            self._notices.say("Nothing sounds on this frame.")
            return
        session, project = self._session, self._document.project
        if not self._do(hushing(project, session.scene, session.playhead, voices)):
            return
        names = {voice.sound: project.placeable(voice.sound).label for voice in voices}
        put = []
        for layer in session.scene.layers:
            found = keyframe_at(layer, session.playhead)
            if isinstance(found, Hush) and found.sound in names:
                put.append((layer, Cell(layer.id, found.frame)))
        session.choose_all([cell for _, cell in put])
        where = " and ".join(dict.fromkeys(layer.label for layer, _ in put))
        verb = "is" if len(names) == 1 else "are"
        said = " and ".join(names.values())
        self._notices.say(f"{said} {verb} hushed here, by a hush on {where}.")

    def switch_layer(self, field: str) -> None:
        """Switch mute, solo, guarded, off or past_scene of the chosen layer."""
        layer = self._session.layer()
        if layer is None:
            self._notices.say("Choose a layer first.")
            return
        self._do(ChangeLayer(layer=layer.id, changes={field: not getattr(layer, field)}))

    # -- frames --------------------------------------------------------------------------------

    def _scope(self) -> tuple[str, ...] | None:
        """The layers that frames are put into or taken out of; None for all, () for nothing."""
        cell = self._session.cell
        if self.scope == "layer":
            return () if cell is None else (cell.layer,)
        if self.scope == "chosen":
            return tuple(sorted({cell.layer for cell in self._session.chosen}))
        return None

    def _ripple(self, kind: type[InsertFrames | RemoveFrames], frames: int) -> bool:
        session, layers = self._session, self._scope()
        if layers == ():
            self._notices.say(f"Frames move {SCOPES[self.scope]}, and nothing is chosen.")
            return False
        return self._do(
            kind(scene=session.scene_id, frame=session.playhead, count=frames, layers=layers)
        )

    def insert_frames(self, frames: int) -> None:
        """Insert frames at the playhead; what stands there and later moves on."""
        if self._ripple(InsertFrames, frames):
            self._notices.say(f"Inserted {count(frames, 'frame')}.")

    def remove_frames(self, frames: int) -> None:
        """Remove frames from the playhead on, with what stands on them, and say what that was."""
        session, layers = self._session, self._scope()
        scene, first = session.scene, session.playhead
        frames = min(frames, scene.length - first)
        gone = range(first, first + frames)
        standing = [k for x in scene.layers if layers is None or x.id in layers
                    for k in x.keyframes if k.frame in gone]  # fmt: skip
        flags = 0
        if layers is None:
            flags = sum(mark.frame in gone for mark in scene.marks)
            flags += sum(point.frame in gone for point in scene.press_points)
        if not self._ripple(RemoveFrames, frames):
            return
        lost = [count(len(standing), "keyframe")] if standing else []
        lost += [count(flags, "mark")] if flags else []
        what = f", with {' and '.join(lost)} on them" if lost else ""
        self._notices.say(f"Removed {count(frames, 'frame')}{what}; Ctrl+Z brings them back.")
