"""The chosen clip, ready to be shaped: what commands do to it, and what they would do."""

from collections.abc import Callable

from PySide6.QtWidgets import QMenu

from cicada.core.editing import Cell, Edit
from cicada.core.model import Clip, Layer
from cicada.core.reshaping import ReshapeClip, shaping_of
from cicada.core.shaping import Shaping
from cicada.errors import BadEdit, CicadaError
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning

Making = Callable[[], Edit]


class ChosenClip:
    """Makes, does and tries out edits of the clip the card shows."""

    def __init__(self, sheet: Sheet, planning: Planning, notices: Notices) -> None:
        self.sheet, self.planning, self.notices = sheet, planning, notices
        self.document, self.session = sheet.document, sheet.session
        self.trial = planning.trial()

    def clip(self) -> Clip | None:
        """The clip itself, if one is chosen."""
        keyframe = self.session.keyframe()
        return keyframe if isinstance(keyframe, Clip) else None

    def layer(self, cell: Cell) -> Layer:
        """The layer a cell of the scene shown is on."""
        return self.session.scene.layer(cell.layer)

    def shaping(self) -> tuple[Cell, Shaping]:
        """Where it stands and how it can be shaped; raises ``BadEdit`` if none is chosen."""
        cell = self.session.cell
        if cell is None or self.clip() is None:
            raise BadEdit("no clip is chosen", remedy="choose one on the sheet first")
        # The document's own plan, also while something else is tried out.
        plan = self.planning.settled_plan
        visit = plan.visit_of(self.session.scene_id, self.planning.number)
        return cell, shaping_of(self.document.project, cell, plan, visit)

    def reshaping(self, named: str, make: Callable[[Shaping], Clip]) -> Making:
        """The edit that makes another clip of it."""

        def edit() -> Edit:
            cell, shaping = self.shaping()
            return ReshapeClip(cell=cell, clip=make(shaping), named=named)

        return edit

    def do(self, make: Making) -> bool:
        """Do an edit that may turn out not to fit, which is said; whether it was done."""
        try:
            edit = make()
        except CicadaError as error:
            self.notices.say(str(error))
            return False
        return self.document.do(edit)

    def follow(self, frame: int) -> None:
        """It stands on another frame of its layer now."""
        if self.session.cell is not None:
            self.session.follow_clip(Cell(self.session.cell.layer, frame))

    # -- trying out ----------------------------------------------------------------------------

    def look_at(self, make: Making) -> None:
        """Draw what an edit would do, unless somebody else's trial is being heard."""
        if self.trial.may_look:
            self.trial.attempt(make)

    def offer(
        self, menu: QMenu, words: str, make: Making, do: Callable[[], None] | None = None
    ) -> None:
        """An entry that is drawn on the sheet, untried by ear, while the pointer is on it."""
        action = menu.addAction(words)
        action.triggered.connect(lambda: do() if do is not None else self.do(make))
        action.hovered.connect(lambda: self.look_at(make))

    def draw_while_open(self, menu: QMenu) -> None:
        """What a menu's entries would do is drawn no more once it is closed."""
        menu.aboutToHide.connect(self.trial.end)
