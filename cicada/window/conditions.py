"""The run that the sheet draws and Space plays: which pass, and from where. Never saved."""

from PySide6.QtCore import QObject, Signal

from cicada.core.model import Run
from cicada.core.steady import MOST_PASSES
from cicada.window.session import Session

# The pass from which all are alike, wherever that is.
STEADY = 0


class Conditions(QObject):
    """``changed`` comes when the run is another."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.shown_pass = 1
        self.from_playhead = False
        self.chase = True
        self._origin = session.scene_id, session.playhead
        session.playhead_placed.connect(self._follow)

    def show_pass(self, number: int) -> None:
        """Show a pass of the film, counted from 1, or ``STEADY``."""
        if number != self.shown_pass:
            self.shown_pass = number
            self.changed.emit()

    def run_from(self, *, playhead: bool, chase: bool = True) -> None:
        """Begin the run at the film's start or at the playhead, with what rings on or without."""
        if (playhead, chase) != (self.from_playhead, self.chase):
            self.from_playhead, self.chase = playhead, chase
            self._origin = self._session.scene_id, self._session.playhead
            self.changed.emit()

    def _follow(self) -> None:
        here = self._session.scene_id, self._session.playhead
        if here != self._origin:
            self._origin = here
            if self.from_playhead:
                self.changed.emit()

    def run(self) -> Run:
        """The run, planned as far as the pass shown needs."""
        passes = self.shown_pass if self.shown_pass != STEADY else MOST_PASSES + 2
        if not self.from_playhead:
            return Run(passes=passes)
        scene, frame = self._origin
        return Run(scene=scene, frame=frame, chase=self.chase, passes=passes)
