"""Esc: one thing after the other is let go of, what is heard first."""

from cicada.window.clip.deciding import Deciding
from cicada.window.frame.lower_half import LowerHalf
from cicada.window.picture.commands import PictureCommands
from cicada.window.playing.listening import Listening
from cicada.window.playing.pads import Pads
from cicada.window.playing.transport import Transport
from cicada.window.playing.trying import Trying
from cicada.window.playing.zones import Zones
from cicada.window.recording.recording import Recording
from cicada.window.sheet.sheet import Sheet


class Escape:
    """Silences everything; where nothing sounds, it closes what is open."""

    def __init__(
        self,
        sheet: Sheet,
        trying: Trying,
        transport: Transport,
        listening: Listening,
        deciding: Deciding,
        pictures: PictureCommands,
        lower: LowerHalf,
        pads: Pads,
        zones: Zones,
        recording: Recording,
    ) -> None:
        self._sheet, self._trying, self._transport = sheet, trying, transport
        self._listening, self._deciding = listening, deciding
        self._pictures, self._lower, self._pads = pictures, lower, pads
        self._zones, self._recording = zones, recording

    def silence(self) -> None:
        """Let go of what is dragged or tried out, else of what sounds, else of what is shown."""
        if self._sheet.let_go() or self._zones.stop() or self._recording.stop():
            return
        if self._trying.sound is not None:
            self._trying.let_go()
            return
        sounding = self._transport.sounding or self._transport.standing
        self._listening.stop()
        self._transport.stop()
        if self._pads.played and not sounding:
            self._pads.play(on=False)
            return
        if sounding or self._deciding.close() or self._stop_drawing():
            return
        if self._sheet.on_opened.close():
            return
        session = self._sheet.session
        if self._pictures.over_sheet is not None:
            self._pictures.show_over_sheet()
        elif self._lower.widened:
            self._lower.widen(None)
        elif session.shown_sound is not None:
            session.show_uses(None)
        else:
            session.choose(None)

    def _stop_drawing(self) -> bool:
        """Draw neither the draw time nor a value any more; whether it was."""
        conditions = self._sheet.conditions
        was = conditions.drawing or bool(conditions.drawn_value)
        conditions.draw_by_hand(on=False)
        conditions.draw_value("")
        return was
