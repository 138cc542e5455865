"""Trying a sound out against the picture, as the chosen layer would play it, without placing it."""

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import PlaceClip
from cicada.errors import CicadaError
from cicada.window.playing.transport import Transport
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session


class Trying(QObject):
    """The sheet draws and the player plays the project as if the sound were on the playhead.

    The document is not touched. ``changed`` comes when something is tried out or let go of.
    """

    changed = Signal()
    refused = Signal(str)

    def __init__(self, session: Session, planning: Planning, transport: Transport) -> None:
        super().__init__()
        self._session, self._planning, self._transport = session, planning, transport
        self.sound: str | None = None
        self.cell: Cell | None = None
        self._playing = False
        planning.planned.connect(self._planned)
        transport.state_changed.connect(self._follow)
        session.document.changed.connect(self.let_go)

    def try_out(self, sound: str) -> None:
        """Hear a sound from the playhead on, on the chosen layer or else the first."""
        layers = [layer.id for layer in self._session.scene.layers]
        if not layers:
            self.refused.emit("add a layer first; a sound is tried out on one")
            return
        cell = self._session.cell
        layer = cell.layer if cell is not None and cell.layer in layers else layers[0]
        frame = self.cell.frame if self.cell is not None else self._session.playhead
        project = self._session.document.project
        try:
            trial = PlaceClip(layer=layer, frame=frame, sound=sound).apply(project)
        except CicadaError as error:
            self.refused.emit(str(error))
            return
        self.sound, self.cell, self._playing = sound, Cell(layer, frame), False
        self._planning.try_out(trial)
        self.changed.emit()

    def place(self) -> Cell | None:
        """Stop trying because it is about to be placed: the cell, while the film plays on."""
        cell, self._playing = self.cell, False
        self.sound = self.cell = None
        self.changed.emit()
        return cell

    def let_go(self) -> None:
        """Try nothing any more; what is playing stops."""
        if self.sound is None:
            return
        cell = self.cell
        self.sound = self.cell = None
        if self._playing:
            self._playing = False
            self._transport.stop()
            if cell is not None:
                self._session.move_playhead(cell.frame)
        self._planning.try_out(None)
        self.changed.emit()

    def _planned(self) -> None:
        """The plan is there: play it from the frame the sound is on."""
        if self.cell is not None and self._planning.trying and not self._playing:
            self._transport.play_from(self.cell.frame)
            self._playing = True

    def _follow(self) -> None:
        if self._playing and not self._transport.playing:
            self.let_go()
