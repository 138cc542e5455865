"""What the person at the window is looking at: scene, playhead, what is chosen. Never saved."""

from collections.abc import Iterable
from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Cell
from cicada.core.model import Clip, Keyframe, Layer, Project, Scene, keyframe_at
from cicada.window.state.document import Document


class Opened(NamedTuple):
    """What is opened on the sheet: a clip, the line of a layer (no frame), or the master line."""

    layer: str = ""
    frame: int | None = None
    sound: str = ""

    def within(self, project: Project, scene_id: str) -> "Opened | None":
        """What it is in a project, where its keyframe may stand on another frame; None: gone."""
        scene = project.scene(scene_id)
        if not self.layer:
            return self
        layer = next((x for x in scene.layers if x.id == self.layer), None)
        if layer is None or self.frame is None:
            return None if layer is None else self
        clips = [k for k in layer.keyframes if isinstance(k, Clip) and k.frame < scene.length]
        here = [k for k in clips if k.frame == self.frame]
        alike = here or [k for k in clips if k.sound == self.sound]
        if not alike:
            return None
        nearest = min(alike, key=lambda clip: abs(clip.frame - (self.frame or 0)))
        return Opened(self.layer, nearest.frame, nearest.sound)


class Session(QObject):
    """The state of looking. Every signal says that the part it names has changed.

    ``cell`` is what the card shows; ``chosen`` are all keyframes an edit is meant for.
    ``sound`` is the one meant on the shelf, ``chosen_sounds`` are all that are chosen there.
    ``playhead_placed`` comes when the playhead was put somewhere and not moved by playing, and
    ``scene_chosen`` when somebody chose another scene. ``spot`` is the frame of a layer that was
    clicked inside the sounding of a keyframe, where the next one is to be put. ``gone_to`` comes
    with a frame that is to be seen.
    """

    scene_changed = Signal()
    scene_chosen = Signal()
    playhead_moved = Signal()
    playhead_placed = Signal()
    cell_changed = Signal()
    sound_changed = Signal()
    sounds_chosen = Signal()
    shown_sound_changed = Signal()
    opened_changed = Signal()
    gone_to = Signal(int)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.scene_id = document.project.scenes[0].id
        self.playhead = 0
        self.cell: Cell | None = None
        self.chosen: frozenset[Cell] = frozenset()
        self.sound: str | None = None
        self.chosen_sounds: tuple[str, ...] = ()
        self.shown_sound: str | None = None
        self.opened: Opened | None = None
        self.spot: Cell | None = None
        self._era = document.era
        document.changed.connect(self._keep_up)

    @property
    def scene(self) -> Scene:
        """The scene on the sheet."""
        return self.document.project.scene(self.scene_id)

    def _keep_up(self) -> None:
        """Let go of what an edit has removed."""
        project = self.document.project
        if self._era != self.document.era:
            # Another film is looked at from its beginning, even if ids happen to be the same.
            self._era = self.document.era
            self.scene_id = ""
        if self.scene_id not in [scene.id for scene in project.scenes]:
            self.show_scene(project.scenes[0].id)
        if self.playhead >= self.scene.length:
            self.move_playhead(self.scene.length - 1)
        layers = {layer.id: layer for layer in self.scene.layers}
        if self.cell and self.cell.layer not in layers:
            self.choose(None)
        self.open(self.opened and self.opened.within(project, self.scene_id))
        kept = frozenset(
            cell
            for cell in self.chosen
            if cell.layer in layers and keyframe_at(layers[cell.layer], cell.frame) is not None
        )
        if kept != self.chosen:
            self.chosen = kept
            self.cell_changed.emit()
        sounds = {made.id for made in project.all_placeables()}
        there = tuple(sound for sound in self.chosen_sounds if sound in sounds)
        self.choose_sounds(there, self.sound if self.sound in sounds else None)

    def show_scene(self, scene_id: str, *, playing: bool = False) -> None:
        """Put a scene on the sheet; one that is gone, as may still be playing, is not shown."""
        if all(scene.id != scene_id for scene in self.document.project.scenes):
            return
        if scene_id != self.scene_id:
            self.scene_id = scene_id
            self.playhead = 0
            self.open(None)
            self.cell = self.spot = None
            self.chosen = frozenset()
            self.scene_changed.emit()
            self.playhead_moved.emit()
            self.cell_changed.emit()
            if not playing:
                self.playhead_placed.emit()
                self.scene_chosen.emit()

    def move_playhead(self, frame: int, *, playing: bool = False) -> None:
        """Put the playhead on a frame of the scene, or the nearest there is."""
        frame = max(0, min(frame, self.scene.length - 1))
        if frame != self.playhead:
            self.playhead = frame
            self.playhead_moved.emit()
        if not playing:
            self.playhead_placed.emit()

    def open(self, opened: Opened | None) -> None:
        """Open a clip or a line on the sheet, or close what is open."""
        if opened != self.opened:
            self.opened = opened
            self.opened_changed.emit()

    def choose(self, cell: Cell | None) -> None:
        """Choose a frame of a layer, and the keyframe on it alone."""
        self.choose_all(() if cell is None else (cell,), cell)

    def choose_all(self, cells: Iterable[Cell], lead: Cell | None = None) -> None:
        """Choose keyframes, of which the card shows ``lead`` or the first; empty cells fall out."""
        at = {layer.id: {k.frame for k in layer.keyframes} for layer in self.scene.layers}
        chosen = frozenset(c for c in cells if c.frame in at.get(c.layer, ()))
        if lead is None and chosen:
            lead = min(chosen, key=lambda cell: (cell.frame, cell.layer))
        self.spot = None
        if (lead, chosen) != (self.cell, self.chosen):
            self.cell, self.chosen = lead, chosen
            self.cell_changed.emit()

    def choose_also(self, cell: Cell) -> None:
        """Choose one more keyframe, or let go of it if it is chosen."""
        if cell in self.chosen:
            self.choose_all(self.chosen - {cell})
        else:
            self.choose_all(self.chosen | {cell}, cell)

    def cells(self) -> tuple[Cell, ...]:
        """The chosen keyframes, in order of layers and frames."""
        order = {layer.id: index for index, layer in enumerate(self.scene.layers)}
        return tuple(sorted(self.chosen, key=lambda cell: (order[cell.layer], cell.frame)))

    def place(self) -> Cell | None:
        """Where the next keyframe is to be put: the frame clicked, or the one chosen."""
        return self.spot or self.cell

    def choose_sound(self, sound: str | None) -> None:
        """Choose a sound on the shelf, and it alone unless it is one of those chosen."""
        alone = () if sound is None else (sound,)
        self.choose_sounds(self.chosen_sounds if sound in self.chosen_sounds else alone, sound)

    def choose_sounds(self, sounds: tuple[str, ...], lead: str | None) -> None:
        """Choose sounds on the shelf, of which ``lead`` is the one meant."""
        others, another = sounds != self.chosen_sounds, lead != self.sound
        self.chosen_sounds, self.sound = sounds, lead
        if another:
            self.show_uses(None)
            self.sound_changed.emit()
        if others:
            self.sounds_chosen.emit()

    def show_uses(self, sound: str | None) -> None:
        """Let all clips of a sound stand out on the sheet."""
        if sound != self.shown_sound:
            self.shown_sound = sound
            self.shown_sound_changed.emit()

    def layer(self) -> Layer | None:
        """The layer of the chosen cell."""
        if self.cell is None:
            return None
        return next((x for x in self.scene.layers if x.id == self.cell.layer), None)

    def keyframes(self) -> list[tuple[Cell, Keyframe]]:
        """The chosen keyframes with their cells, in order."""
        layers = {layer.id: layer for layer in self.scene.layers}
        found = [(cell, keyframe_at(layers[cell.layer], cell.frame)) for cell in self.cells()]
        return [(cell, keyframe) for cell, keyframe in found if keyframe is not None]

    def clip_cells(self) -> tuple[Cell, ...]:
        """Where the chosen clips stand, in order."""
        return tuple(cell for cell, k in self.keyframes() if isinstance(k, Clip))

    def keyframe(self) -> Keyframe | None:
        """The keyframe on the chosen cell."""
        layer = self.layer()
        if layer is None or self.cell is None:
            return None
        return keyframe_at(layer, self.cell.frame)

    # -- going somewhere -----------------------------------------------------------------------

    def go_to(self, scene: str, cell: Cell) -> None:
        """Show a cell of any scene: choose it, and put the playhead there."""
        self.show_scene(scene)
        self.move_playhead(cell.frame)
        self.choose(cell)
        self.gone_to.emit(cell.frame)

    def follow_clip(self, cell: Cell) -> None:
        """The chosen clip stands on another frame now, and so does it where it is opened."""
        opened = self.opened
        self.choose(cell)
        if opened is not None and opened.frame is not None:
            self.open(Opened(cell.layer, cell.frame, opened.sound))
