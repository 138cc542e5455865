"""What the person at the window is looking at: scene, playhead, what is chosen. Never saved."""

from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from cicada.core.model import Keyframe, Layer, Scene, keyframe_at
from cicada.window.document import Document


class Cell(NamedTuple):
    """A frame of a layer, with or without a keyframe."""

    layer: str
    frame: int


class Session(QObject):
    """The state of looking. Every signal says that the part it names has changed."""

    scene_changed = Signal()
    playhead_moved = Signal()
    cell_changed = Signal()
    sound_changed = Signal()
    shown_sound_changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.scene_id = document.project.scenes[0].id
        self.playhead = 0
        self.cell: Cell | None = None
        self.sound: str | None = None
        self.shown_sound: str | None = None
        document.changed.connect(self._keep_up)

    @property
    def scene(self) -> Scene:
        """The scene on the sheet."""
        return self.document.project.scene(self.scene_id)

    def _keep_up(self) -> None:
        """Let go of what an edit has removed."""
        project = self.document.project
        if self.scene_id not in [scene.id for scene in project.scenes]:
            self.show_scene(project.scenes[0].id)
        if self.playhead >= self.scene.length:
            self.move_playhead(self.scene.length - 1)
        if self.cell and self.cell.layer not in [layer.id for layer in self.scene.layers]:
            self.choose(None)
        if self.sound and self.sound not in [sound.id for sound in project.sounds]:
            self.choose_sound(None)

    def show_scene(self, scene_id: str) -> None:
        """Put a scene on the sheet."""
        if scene_id != self.scene_id:
            self.scene_id = scene_id
            self.playhead = 0
            self.cell = None
            self.scene_changed.emit()
            self.playhead_moved.emit()
            self.cell_changed.emit()

    def move_playhead(self, frame: int) -> None:
        """Put the playhead on a frame of the scene, or the nearest there is."""
        frame = max(0, min(frame, self.scene.length - 1))
        if frame != self.playhead:
            self.playhead = frame
            self.playhead_moved.emit()

    def choose(self, cell: Cell | None) -> None:
        """Choose a frame of a layer."""
        if cell != self.cell:
            self.cell = cell
            self.cell_changed.emit()

    def choose_sound(self, sound: str | None) -> None:
        """Choose a sound on the shelf."""
        if sound != self.sound:
            self.show_uses(None)
            self.sound = sound
            self.sound_changed.emit()

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

    def keyframe(self) -> Keyframe | None:
        """The keyframe on the chosen cell."""
        layer = self.layer()
        if layer is None or self.cell is None:
            return None
        return keyframe_at(layer, self.cell.frame)
