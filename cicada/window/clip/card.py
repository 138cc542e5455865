"""The clip card: the chosen keyframe as a sentence, and below it every setting in four parts."""

from html import escape
from typing import Any

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
)
from typing_extensions import override

from cicada.core.beats import tempo_at
from cicada.core.clip import clip_timing
from cicada.core.editing import Edit, Several, Value
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Hush, Layer
from cicada.core.outline import hard_edges, loudest
from cicada.core.values import WHOLE
from cicada.window.clip.comparing import Comparing
from cicada.window.clip.options import PART_OF, PARTS
from cicada.window.clip.other_pages import EmptyPage, HushPage, NothingPage, RestPage, offer
from cicada.window.clip.pages import ClipPages
from cicada.window.drawing import theme
from cicada.window.state.arranging import Arranging
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.fields import QuantityField
from cicada.window.widgets.rows import Page
from cicada.window.words.quantities import TimeUnits, count, decibels, peaks_at
from cicada.window.words.sentence import Phrase, sentence


class Sentence(QLabel):
    """The sentence: Tab goes through its links and on, Shift+Tab back through them and out."""

    def __init__(self) -> None:
        super().__init__()
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse
            | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.setFont(theme.font(14))
        self.setAccessibleName("What this keyframe does")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)

    @override
    def focusNextPrevChild(self, onwards: bool) -> bool:
        before = self.selectionStart()
        if onwards:
            return super().focusNextPrevChild(True)
        # Backwards the label would go round among its links for ever.
        if super().focusNextPrevChild(False) and 0 <= self.selectionStart() < before:
            return True
        return QFrame.focusNextPrevChild(self, False)


class Card(QFrame):
    """Shows and changes the chosen keyframe; without one, offers to put one there."""

    # What was done here is done: the keys may go elsewhere.
    left = Signal()

    def __init__(
        self,
        session: Session,
        planning: Planning,
        arranging: Arranging,
        comparing: Comparing,
        sounds: Sounds,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.planning, self.document = session, planning, session.document
        self._arranging, self._comparing = arranging, comparing
        self._sounds, self._notices = sounds, notices
        self.clip, self.empty = ClipPages(self._units), EmptyPage(arranging)
        self.hush, self.rest = HushPage(self._units, arranging), RestPage(arranging)
        self.nothing = NothingPage()
        self.setAccessibleName("Clip card")
        self.setMinimumSize(412, 190)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 5)
        column.setSpacing(4)
        self.words, self.aside = Sentence(), _aside()
        self.words.linkActivated.connect(self._follow)
        self.aside.linkActivated.connect(self._ask_for)
        column.addWidget(self.words)
        column.addWidget(self.aside)
        self.pages = QStackedWidget()
        # What does not fit below a long sentence is scrolled, never squeezed.
        around = QScrollArea()
        around.setObjectName("pages")
        around.setFrameShape(QFrame.Shape.NoFrame)
        around.setWidgetResizable(True)
        around.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        around.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        around.setWidget(self.pages)
        column.addWidget(around, 1)
        self.parts = _tabs()
        self.parts.currentChanged.connect(self._show_part)
        self.clip.changed.connect(self._change)
        self.clip.trimmed.connect(self._trim)
        self.clip.moved.connect(self._move_to)
        self.empty.placed.connect(self._place)
        self.empty.changed.connect(self._change_layer)
        self.hush.changed.connect(self._change)
        self.hush.target_chosen.connect(self._choose_target)
        self.nothing.asked.connect(self._ask_for)
        for page in (*self.clip.pages, self.empty, self.hush, self.rest, self.nothing):
            self.pages.addWidget(page)
        self.pages.currentChanged.connect(self._fit_pages)
        self._fit_pages()
        column.addWidget(self.parts)
        session.cell_changed.connect(self.refresh)
        session.scene_changed.connect(self.refresh)
        session.playhead_moved.connect(self._show_playhead)
        session.sound_changed.connect(self._offer_sounds)
        planning.planned.connect(self.refresh)
        comparing.changed.connect(self.refresh)
        self.document.changed.connect(self.refresh)
        self.refresh()

    def _units(self) -> TimeUnits:
        """What times on the card are told in, where the chosen clip stands."""
        fps = self.document.project.timebase.fps
        frame = self.session.cell.frame if self.session.cell is not None else 0
        return TimeUnits(fps, tempo_at(self.session.scene, frame))

    def _ask_for(self, command: str) -> None:
        self.clip.asked.emit(command, self.mapToGlobal(QPoint(16, 60)))

    def _change_layer(self, field: str, value: Value) -> None:
        cell = self.session.cell
        if cell is not None:
            edit = ChangeLayer(layer=cell.layer, changes={field: value})
            self.document.do(edit, joins=QuantityField.stepping)

    # -- showing -------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the keyframe as it is now."""
        keyframe, layer = self.session.keyframe(), self.session.layer()
        self.aside.setVisible(False)
        self.parts.setVisible(isinstance(keyframe, Clip))
        if keyframe is None or layer is None or self.session.cell is None:
            self._show_empty(layer)
            return
        self._write_sentence()
        clips = self._clips()
        if isinstance(keyframe, Clip) and clips:
            self.clip.fill(clips)
            alike = len({clip.sound for clip in clips}) == 1
            offer(
                self.clip.sound,
                tuple(self.document.project.all_placeables()),
                keyframe.sound if alike else "",
            )
            self.clip.frame.set_value(self.document.project.shown(keyframe.frame))
            self._show_part(self.parts.currentIndex())
            self._show_aside(keyframe, layer)
        elif isinstance(keyframe, Hush):
            self.hush.fill(keyframe, tuple(self.document.project.all_placeables()))
            self.pages.setCurrentWidget(self.hush)
        else:
            self.pages.setCurrentWidget(self.rest)

    def _show_aside(self, clip: Clip, layer: Layer) -> None:
        """How loud the clip gets, whether its edges are hard, and what it is compared with."""
        project = self.document.project
        loud = loudest(project, layer, clip, self._sounds.peaks(clip.sound))
        self.clip.peak.setText(peaks_at(loud) if loud else "")
        timing = clip_timing(clip, length_of(project, clip.sound), project.rate)
        self.clip.show_length(timing.loop / project.rate)
        said = []
        compared = self._comparing.sentence()
        if compared:
            said.append(
                f"The version held: {escape(compared)}. {_link('flip_version', 'Flip')} · "
                f"{_link('match_versions', 'equally loud')} · {_link('keep_version', 'keep it')}"
            )
        trimmed = clip.trim != WHOLE and not compared
        read = self._sounds.read(clip.sound) if trimmed else None
        edges = hard_edges(project, clip, read)
        if edges:
            sides = {"fade_in": "begins", "fade_out": "ends"}
            where = " and ".join(sides[edge.field] for edge in edges)
            level = decibels(max(edge.level for edge in edges))
            said.append(f"It {where} hard, at {level}: {_link('soften', 'soften it')}")
        self.aside.setText("<br>".join(said))
        self.aside.setVisible(bool(said))

    def _write_sentence(self) -> None:
        keyframe, layer = self.session.keyframe(), self.session.layer()
        if keyframe is None or layer is None or not self.planning.up_to_date:
            return
        if len(self.session.chosen) > 1:
            self.words.setText(self._many())
            return
        project, scene = self.document.project, self.session.scene
        number = self.planning.number
        parts = sentence(project, self.planning.plan, scene, layer, keyframe, number)
        self.words.setText(_rich(parts))

    def _many(self) -> str:
        """What is chosen, where that is several keyframes."""
        found = self.session.keyframes()
        clips = sum(isinstance(keyframe, Clip) for _, keyframe in found)
        layers = len({cell.layer for cell, _ in found})
        what = count(clips, "clip") if clips == len(found) else count(len(found), "keyframe")
        where = "" if layers == 1 else f" on {layers} layers"
        tail = f"the {count(clips, 'clip')} among them" if clips != len(found) else "all of them"
        return (
            f"{_strong(f'{what}{where}')} chosen.<br>What you change here is changed in {tail}; "
            "“mixed” stands where they differ."
        )

    def _clips(self) -> list[Clip]:
        return [k for _, k in self.session.keyframes() if isinstance(k, Clip)]

    def _show_empty(self, layer: Layer | None) -> None:
        cell = self.session.cell
        if cell is None or layer is None:
            frame = self.document.project.shown(self.session.playhead)
            self.words.setText(
                f"{_strong('No keyframe is chosen.')} Click a frame on a layer, or drag a sound "
                f"from the shelf onto it. The playhead is on frame {frame}."
            )
            self.pages.setCurrentWidget(self.nothing)
            return
        frame = self.document.project.shown(cell.frame)
        name = escape(layer.label)
        self.words.setText(f"{_strong(f'Frame {frame} of {name}')} has no keyframe.")
        self._offer_sounds()
        self.empty.fill(layer)
        self.pages.setCurrentWidget(self.empty)

    def _fit_pages(self) -> None:
        """Only the page in sight says how much room is needed: a short one never scrolls."""
        shown_page = self.pages.currentWidget()
        for page in self.findChildren(Page):
            shown = page is shown_page
            fits = QSizePolicy.Policy.Preferred if shown else QSizePolicy.Policy.Ignored
            page.setSizePolicy(fits, fits)
        self.pages.adjustSize()

    def _show_playhead(self) -> None:
        """Say where it is, if that is all there is to say."""
        if self.session.cell is None:
            self._show_empty(None)

    def _offer_sounds(self) -> None:
        self.empty.offer(tuple(self.document.project.all_placeables()), self.session.sound or "")

    def _show_part(self, index: int) -> None:
        if isinstance(self.session.keyframe(), Clip):
            self.pages.setCurrentWidget(self.clip.pages[index])

    def _follow(self, control: str) -> None:
        """A part of the sentence was chosen: go to what changes it."""
        self.parts.setCurrentIndex(PART_OF.get(control, self.parts.currentIndex()))
        widget = {"target": self.hush.target, "fade": self.hush.fade}.get(
            control, self.clip.controls.get(control)
        )
        if widget is None:
            return
        widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
        if isinstance(widget, QComboBox):
            widget.showPopup()
        if isinstance(widget, QuantityField):
            widget.selectAll()

    # -- changing ------------------------------------------------------------------------------

    def _change(self, changes: dict[str, Any], what: str) -> None:
        lead = self.session.keyframe()
        kind = type(lead)
        cells = tuple(
            cell
            for cell, keyframe in self.session.keyframes()
            if type(keyframe) is kind
            and any(getattr(keyframe, field) != value for field, value in changes.items())
        )
        if lead is None or not cells:
            return
        edit = ChangeKeyframes(cells=cells, changes=changes, what=what)
        if not self.document.do(edit, joins=QuantityField.stepping):
            self.refresh()

    def _trim(self, side: int, value: float | None) -> None:
        """Trim one side of all chosen clips, each of which keeps its other one."""
        edits: list[Edit] = []
        for cell, clip in self.session.keyframes():
            if isinstance(clip, Clip):
                trim = (clip.trim[0], value) if side else (value or 0.0, clip.trim[1])
                edits.append(ChangeKeyframes(cells=(cell,), changes={"trim": trim}))
        many = f" of {len(edits)} keyframes" if len(edits) > 1 else ""
        edit = Several(named=f"change the trim{many}", edits=tuple(edits))
        if edits and not self.document.do(edit, joins=QuantityField.stepping):
            self.refresh()

    def _move_to(self, shown: int) -> None:
        self._arranging.move_to(shown - self.document.project.first_frame)
        self.refresh()

    def _choose_target(self, target: str) -> None:
        changes: dict[str, Any] = {"target": target}
        keyframe = self.session.keyframe()
        if target == "sound" and isinstance(keyframe, Hush) and keyframe.sound is None:
            sounds = tuple(self.document.project.all_placeables())
            if not sounds:
                self._notices.say("There is no sound to silence yet.")
                self.refresh()
                return
            changes["sound"] = sounds[0].id
        self._change(changes, "the hush")

    def _place(self, sound: str) -> None:
        if self.session.cell is not None:
            self._arranging.place(sound, self.session.cell)
            self.left.emit()


def _rich(parts: list[Phrase]) -> str:
    words = []
    link = theme.colour_name("MOSS_DEEP")
    for number, part in enumerate(parts):
        text = escape(part.text)
        if part.control:
            weight = " font-weight:600;" if number == 0 else ""
            text = f'<a href="{part.control}" style="color:{link};{weight}">{text}</a>'
        words.append(text)
    return "".join(words)


def _aside() -> QLabel:
    label = QLabel()
    label.setObjectName("soft")
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setWordWrap(True)
    label.setAccessibleName("What else can be done")
    return label


def _tabs() -> QTabBar:
    tabs = QTabBar()
    tabs.setObjectName("parts")
    tabs.setAccessibleName("Parts of the card")
    tabs.setExpanding(False)
    tabs.setDrawBase(False)
    for name in PARTS:
        tabs.addTab(name)
    return tabs


def _link(command: str, words: str) -> str:
    return f'<a href="{command}" style="color:{theme.colour_name("MOSS_DEEP")}">{words}</a>'


def _strong(text: str) -> str:
    return f'<span style="font-weight:600">{text}</span>'
