"""The meters beside the card: loudness and peaks of the whole, each layer's peak, and overs."""

import time
from functools import partial

from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.layer_meters import Layers
from cicada.window.playing.metering import Metering, Over
from cicada.window.playing.whole_meter import Whole
from cicada.window.state.session import Session
from cicada.window.widgets.rows import scrolled, soft
from cicada.window.words.loudness import peak_text
from cicada.window.words.quantities import count

# So many frames past full scale are listed, the worst first.
LISTED = 24


class MetersPanel(QFrame):
    """Shows what ``Metering`` has; follows it only while it is seen."""

    def __init__(self, session: Session, metering: Metering) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._metering = session, metering
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 10, 8)
        column.setSpacing(4)
        row = QHBoxLayout()
        title = QLabel("Meters")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        row.addStretch(1)
        row.addWidget(soft("true peak so far, dB"))
        column.addLayout(row)
        self.whole = Whole(metering)
        column.addWidget(self.whole)
        self.layers = Layers(session, metering)
        column.addWidget(scrolled(self.layers), 1)
        self.overs = QPushButton()
        self.overs.setObjectName("over")
        self.overs.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.overs.setToolTip("The frames on which it passes full scale, to go to")
        self.overs.setMenu(QMenu(self))
        self.overs.menu().aboutToShow.connect(self._list_overs)
        self.overs.hide()
        column.addWidget(self.overs)
        self._shown: dict[Over, float] = {}
        metering.changed.connect(self._follow)
        metering.film_changed.connect(self.whole.update)
        session.scene_changed.connect(self.layers.refresh)
        session.document.changed.connect(self.layers.refresh)

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._metering.want_film(on=True)
        self.layers.refresh()
        self._show_overs()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._metering.want_film(on=False)

    def _follow(self) -> None:
        if not self.isVisible():
            return
        now = time.monotonic()
        self.whole.follow(now)
        self.layers.follow(now)
        if self._metering.overs != self._shown:
            self._show_overs()

    # -- past full scale -------------------------------------------------------------------------

    def _worst_first(self) -> list[Over]:
        overs = self._metering.overs
        there = {scene.id for scene in self._session.document.project.scenes}
        return sorted((x for x in overs if x.scene in there), key=lambda x: -overs[x])

    def _show_overs(self) -> None:
        """Say on how many frames it is over, and where the most."""
        self._shown = dict(self._metering.overs)
        found = self._worst_first()
        self.overs.setVisible(bool(found))
        if found:
            frames = len({(over.scene, over.frame) for over in found})
            more = "or more " if self._metering.more_overs else ""
            words = f"Over on {more}{count(frames, 'frame')}, most"
            self.overs.setText(f"{words} {self._words(found[0])}")

    def _words(self, over: Over) -> str:
        project = self._session.document.project
        by = peak_text(self._metering.overs[over]).lstrip("+")
        how = "between samples " if over.true else ""
        frame = f"frame {project.shown(over.frame)}"
        here = over.scene == self._session.scene_id
        where = frame if here else f"{frame} of {project.scene(over.scene).label}"
        return f"{how}by {by} dB on {where}"

    def _list_overs(self) -> None:
        menu = self.overs.menu()
        menu.clear()
        for over in self._worst_first()[:LISTED]:
            menu.addAction(f"Go there: {self._words(over)}", partial(self._go, over))

    def _go(self, over: Over) -> None:
        self._session.show_scene(over.scene)
        self._session.move_playhead(over.frame)
        self._session.gone_to.emit(over.frame)
