"""Trying a sound out against the picture, as the chosen layer would play it, without placing it."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Cell, Edit, Several
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Sound
from cicada.core.shelf_edits import AddSounds
from cicada.window.playing.transport import Transport
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session


class Trying(QObject):
    """The sheet draws and the player plays the project as if the sound were on the playhead.

    The document is not touched. ``changed`` comes when something is tried out or let go of; it is
    let go of, too, when something else is tried out in its place.
    """

    changed = Signal()

    def __init__(
        self, session: Session, planning: Planning, transport: Transport, notices: Notices
    ) -> None:
        super().__init__()
        self._session, self._transport, self._notices = session, transport, notices
        self._trial = planning.trial()
        self.sound: str | None = None
        self.cell: Cell | None = None
        # What places it, where it is not on the shelf.
        self.placing: Callable[[], None] | None = None
        self._playing = False
        planning.planned.connect(self._planned)
        planning.trial_changed.connect(self._keep_up)
        transport.state_changed.connect(self._follow)

    def try_out(
        self, sound: str, fresh: Sound | None = None, placing: Callable[[], None] | None = None
    ) -> None:
        """Hear a sound from the playhead on, on the chosen layer or else the first."""
        layers = [layer.id for layer in self._session.scene.layers]
        if not layers:
            self._notices.say("Add a layer first; a sound is tried out on one.")
            return
        cell = self._session.cell
        layer = cell.layer if cell is not None and cell.layer in layers else layers[0]
        frame = self.cell.frame if self.cell is not None else self._session.playhead
        self._playing = False
        edit: Edit = PlaceClip(layer=layer, frame=frame, sound=sound)
        if fresh is not None:
            edit = Several(named="try", edits=(AddSounds(sounds=(fresh,)), edit))
        if not self._trial.attempt(lambda: edit, heard=True):
            return
        self.sound, self.cell, self.placing = sound, Cell(layer, frame), placing
        project, where = self._session.document.project, self._session.scene.layer(layer).label
        label = fresh.label if fresh is not None else project.placeable(sound).label
        self._notices.say(
            f"Trying {label} on {where}, frame {project.shown(frame)}: "
            "P places it, Esc lets it go.",
            lasting=True,
        )
        self.changed.emit()

    def try_out_new(self, fresh: Sound, placing: Callable[[], None]) -> None:
        """Hear a sound that is not on the shelf; ``placing`` puts it there and places it."""
        self.try_out(fresh.id, fresh, placing)

    def place(self) -> Cell | None:
        """Stop trying because it is about to be placed: the cell, while the film plays on."""
        cell, self._playing = self.cell, False
        self._forget()
        return cell

    def settle(self) -> None:
        """What was tried out has been placed, or could not be: the film is as it is."""
        self._trial.end()

    def let_go(self) -> None:
        """Try nothing any more; what is playing stops."""
        if self.sound is None:
            return
        cell, playing = self.cell, self._playing
        self._playing = False
        self._forget()
        if playing:
            self._transport.stop()
            if cell is not None:
                self._session.move_playhead(cell.frame)
        self._trial.end()

    def _forget(self) -> None:
        self.sound = self.cell = None
        self._notices.say("")
        self.changed.emit()

    def _keep_up(self) -> None:
        """Something else is tried out, or the film is another than what this was tried in."""
        if not self._trial.begun:
            self.let_go()

    def _planned(self) -> None:
        """The plan is there: play it from the frame the sound is on."""
        if self.cell is not None and self._trial.planned and not self._playing:
            self._transport.play_from(self.cell.frame)
            self._playing = True

    def _follow(self) -> None:
        if self._playing and not self._transport.playing:
            self.let_go()
