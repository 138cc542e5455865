"""Going about the sheet: frame by frame, from layer to layer."""

from cicada.core.editing import Cell
from cicada.window.playing.scrubbing import Scrubbing
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.notices import Notices
from cicada.window.widgets.actions import Action


class GoingAbout:
    """Puts the playhead and what is chosen elsewhere; the frame stepped onto is heard."""

    def __init__(self, sheet: Sheet, scrubbing: Scrubbing, notices: Notices) -> None:
        self.sheet, self.session = sheet, sheet.session
        self._scrubbing, self.notices = scrubbing, notices

    def entries(self) -> list[Action | None]:
        """Its entries of the Play menu."""
        return [
            ("next", "One frame on", "Right", lambda: self.step(1)),
            ("back", "One frame back", "Left", lambda: self.step(-1)),
            ("next_ten", "Ten frames on", "Shift+Right", lambda: self.step(10)),
            ("back_ten", "Ten frames back", "Shift+Left", lambda: self.step(-10)),
            ("first", "First frame", "Home", lambda: self.go_to(0)),
            ("last", "Last frame", "End", lambda: self.go_to(self.session.scene.length - 1)),
            ("up", "Layer above", "Up", lambda: self.change_row(-1)),
            ("down", "Layer below", "Down", lambda: self.change_row(1)),
        ]

    def step(self, frames: int) -> None:
        """Move the playhead, and let the frame stepped onto be heard."""
        self.go_to(self.session.playhead + frames)

    def go_to(self, frame: int) -> None:
        """Put the playhead on a frame."""
        last = self.session.scene.length - 1
        if self.session.playhead == max(0, min(frame, last)):
            self.notices.say(f"This is the scene's {'first' if frame <= 0 else 'last'} frame.")
        frame = max(0, min(frame, last))
        self.session.move_playhead(frame)
        self.sheet.show_frame(frame)
        # Several that are chosen stay so: whoever looks about does not want to choose them again.
        if self.session.cell is not None and len(self.session.chosen) < 2:
            self.session.choose(Cell(self.session.cell.layer, frame))
        self._scrubbing.step(frame)

    def change_row(self, by: int) -> None:
        """Choose the playhead's frame on the layer above or below."""
        layers = [layer.id for layer in self.session.scene.layers]
        if not layers:
            self.notices.say("There is no layer yet: Ctrl+L adds one.")
            return
        cell = self.session.cell
        row = layers.index(cell.layer) + by if cell and cell.layer in layers else 0
        if not 0 <= row < len(layers):
            self.notices.say(f"This is the {'lowest' if by > 0 else 'top'} layer.")
        row = max(0, min(row, len(layers) - 1))
        self.session.choose(Cell(layers[row], self.session.playhead))

    def fit_chosen(self) -> None:
        """Show what is chosen as large as it goes."""
        if not self.sheet.fit_chosen():
            self.notices.say("Nothing is chosen.")
