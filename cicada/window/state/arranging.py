"""What is done to chosen keyframes: moved, copied, cleared, hushed; and frames put in or out."""

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QByteArray, QMimeData, QObject, Signal
from PySide6.QtGui import QGuiApplication

from cicada.core.arrange import Shift, with_their_rests
from cicada.core.copied import Copied, copied, decoded, pasting
from cicada.core.editing import Cell, Changes, Edit, Several
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    HushSound,
    PlaceClip,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer
from cicada.core.model import Clip, Hush, Layer, Rest, Sound, keyframe_at
from cicada.core.naming import all_ids, code_name, free_id, free_name, next_id
from cicada.core.plan import Voice
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.shelf_edits import AddSounds
from cicada.errors import CicadaError
from cicada.store.sounds_folder import moved_sound
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.words.quantities import Pace, count, line_text, parse_line

MIME = "application/x-cicada-keyframes"
# The first line of copied lines, which otherwise are plain text.
LINES = "level and pan lines"
# What frames are put into or taken out of.
SCOPES = {
    "all": "all layers and what stands on the rulers",
    "chosen": "the layers of the chosen keyframes",
    "layer": "this layer",
}


class Arranging(QObject):
    """Edits of what is chosen on the sheet; ``said`` is a sentence about what was done."""

    said = Signal(str)

    def __init__(self, session: Session, planning: Planning, sheet: Sheet) -> None:
        super().__init__()
        self._session, self._planning, self._sheet = session, planning, sheet
        self._document = session.document
        self.scope = "all"
        self._copied = b""

    def _do(self, edit: Edit | None) -> bool:
        return edit is not None and self._document.do(edit)

    def _some(self) -> bool:
        if not self._session.chosen:
            self.said.emit("Choose a keyframe first.")
        return bool(self._session.chosen)

    def _clips(self) -> tuple[Cell, ...]:
        return tuple(cell for cell, k in self._session.keyframes() if isinstance(k, Clip))

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
        frames = [cell.frame for cell in shift.cells]
        long = max(self._sheet.span_end(cell) for cell in shift.cells) - min(frames)
        by, _ = shift.within(max(long, max(frames) + 1 - min(frames)), 0)
        if self._do(shift.copying(by, 0, "duplicate")):
            self._session.choose_all([shift.moved(cell, by, 0) for cell in shift.cells])

    def copy(self) -> bool:
        """Put what is chosen on the clipboard; whether there was anything."""
        if not self._some():
            return False
        document = self._document
        taken = copied(
            document.project, self._session.scene, self._session.chosen, str(document.file)
        )
        self._copied = taken.encoded()
        data = QMimeData()
        data.setData(MIME, QByteArray(self._copied))
        QGuiApplication.clipboard().setMimeData(data)
        return True

    def cut(self) -> None:
        """Put what is chosen on the clipboard and clear it."""
        if self.copy():
            cells = tuple(sorted(with_their_rests(self._session.scene, self._session.chosen)))
            self._do(ClearKeyframes(cells=cells, verb="cut"))

    def close(self) -> None:
        """Take what was copied off the clipboard: its data does not outlive the window."""
        if self._copied and _on_clipboard() == self._copied:
            QGuiApplication.clipboard().clear()

    def can_paste(self) -> bool:
        """Whether keyframes are on the clipboard."""
        return bool(_on_clipboard())

    def paste(self) -> None:
        """Put the keyframes on the clipboard at the playhead, on the chosen layer and below."""
        copy = decoded(_on_clipboard())
        if copy is None:
            self.said.emit("There are no keyframes on the clipboard.")
            return
        session, document = self._session, self._document
        try:
            added, ids = self._brought(copy)
            project = AddSounds(sounds=added).apply(document.project) if added else document.project
            frame = session.playhead
            edit, cells = pasting(project, session.scene, copy, session.cell, frame, ids)
        except CicadaError as error:
            document.refused.emit(str(error))
            return
        if added:
            edit = Several(named=edit.title, edits=(AddSounds(sounds=added), edit))
        if self._do(edit):
            session.choose_all(cells)
            also = f", with {count(len(added), 'sound')}" if added else ""
            self.said.emit(f"Pasted {count(len(cells), 'keyframe')}{also}.")

    def _brought(self, copy: Copied) -> tuple[tuple[Sound, ...], dict[str, str]]:
        """The sounds to be added for what is pasted, and the id each of its sounds has here."""
        project, file = self._document.project, self._document.file
        here = {sound.id: sound for sound in project.sounds}
        by_hash = {sound.hash: sound.id for sound in project.sounds if sound.hash}
        taken = all_ids(project)
        added: list[Sound] = []
        ids: dict[str, str] = {}
        for sound in copy.sounds:
            own = here.get(sound.id)
            if own is not None and own.hash == sound.hash:
                ids[sound.id] = own.id
            elif sound.hash and sound.hash in by_hash:
                ids[sound.id] = by_hash[sound.hash]
            else:
                new = next_id("s", taken)
                taken.add(new)
                ids[sound.id] = new
                names = {other.code_name for other in (*project.sounds, *added)}
                own_name = code_name(sound.name or new, names)
                moved = moved_sound(sound, Path(copy.file), file)
                added.append(replace(moved, id=new, code_name=own_name))
        return tuple(added), ids

    def copy_lines(self, clip: Clip) -> None:
        """Put the lines of a clip on the clipboard, as they are typed."""
        lines = [line_text("level", clip.level_line), line_text("pan", clip.pan_line)]
        QGuiApplication.clipboard().setText("\n".join((LINES, *lines)))

    def paste_lines(self) -> None:
        """Put the lines on the clipboard on all chosen clips."""
        words = QGuiApplication.clipboard().text().split("\n")
        if len(words) != 3 or words[0] != LINES:
            self.said.emit("No lines were copied: Ctrl+Alt+C copies those of a clip.")
            return
        # Lines are told in seconds, whatever the project's frames are.
        pace = Pace(24.0)
        try:
            level, pan = parse_line("level", words[1], pace), parse_line("pan", words[2], pace)
        except ValueError as error:
            self.said.emit(str(error))
            return
        self.change({"level_line": level, "pan_line": pan}, "the lines")

    # -- changing ------------------------------------------------------------------------------

    def clear(self) -> None:
        """Take what is chosen away: points of an opened line, or keyframes."""
        if self._sheet.on_opened.remove_points() or not self._some():
            return
        cells, before = self._session.cells(), self._session.scene
        if self._do(ClearKeyframes(cells=cells)):
            left = sum(len(layer.keyframes) for layer in self._session.scene.layers)
            gone = sum(len(layer.keyframes) for layer in before.layers) - left - len(cells)
            rests = f", with {count(gone, 'rest')} that gave room" if gone else ""
            self.said.emit(f"Cleared {count(len(cells), 'keyframe')}{rests}.")

    def take_sounds_off(self, leave: str) -> None:
        """Take the sounds off the chosen clips, leaving rests or marks."""
        clips = self._clips()
        if clips:
            self._do(TakeSoundsOff(cells=clips, leave=leave))
        else:
            self.said.emit("Choose a clip first.")

    def place(self, sound: str, cell: Cell) -> None:
        """Put a sound on a cell and show it; without a layer, on a new one named after it."""
        project, scene = self._document.project, self._session.scene
        names = {each.id: each.name for each in project.sounds}
        if sound not in names:
            return
        layers = {layer.id: layer for layer in scene.layers}
        layer, name = layers.get(cell.layer), names[sound] or sound
        edit: Edit = PlaceClip(layer=cell.layer, frame=cell.frame, sound=sound, sound_name=name)
        if not cell.layer:
            free = free_name(name, {each.name for each in scene.layers})
            layer = Layer(id=free_id("l", project), name=free, keyframes=())
            cell = Cell(layer.id, cell.frame)
            put = PlaceClip(layer=layer.id, frame=cell.frame, sound=sound, sound_name=name)
            edit = Several(named=put.title, edits=(AddLayer(scene=scene.id, layer=layer), put))
        before = keyframe_at(layer, cell.frame) if layer is not None else None
        if self._do(edit):
            # Chosen anew, also where it was chosen already: it is another keyframe now.
            self._session.choose(None)
            self._session.choose(cell)
            if isinstance(before, Clip):
                gone = names.get(before.sound, "")
                self.said.emit(f"{name} has replaced {gone} there; Ctrl+Z brings it back.")

    def replace_sound(self, sound: str) -> None:
        """Put another sound on the chosen clips; their settings stay."""
        clips = self._clips()
        if clips:
            self._do(ChangeKeyframes(cells=clips, changes={"sound": sound}, what="the sound"))

    def change(self, changes: Changes, what: str) -> None:
        """Change fields of all chosen clips."""
        clips = self._clips()
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
            self.said.emit("There is nothing to choose.")

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
        hush = Hush(frame=cell.frame, fade=0.2)
        here = self._sounding_on(cell)
        own = [voice for voice in here if voice.layer == cell.layer]
        if here and not own:
            hush = replace(hush, target="sound", sound=here[0].sound)
        self._put(hush, cell.layer, "A hush")

    def _place(self) -> Cell | None:
        cell = self._session.place()
        if cell is None:
            self.said.emit("Choose a frame on a layer first.")
        return cell

    def _put(self, keyframe: Rest | Hush, layer: str, what: str) -> None:
        """Put a keyframe on a layer and show it; what it replaces is said."""
        before = keyframe_at(self._document.project.layer(layer)[1], keyframe.frame)
        if self._do(PutKeyframes(keyframes=((layer, keyframe),))):
            self._session.choose(Cell(layer, keyframe.frame))
            if isinstance(before, Clip):
                name = self._document.project.sound(before.sound).name
                shown = keyframe.frame + self._document.project.first_frame
                self.said.emit(
                    f"{what} has replaced {name} on frame {shown}; Ctrl+Z brings it back."
                )

    # -- what sounds at the playhead -----------------------------------------------------------

    def _sounding_on(self, cell: Cell) -> list[Voice]:
        """The voices on the row of a layer that sound on a frame."""
        traces = self._sheet.traces
        row = traces.row_of(cell.layer)
        return [] if row is None else _sounding(traces, traces.rows[row], cell.frame)

    def sounding_here(self) -> list[Voice]:
        """The voices that sound on the playhead's frame, those of the chosen clips first."""
        traces, frame = self._sheet.traces, self._session.playhead
        found = [voice for row in traces.rows for voice in _sounding(traces, row, frame)]
        chosen = self._session.chosen
        return sorted(found, key=lambda v: (v.layer, v.frame) not in chosen)

    def hush_here(self) -> None:
        """Silence all that sounds at the playhead."""
        self._hush(self.sounding_here())

    def hush_chosen(self) -> None:
        """Silence at the playhead what is chosen, of what sounds there."""
        chosen = self._session.chosen
        here = [v for v in self.sounding_here() if (v.layer, v.frame) in chosen]
        if not here and self.sounding_here():
            self.said.emit("What is chosen does not sound at the playhead.")
            return
        self._hush(here)

    def _hush(self, voices: list[Voice]) -> None:
        if not voices:
            self.said.emit("Nothing sounds on this frame.")
            return
        session, project = self._session, self._document.project
        own = {layer.id for layer in session.scene.layers}
        # One hush of a sound ends all its soundings.
        first = {voice.sound: voice for voice in reversed(voices)}
        edits = tuple(
            HushSound(
                scene=session.scene_id,
                layer=voice.layer,
                clip_frame=voice.frame if voice.layer in own else None,
                sound=sound,
                frame=session.playhead,
                sound_name=project.sound(sound).name,
            )
            for sound, voice in first.items()
        )
        many = f"hush {count(len(edits), 'sound')}"
        if not self._do(edits[0] if len(edits) == 1 else Several(named=many, edits=edits)):
            return
        put = []
        for layer in session.scene.layers:
            found = keyframe_at(layer, session.playhead)
            if isinstance(found, Hush) and found.sound in first:
                put.append((layer, Cell(layer.id, found.frame)))
        session.choose_all([cell for _, cell in put])
        names = " and ".join(project.sound(sound).name for sound in first)
        where = " and ".join(dict.fromkeys(layer.name or layer.id for layer, _ in put))
        verb = "is" if len(first) == 1 else "are"
        self.said.emit(f"{names} {verb} hushed here, by a hush on {where}.")

    def switch_layer(self, field: str) -> None:
        """Switch mute, solo, guarded, off or past_scene of the chosen layer."""
        layer = self._session.layer()
        if layer is None:
            self.said.emit("Choose a layer first.")
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
            self.said.emit(f"Frames move {SCOPES[self.scope]}, and nothing is chosen.")
            return False
        return self._do(
            kind(scene=session.scene_id, frame=session.playhead, count=frames, layers=layers)
        )

    def insert_frames(self, frames: int) -> None:
        """Insert frames at the playhead; what stands there and later moves on."""
        if self._ripple(InsertFrames, frames):
            self.said.emit(f"Inserted {count(frames, 'frame')}.")

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
        self.said.emit(f"Removed {count(frames, 'frame')}{what}; Ctrl+Z brings them back.")


def _on_clipboard() -> bytes:
    """The keyframes on the clipboard, as they were written; nothing if it holds something else."""
    # Some platforms have no data at all where nothing was copied.
    data = QGuiApplication.clipboard().mimeData()
    return bytes(data.data(MIME).data()) if data is not None else b""  # type: ignore[redundant-expr]


def _sounding(traces: SceneTraces, row: Row, frame: int) -> list[Voice]:
    """The voices of a row that sound on a frame."""
    start, end = traces.of_frame(frame), traces.of_frame(frame + 1)
    return [
        voice
        for index, voice in enumerate(row.voices)
        if row.starts[index] < end and row.ends[index] > start
    ]
