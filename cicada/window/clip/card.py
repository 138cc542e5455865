"""The clip card: the chosen keyframe as a sentence, and below it every setting in four parts."""

from functools import partial
from html import escape
from typing import Any

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QLabel,
    QPushButton,
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
from cicada.core.model import WHOLE, Clip, Hush, Layer
from cicada.core.outline import hard_edges, loudest
from cicada.window.clip.comparing import Comparing
from cicada.window.clip.options import AT_THE_PLAYHEAD, PART_OF, PARTS, PAST_SCENE, TARGETS
from cicada.window.clip.pages import ClipPages
from cicada.window.drawing import theme
from cicada.window.state.arranging import Arranging
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import LEVEL, PAN, QuantityField, time
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.quantities import Pace, count, decibels, peaks_at
from cicada.window.words.sentence import Part, sentence


class Sentence(QLabel):
    """The sentence: Tab goes through its links and on, Shift+Tab back through them and out."""

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
        self.clip = ClipPages(self._pace)
        self.setAccessibleName("Clip card")
        self.setMinimumSize(412, 190)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 5)
        column.setSpacing(4)
        self.words = Sentence()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse
            | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.words.setFont(theme.font(14))
        self.words.setAccessibleName("What this keyframe does")
        self.words.linkActivated.connect(self._follow)
        self.words.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        column.addWidget(self.words)
        self.aside = QLabel()
        self.aside.setObjectName("soft")
        self.aside.setTextFormat(Qt.TextFormat.RichText)
        self.aside.setWordWrap(True)
        self.aside.setAccessibleName("What else can be done")
        self.aside.linkActivated.connect(
            lambda command: self.clip.asked.emit(command, self.mapToGlobal(QPoint(16, 60)))
        )
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
        self.parts = QTabBar()
        self.parts.setObjectName("parts")
        self.parts.setAccessibleName("Parts of the card")
        self.parts.setExpanding(False)
        self.parts.setDrawBase(False)
        for name in PARTS:
            self.parts.addTab(name)
        self.parts.currentChanged.connect(self._show_part)
        self.clip.changed.connect(self._change)
        self.clip.trimmed.connect(self._trim)
        self.clip.moved.connect(self._move_to)
        self._empty, self._hush = self._empty_page(), self._hush_page()
        self._rest, self._nothing = self._rest_page(), self._nothing_page()
        for page in (*self.clip.pages, self._empty, self._hush, self._rest, self._nothing):
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

    # -- building ------------------------------------------------------------------------------

    def _pace(self) -> Pace:
        """What times on the card are told in, where the chosen clip stands."""
        fps = self.document.project.timebase.fps
        frame = self.session.cell.frame if self.session.cell is not None else 0
        return Pace(fps, tempo_at(self.session.scene, frame))

    def _empty_page(self) -> Page:
        page = Page()
        self.new_sound = QComboBox()
        self.new_sound.setAccessibleName("sound to place")
        self.new_sound.setMinimumWidth(200)
        self.place_button = QPushButton("Place it here")
        self.place_button.clicked.connect(self.place_chosen)
        page.row("sound", self.new_sound, self.place_button)
        rest, hush = QPushButton("Rest here"), QPushButton("Hush here")
        rest.clicked.connect(self._arranging.put_rest)
        hush.clicked.connect(self._arranging.put_hush)
        page.row("or", rest, hush)
        self.layer_level = QuantityField("layer's level", LEVEL)
        self.layer_pan = QuantityField("layer's pan", PAN)
        for field, quantity in (("level", self.layer_level), ("pan", self.layer_pan)):
            quantity.setFixedWidth(126)
            quantity.chosen.connect(lambda value, field=field: self._change_layer(field, value))
        page.row("layer", self.layer_level, soft("pan"), self.layer_pan)
        self.past_scene = Choice("past the scene", PAST_SCENE)
        self.past_scene.chosen.connect(lambda v: self._change_layer("past_scene", v == "rings"))
        page.row("at its end", self.past_scene)
        return page

    def _change_layer(self, field: str, value: Value) -> None:
        cell = self.session.cell
        if cell is not None:
            edit = ChangeLayer(layer=cell.layer, changes={field: value})
            self.document.do(edit, joins=QuantityField.stepping)

    def _hush_page(self) -> Page:
        page = Page()
        self.target = Choice("silences", TARGETS)
        self.target.chosen.connect(self._choose_target)
        page.row("silences", self.target)
        self.hushed = QComboBox()
        self.hushed.setAccessibleName("sound to silence")
        self.hushed.activated.connect(
            lambda index: self._change({"sound": self.hushed.itemData(index)}, "the hush")
        )
        page.row("sound", self.hushed)
        self.hush_fade = QuantityField("fade", time(self._pace, "How long the fade takes"))
        self.hush_fade.setFixedWidth(126)
        self.hush_fade.chosen.connect(lambda value: self._change({"fade": value}, "the fade"))
        page.row("over", self.hush_fade)
        page.row("", self._clear_button())
        return page

    def _rest_page(self) -> Page:
        page = Page()
        page.row("", self._clear_button())
        return page

    def _nothing_page(self) -> Page:
        """What can be done at the playhead while nothing is chosen."""
        page = Page()
        for name, commands in AT_THE_PLAYHEAD:
            buttons = []
            for words, command, tip in commands:
                button = QPushButton(words)
                button.setToolTip(tip)
                button.clicked.connect(partial(self._ask_for, command))
                buttons.append(button)
            page.row(name, *buttons)
        return page

    def _ask_for(self, command: str, *_: object) -> None:
        self.clip.asked.emit(command, self.mapToGlobal(QPoint(16, 60)))

    def _clear_button(self) -> QPushButton:
        button = QPushButton("Clear this keyframe")
        button.clicked.connect(self._arranging.clear)
        return button

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
            _offer(self.clip.sound, self._sound_names(), keyframe.sound if alike else "")
            self.clip.frame.set_value(self.document.project.shown(keyframe.frame))
            self._show_part(self.parts.currentIndex())
            self._show_aside(keyframe, layer)
        elif isinstance(keyframe, Hush):
            self.target.set_value(keyframe.target)
            self.hush_fade.set_value(keyframe.fade)
            _offer(self.hushed, self._sound_names(), keyframe.sound or "")
            self._hush.form.setRowVisible(self.hushed, keyframe.target == "sound")
            self.pages.setCurrentWidget(self._hush)
        else:
            self.pages.setCurrentWidget(self._rest)

    def _show_aside(self, clip: Clip, layer: Layer) -> None:
        """How loud the clip gets, whether its edges are hard, and what it is compared with."""
        project = self.document.project
        loud = loudest(project, layer, clip, self._sounds.peaks(clip.sound))
        self.clip.peak.setText(peaks_at(loud) if loud else "")
        timing = clip_timing(clip, project.sound(clip.sound), project.rate)
        self.clip.show_length(timing.loop / project.rate)
        said = []
        compared = self._comparing.sentence()
        if compared:
            said.append(
                f"The version held: {escape(compared)}. {_link('flip_version', 'Flip')} · "
                f"{_link('match_versions', 'equally loud')} · {_link('keep_version', 'keep it')}"
            )
        trimmed = clip.trim != WHOLE and not compared
        samples = self._sounds.samples(clip.sound) if trimmed else None
        edges = hard_edges(project, clip, samples)
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
            self.pages.setCurrentWidget(self._nothing)
            return
        frame = self.document.project.shown(cell.frame)
        name = escape(layer.label)
        self.words.setText(f"{_strong(f'Frame {frame} of {name}')} has no keyframe.")
        self._offer_sounds()
        self.layer_level.set_value(layer.level)
        self.layer_pan.set_value(layer.pan)
        self.past_scene.set_value("rings" if layer.past_scene else "stops")
        self.pages.setCurrentWidget(self._empty)

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
        names = self._sound_names()
        first = names[0][0] if names else ""
        chosen = self.session.sound or self.new_sound.currentData() or first
        _offer(self.new_sound, names, chosen)
        self.place_button.setEnabled(bool(self.document.project.sounds))

    def _sound_names(self) -> list[tuple[str, str]]:
        return [(sound.id, sound.label) for sound in self.document.project.sounds]

    def _show_part(self, index: int) -> None:
        if isinstance(self.session.keyframe(), Clip):
            self.pages.setCurrentWidget(self.clip.pages[index])

    def _follow(self, control: str) -> None:
        """A part of the sentence was chosen: go to what changes it."""
        self.parts.setCurrentIndex(PART_OF.get(control, self.parts.currentIndex()))
        widget = {"target": self.target, "fade": self.hush_fade}.get(
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
            sounds = self._sound_names()
            if not sounds:
                self._notices.say("There is no sound to silence yet.")
                self.refresh()
                return
            changes["sound"] = sounds[0][0]
        self._change(changes, "the hush")

    def place_chosen(self) -> None:
        """Put the sound named on the card on the chosen cell."""
        cell, sound = self.session.cell, self.new_sound.currentData()
        if cell is not None and sound:
            self._arranging.place(sound, cell)
            self.left.emit()


def _rich(parts: list[Part]) -> str:
    words = []
    link = theme.colour_name("MOSS_DEEP")
    for number, part in enumerate(parts):
        text = escape(part.text)
        if part.control:
            weight = " font-weight:600;" if number == 0 else ""
            text = f'<a href="{part.control}" style="color:{link};{weight}">{text}</a>'
        words.append(text)
    return "".join(words)


def _link(command: str, words: str) -> str:
    return f'<a href="{command}" style="color:{theme.colour_name("MOSS_DEEP")}">{words}</a>'


def _strong(text: str) -> str:
    return f'<span style="font-weight:600">{text}</span>'


def _offer(box: QComboBox, names: list[tuple[str, str]], chosen: str) -> None:
    if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != names:
        box.clear()
        for value, name in names:
            box.addItem(name, value)
    box.setCurrentIndex(box.findData(chosen))
