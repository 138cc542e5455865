"""What the chosen clip would do if it were set otherwise, planned beside the window."""

from concurrent.futures import Future

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Cell
from cicada.core.model import Clip, Project, Run, keyframe_at
from cicada.core.ways import Setting, Way, ways
from cicada.window.state.beside import Beside, Post
from cicada.window.state.conditions import Conditions
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session


class _Found:
    """The ways that were planned, for whom; one object, so that it is known again."""

    def __init__(self, project: Project, run: Run, cell: Cell, setting: Setting) -> None:
        self.project, self.run, self.cell, self.setting = project, run, cell, setting
        self.ways: list[Way] = []


class Ways(QObject):
    """``changed`` comes when others are compared, or none any more.

    ``cell`` is the clip, ``setting`` what of it is set otherwise, ``found`` a way for each value;
    ``heard`` is the value that is listened to.
    """

    changed = Signal()

    def __init__(self, session: Session, planning: Planning, conditions: Conditions) -> None:
        super().__init__()
        self._session, self._planning, self._conditions = session, planning, conditions
        self._document = session.document
        self._beside = Beside("ways", self._take)
        self._asked: _Found | None = None
        self._newest: Future[None] | None = None
        self.cell: Cell | None = None
        self.setting: Setting = "sync"
        self.found: list[Way] = []
        self.heard = ""
        self._document.changed.connect(self._again)
        conditions.changed.connect(self._again)
        session.scene_chosen.connect(self.close_all)

    def compare(self, cell: Cell, setting: Setting) -> None:
        """Plan a clip with each value of one of its settings."""
        self.cell, self.setting, self.found, self.heard = cell, setting, [], ""
        self._again()
        self.changed.emit()

    def close_all(self) -> None:
        """Compare nothing any more."""
        if self.cell is not None:
            self.cell, self.found, self._asked, self.heard = None, [], None, ""
            self.changed.emit()

    def hear(self, value: str) -> None:
        """Say which is listened to; empty: none."""
        if value != self.heard:
            self.heard = value
            self.changed.emit()

    @property
    def clip(self) -> Clip | None:
        """The clip as it is set; None if there is none."""
        cell = self.cell
        for scene, layer in self._document.project.all_layers():
            if cell is not None and layer.id == cell.layer and cell.frame < scene.length:
                keyframe = keyframe_at(layer, cell.frame)
                return keyframe if isinstance(keyframe, Clip) else None
        return None

    @property
    def number(self) -> int:
        """The pass that is compared: the one the sheet shows."""
        return self._planning.number

    @property
    def now(self) -> Way | None:
        """The way it is set."""
        clip = self.clip
        value = None if clip is None else getattr(clip, self.setting)
        return next((way for way in self.found if way.value == value), None)

    def _again(self) -> None:
        if self.cell is None:
            return
        if self.clip is None:
            self.close_all()
            return
        self._asked = _Found(
            self._document.project, self._conditions.run(), self.cell, self.setting
        )
        if self._newest is not None:
            self._newest.cancel()
        self._newest = self._beside.do(_plan_all, self._asked)

    def _take(self, found: _Found) -> None:
        if found is self._asked:
            self.found = found.ways
            self.changed.emit()

    def close(self) -> None:
        """Wait for the work under way and take no more."""
        self._beside.close()


def _plan_all(post: Post, found: _Found) -> None:
    found.ways = ways(found.project, found.run, found.cell, found.setting)
    post(found)
