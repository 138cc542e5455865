"""Zones of the picture that press pads when they are clicked: drawn there by hand."""

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from cicada.core.answer_edits import PutPad
from cicada.core.answers import Pad, Zone
from cicada.window.playing.pads import Pads
from cicada.window.state.conditions import Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session

# A zone is at least so much of the picture, each way; less was a click.
LEAST = 0.01


class Zones(QObject):
    """Places are parts of the picture's width and height, from its upper left corner."""

    changed = Signal()

    def __init__(
        self, session: Session, conditions: Conditions, pads: Pads, notices: Notices
    ) -> None:
        super().__init__()
        self._session, self._conditions = session, conditions
        self._pads, self._notices = pads, notices
        # The pad whose zone is being drawn; empty: none.
        self.drawing = ""
        pads.changed.connect(self._keep_up)

    def _keep_up(self) -> None:
        if self.drawing and self._pad(self.drawing) is None:
            self.drawing = ""
        self.changed.emit()

    def _pad(self, pad_id: str) -> Pad | None:
        pads = self._session.document.project.pads
        return next((pad for pad in pads if pad.id == pad_id), None)

    @property
    def shown(self) -> list[Pad]:
        """The pads whose zones are on the frame shown, while pads are at hand."""
        if not self._pads.ready_to_hand:
            return []
        scene, frame = self._session.scene_id, self._session.playhead
        return [
            pad
            for pad in self._session.document.project.pads
            if pad.zone is not None
            and not pad.off
            and pad.zone.scene == scene
            and pad.zone.frames[0] <= frame <= pad.zone.frames[1]
        ]

    def at(self, x: float, y: float) -> Pad | None:
        """The pad that a click there presses: of several the first in the list."""
        for pad in self.shown:
            assert pad.zone is not None
            left, top, width, height = pad.zone.at
            if left <= x < left + width and top <= y < top + height:
                return pad
        return None

    def click(self, x: float, y: float) -> bool:
        """A click on the picture; whether a zone was there, whose pad is pressed then."""
        pad = self.at(x, y)
        if pad is not None:
            self._pads.press(pad.id)
        return pad is not None

    # -- drawing -------------------------------------------------------------------------------

    def draw(self, pad_id: str) -> None:
        """Let the zone of a pad be drawn on the picture next; of none: no more."""
        self.drawing = "" if pad_id == self.drawing else pad_id
        if self.drawing:
            self._notices.say("Drag over the picture where a click is to press it; Esc leaves it.")
        self.changed.emit()

    def stop(self) -> bool:
        """Draw no zone any more; whether one was."""
        was, self.drawing = bool(self.drawing), ""
        if was:
            self.changed.emit()
        return was

    def drawn(self, x: float, y: float, other_x: float, other_y: float) -> None:
        """Make it the zone between two corners, on the frames marked or on all of the scene."""
        pad, self.drawing = self._pad(self.drawing), ""
        left, right = sorted(min(1.0, max(0.0, each)) for each in (x, other_x))
        top, bottom = sorted(min(1.0, max(0.0, each)) for each in (y, other_y))
        if pad is None or min(right - left, bottom - top) < LEAST:
            self.changed.emit()
            return
        scene, marked = self._session.scene, self._conditions.range
        frames = (0, scene.length - 1)
        if marked is not None and marked.scene == scene.id:
            frames = marked.first, marked.last
        at = (round(left, 4), round(top, 4), round(right - left, 4), round(bottom - top, 4))
        zone = Zone(scene=scene.id, frames=frames, at=at)
        made = replace(pad, zone=zone)
        self._session.document.do(PutPad(pad=made, named=f"the zone of {pad.label}"))
        self.changed.emit()
