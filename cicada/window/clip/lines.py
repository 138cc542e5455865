"""The lines of the chosen clip: drawn by a gesture; and its hard edges softened."""

from PySide6.QtCore import QPoint

from cicada.core.editing import Several, Value
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip
from cicada.core.outline import SOFT, hard_edges
from cicada.errors import BadEdit
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.clip.gestures import GesturePanel


class Lines:
    """Draws lines, and short fades where a clip begins or ends hard."""

    def __init__(self, chosen: ChosenClip) -> None:
        self.chosen, self.sheet, self.notices = chosen, chosen.sheet, chosen.notices
        self.document, self.session = chosen.document, chosen.session

    def gesture(self, at: QPoint) -> None:
        """Offer to draw a move, a swell or a dip, beside a place of the screen."""
        try:
            cell, shaping = self.chosen.shaping()
        except BadEdit as error:
            self.notices.say(str(error))
            return
        GesturePanel(self.sheet, cell, shaping, self.notices).show_at(at)

    def soften(self) -> None:
        """Put a very short fade where the chosen clips begin or end hard."""
        edits = []
        for cell, clip in self.session.keyframes():
            if isinstance(clip, Clip):
                edges = hard_edges(self.document.project, clip, self.sheet.sounds.read(clip.sound))
                changes: dict[str, Value] = {edge.field: SOFT for edge in edges}
                if changes:
                    what = "the fades of hard edges"
                    edits.append(ChangeKeyframes(cells=(cell,), changes=changes, what=what))
        if edits:
            self.document.do(Several(named="soften hard edges", edits=tuple(edits)))
        else:
            self.notices.say("No edge of it is hard.")
