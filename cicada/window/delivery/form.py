"""What a recipe says, to be changed: what of the film, how it is written, how loud it is to be."""

from collections.abc import Callable
from typing import get_args

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.model import Project
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import (
    ALL_FORMS,
    AnyRecipe,
    Bits,
    DataRecipe,
    Encoding,
    Loud,
    MixRecipe,
    Scope,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.deliver.encoding import KINDS, name_of, suffix_of
from cicada.deliver.video import KINDS as VIDEOS
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import Kind, QuantityField, whole
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.delivery import (
    FORMS,
    TAILS,
    WHAT,
    height_text,
    parse_decibels,
    parse_height,
    parse_percent,
)
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import parse_whole

WHOLE_FILM, KEPT = "the whole film", "kept run: "
RATES = (8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 88200, 96000, 192000)
# Where loudness is aimed at and nobody has said how much.
USUAL_LOUDNESS, USUAL_PEAK = -16.0, -1.0
WIDTH = 96


def _decibels(unit: str) -> Kind:
    def step(value: float, steps: int, /, *, fine: bool) -> float:
        return round(value + steps * (0.1 if fine else 0.5), 3)

    tip = f"In {unit}, as in -16 or -1.5"
    return Kind(parse_decibels, lambda value: f"{shown(value)} {unit}", tip, None, step)


def _percent_step(value: float, steps: int, /, *, fine: bool) -> float:
    return min(1.0, max(0.0, round(value + steps * (0.01 if fine else 0.05), 4)))


PERCENT = Kind(
    parse_percent, lambda value: f"{shown(100 * value, 4)} %", "0 % is smallest, 100 % is best",
    None, _percent_step,
)  # fmt: skip


class RecipeForm(QWidget):
    """One recipe. ``changed`` comes with what it is to be, and what that step is called."""

    changed = Signal(object, str)
    mono_heard = Signal()

    def __init__(self, project: Callable[[], Project]) -> None:
        super().__init__()
        self._project = project
        self._recipe: AnyRecipe = MixRecipe(id="none")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.what = soft("")
        column.addWidget(self.what)
        self.page = Page()
        column.addWidget(self.page)
        column.addStretch(1)
        self._named_rows()
        self._scope_rows()
        self._kind_rows()
        self._loud_rows()

    # -- building ------------------------------------------------------------------------------

    def _named_rows(self) -> None:
        self.name, self.place = QLineEdit(), QLineEdit()
        for field, words in ((self.name, "Name"), (self.place, "Place below the folder")):
            field.setAccessibleName(words)
            field.setFixedWidth(250)
        self.name.editingFinished.connect(self._rename)
        self.place.editingFinished.connect(self._move)
        self.place.setToolTip("Below the folder, as in mix/film; empty: by its name")
        self.goes_to = soft("")
        self.page.row("name", self.name)
        self.page.row("goes to", self.place, self.goes_to)

    def _scope_rows(self) -> None:
        self.part = QComboBox()
        self.part.setAccessibleName("What of the film")
        self.part.setMinimumWidth(170)
        self.part.activated.connect(self._choose_part)
        self.first, self.last = (
            QuantityField(words, self._frames(words)) for words in ("first frame", "last frame")
        )
        self.passes = QuantityField("how often", whole(parse_whole, lambda v: f"{v:.0f}", "", 1))
        for field in (self.first, self.last, self.passes):
            field.setFixedWidth(64)
        self.first.chosen.connect(self._frames_chosen)
        self.last.chosen.connect(self._frames_chosen)
        self.passes.chosen.connect(lambda n: self._scope("how often", passes=int(n)))
        self.frames = QWidget()
        row = QHBoxLayout(self.frames)
        row.setContentsMargins(0, 0, 0, 0)
        for widget in (soft("frames"), self.first, soft("to"), self.last):
            row.addWidget(widget)
        self.often = QWidget()
        row = QHBoxLayout(self.often)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.passes)
        row.addWidget(soft("times"))
        self.page.row("of the film", self.part, self.frames, self.often)
        self.tail = Choice("what rings past its end", TAILS)
        self.tail.chosen.connect(lambda tail: self._scope("its end", tail=tail))
        self.page.row("its end", self.tail)

    def _frames(self, words: str) -> Kind:
        return whole(parse_whole, lambda value: f"{value:.0f}", f"The {words}, counted as shown")

    def _kind_rows(self) -> None:
        kinds = [(str(kind), name_of(Encoding(kind=kind)), "") for kind in KINDS]
        self.kind = Choice("kind of file", kinds)
        self.kind.chosen.connect(self._choose_kind)
        self.bits = Choice("bits of a sample", [
            ("16", "16 bit", "Dithered: silence stays silent"),
            ("24", "24 bit", "Dithered: silence stays silent"),
            ("32", "32 bit float", "Nothing is rounded, and nothing is cut off"),
        ])  # fmt: skip
        self.bits.chosen.connect(self._choose_bits)
        self.quality = QuantityField("quality", PERCENT)
        self.quality.setFixedWidth(WIDTH)
        self.quality.chosen.connect(lambda share: self._how("quality", quality=share))
        self.rate = QComboBox()
        self.rate.setAccessibleName("Samples a second")
        self.rate.activated.connect(self._choose_rate)
        self.sides = Choice("sides", [
            ("stereo", "stereo", "Left and right"),
            ("mono", "mono", "Half of both sides together; what that costs is said below"),
        ])  # fmt: skip
        self.sides.chosen.connect(lambda sides: self._how("sides", mono=sides == "mono"))
        self.by = Choice("a file for each", [
            ("layer", "layer", "Pads are layers; layers of one name are one"),
            ("folder", "folder of the shelf", ""),
            ("sound", "sound", ""),
        ])  # fmt: skip
        self.by.chosen.connect(lambda by: self._put("what a stem is", by=by))
        self.forms = {form: QCheckBox(FORMS[form][0]) for form in ALL_FORMS}
        for form, box in self.forms.items():
            box.setToolTip(FORMS[form][1])
            box.clicked.connect(self._choose_forms)
        self.video = Choice("kind of video", [
            ("mp4", "MP4", "H.264 and AAC: pictures stand on the sample they are shown on"),
            ("webm", "WebM", "VP9 and Opus: pictures stand on their thousandth of a second"),
        ])  # fmt: skip
        self.video.chosen.connect(lambda kind: self._put("the kind of video", kind=kind))
        tip = "In pixels, at most the picture's own; empty: its own"
        self.high = QuantityField("height", Kind(parse_height, height_text, tip))
        self.high.setFixedWidth(WIDTH)
        self.high.chosen.connect(
            lambda high: self._put("the size", height=int(high) if high else None)
        )
        self.waits = Choice("where the picture stands", [
            ("true", "one long frame", "A frame as long as the picture stands"),
            ("even", "even frames", "For programs that take only those: off by half a frame"),
        ])  # fmt: skip
        self.waits.chosen.connect(lambda waits: self._put("its frames", waits=waits))
        self.video_row = self.page.row("kind of video", self.video)
        self.height_row = self.page.row("size", self.high)
        self.waits_row = self.page.row("standstills", self.waits)
        papers = [("a4", "A4", ""), ("letter", "Letter", "8.5 by 11 inches")]
        self.paper = Choice("paper", papers)
        self.paper.chosen.connect(lambda paper: self._put("the paper", paper=paper))
        self.share = Choice("files", [
            ("shapes", "a file for each shape", "Trimmed, at its speed, with its fades and lines"),
            ("sounds", "each sound once", "Whole: all shaping is left to the player"),
        ])  # fmt: skip
        self.share.chosen.connect(lambda files: self._put("files", share=files == "sounds"))
        self.share_row = self.page.row("files", self.share)
        self.paper_row = self.page.row("paper", self.paper)
        self.by_row = self.page.row("a file for each", self.by)
        self.kind_row = self.page.row("kind of file", self.kind)
        self.bits_row = self.page.row("samples", self.bits)
        self.quality_row = self.page.row("quality", self.quality)
        self.rate_row = self.page.row("sample rate", self.rate)
        self.hear_mono = QPushButton("Hear it in mono")
        self.hear_mono.setToolTip("Against the picture, as half of both sides together")
        self.hear_mono.setAutoDefault(False)
        self.hear_mono.clicked.connect(self.mono_heard)
        self.sides_row = self.page.row("sides", self.sides, self.hear_mono)
        self.forms_row = self.page.row("files", *self.forms.values())

    def _loud_rows(self) -> None:
        self.aim = Choice("how loud", [
            ("none", "as it is", "The mix by the project's level"),
            ("peak", "by its peak", "True peak, by gain alone"),
            ("loudness", "by its loudness", "BS.1770, by gain alone"),
        ])  # fmt: skip
        self.aim.chosen.connect(self._choose_aim)
        self.peak = QuantityField("peak aimed at", _decibels("dB"))
        self.loudness = QuantityField("loudness aimed at", _decibels("LUFS"))
        self.peak.chosen.connect(lambda value: self._loud("how loud", target=value))
        self.loudness.chosen.connect(lambda value: self._loud("how loud", target=value))
        self.has_ceiling = QCheckBox("never above")
        self.has_ceiling.setToolTip("The true peak of the decoded file; it wins over the aim")
        self.has_ceiling.clicked.connect(self._choose_ceiling)
        self.ceiling = QuantityField("ceiling", _decibels("dB"))
        self.ceiling.chosen.connect(lambda value: self._loud("the ceiling", ceiling=value))
        for field in (self.peak, self.loudness, self.ceiling):
            field.setFixedWidth(WIDTH)
        self.aim_row = self.page.row("how loud", self.aim, self.peak, self.loudness)
        self.ceiling_row = self.page.row("", self.has_ceiling, self.ceiling)

    # -- showing -------------------------------------------------------------------------------

    def show_recipe(self, recipe: AnyRecipe) -> None:
        """Show what a recipe says now."""
        self._recipe = recipe
        self.what.setText(WHAT[type(recipe)])
        for field, text in ((self.name, recipe.name), (self.place, recipe.place)):
            if not field.hasFocus() or not field.isModified():
                field.setText(text)
        self.place.setPlaceholderText(place_of(replace(recipe, place="")))
        self._show_scope(recipe.scope)
        encoding = (
            None if isinstance(recipe, DataRecipe | VideoRecipe | SheetRecipe) else recipe.encoding
        )
        video = isinstance(recipe, VideoRecipe)
        sounds = encoding is not None
        loud = isinstance(recipe, MixRecipe | StemsRecipe | VideoRecipe)
        lossy = encoding is not None and encoding.lossy
        for label, there in (
            (self.by_row, isinstance(recipe, StemsRecipe)),
            (self.share_row, isinstance(recipe, TrimmedRecipe)),
            (self.paper_row, isinstance(recipe, SheetRecipe)),
            (self.forms_row, isinstance(recipe, DataRecipe)),
            (self.video_row, video), (self.height_row, video), (self.waits_row, video),
            (self.kind_row, sounds), (self.rate_row, sounds or video),
            (self.sides_row, sounds or video), (self.aim_row, loud), (self.ceiling_row, loud),
            (self.bits_row, sounds and not lossy), (self.quality_row, lossy or video),
        ):  # fmt: skip
            self.page.form.setRowVisible(label, there)
        if isinstance(recipe, DataRecipe):
            self.goes_to.setText("with a suffix each")
            for form, box in self.forms.items():
                box.setChecked(form in recipe.forms)
            return
        if isinstance(recipe, SheetRecipe):
            self.goes_to.setText(".pdf")
            self.paper.set_value(recipe.paper)
            return
        if isinstance(recipe, VideoRecipe):
            self._show_video(recipe)
            return
        mix = isinstance(recipe, MixRecipe)
        suffix = suffix_of(recipe.encoding)
        self.goes_to.setText(suffix if mix else f"/ a {suffix} each")
        self._show_encoding(recipe.encoding)
        if isinstance(recipe, StemsRecipe):
            self.by.set_value(recipe.by)
        if isinstance(recipe, TrimmedRecipe):
            self.share.set_value("sounds" if recipe.share else "shapes")
        if isinstance(recipe, MixRecipe | StemsRecipe):
            self._show_loud(recipe.loud)

    def _show_video(self, recipe: VideoRecipe) -> None:
        self.goes_to.setText(f".{recipe.kind}")
        self.video.set_value(recipe.kind)
        self.high.set_value(float(recipe.height or 0))
        self.waits.set_value(recipe.waits)
        self.quality.set_value(recipe.quality)
        self.sides.set_value("mono" if recipe.mono else "stereo")
        self._show_rates(recipe.rate, VIDEOS[recipe.kind].rates)
        self._show_loud(recipe.loud)

    def _show_scope(self, scope: Scope) -> None:
        project = self._project()
        self.part.clear()
        self.part.addItem(WHOLE_FILM, None)
        for scene in project.scenes:
            self.part.addItem(scene.label, ("scene", scene.id))
        for run in project.runs:
            self.part.addItem(f"{KEPT}{run.name}", ("run", run.name))
        wanted = ("run", scope.run) if scope.run is not None else ("scene", scope.scene)
        there = [self.part.itemData(i) for i in range(self.part.count())]
        if scope.run is None and scope.scene is None:
            self.part.setCurrentIndex(0)
        elif wanted in there:
            self.part.setCurrentIndex(there.index(wanted))
        else:
            self.part.addItem(f"{wanted[1]} (gone)", wanted)
            self.part.setCurrentIndex(self.part.count() - 1)
        lengths = {scene.id: scene.length for scene in project.scenes}
        length = lengths.get(scope.scene or "", 1)
        last = length - 1 if scope.last is None else scope.last
        self.first.set_value(project.shown(scope.first))
        self.last.set_value(project.shown(last))
        self.passes.set_value(scope.passes)
        ranged = scope.first > 0 or scope.last is not None
        self.frames.setVisible(scope.scene is not None)
        self.often.setVisible(scope.run is None and not ranged and scope.tail != "steady")
        self.tail.set_value(scope.tail)
        # A kept run has its own presses, which the window does not give.
        self.hear_mono.setVisible(scope.run is None and not isinstance(self._recipe, TrimmedRecipe))
        steady = self.tail.buttons["steady"]
        steady.setVisible(
            not ranged and scope.run is None and scope.passes == 1
            and not isinstance(self._recipe, DataRecipe | SheetRecipe)
        )  # fmt: skip

    def _show_encoding(self, encoding: Encoding) -> None:
        self.kind.set_value(encoding.kind)
        self.bits.set_value(str(encoding.bits))
        self.bits.buttons["32"].setVisible(encoding.kind != "flac" or encoding.bits == 32)
        self.quality.set_value(encoding.quality)
        self.sides.set_value("mono" if encoding.mono else "stereo")
        self._show_rates(encoding.rate, KINDS[encoding.kind].rates)

    def _show_rates(self, rate: int | None, held: tuple[int, ...]) -> None:
        own = self._project().rate
        self.rate.clear()
        self.rate.addItem(f"{own:,}, as the project", None)
        for each in sorted({*(held or RATES), *(() if rate is None else (rate,))} - {own}):
            self.rate.addItem(f"{each:,}", each)
        at = [self.rate.itemData(i) for i in range(self.rate.count())].index(
            None if rate == own else rate
        )
        self.rate.setCurrentIndex(at)

    def _show_loud(self, loud: Loud) -> None:
        self.aim.set_value(loud.aim)
        for field, aim in ((self.peak, "peak"), (self.loudness, "loudness")):
            field.setVisible(loud.aim == aim)
            field.set_value(loud.target)
        self.has_ceiling.setChecked(loud.ceiling is not None)
        self.ceiling.setVisible(loud.ceiling is not None)
        if loud.ceiling is not None:
            self.ceiling.set_value(loud.ceiling)

    # -- changing ------------------------------------------------------------------------------

    def _put(self, what: str, **changes: object) -> None:
        recipe = replace(self._recipe, **changes)
        if recipe != self._recipe:
            self.changed.emit(recipe, f"change {what} of {self._recipe.label}")

    def _scope(self, what: str, **changes: object) -> None:
        self._put(what, scope=replace(self._recipe.scope, **changes))

    def _how(self, what: str, **changes: object) -> None:
        """Change how it is written: what sounds have in their encoding a video has itself."""
        recipe = self._recipe
        if isinstance(recipe, VideoRecipe):
            self._put(what, **changes)
        elif not isinstance(recipe, DataRecipe | SheetRecipe):
            self._put(what, encoding=replace(recipe.encoding, **changes))

    def _loud(self, what: str, **changes: object) -> None:
        if isinstance(self._recipe, MixRecipe | StemsRecipe | VideoRecipe):
            self._put(what, loud=replace(self._recipe.loud, **changes))

    def _rename(self) -> None:
        self.name.setModified(False)
        name = self.name.text().strip()
        if name and name != self._recipe.name:
            self.changed.emit(replace(self._recipe, name=name), f"rename {self._recipe.label}")

    def _move(self) -> None:
        self.place.setModified(False)
        self._put("the place", place=self.place.text().strip())

    def _choose_part(self, index: int) -> None:
        part = self.part.itemData(index)
        kind, name = part if part else ("", None)
        scope = Scope(tail=self._recipe.scope.tail, seed=self._recipe.scope.seed)
        if kind == "run" and scope.tail == "steady":
            scope = replace(scope, tail="ring")
        if kind:
            scope = replace(scope, **{kind: name})
        self._put("what is delivered", scope=scope)

    def _frames_chosen(self, _: float) -> None:
        """Frames are counted as people read them; all of them are none."""
        project, scope = self._project(), self._recipe.scope
        lengths = {scene.id: scene.length for scene in project.scenes}
        length = lengths.get(scope.scene or "", 1)
        first = min(max(0, int(self.first.value) - project.first_frame), length - 1)
        last = min(max(0, int(self.last.value) - project.first_frame), length - 1)
        if last < first:
            first, last = last, first
        whole_scene = first == 0 and last == length - 1
        tail = "ring" if scope.tail == "steady" and not whole_scene else scope.tail
        ends = None if last == length - 1 else last
        self._scope("its frames", first=first, last=ends, tail=tail, passes=1)

    def _choose_kind(self, kind: str) -> None:
        """A rate that it does not hold stays: the nearest is proposed where that is said."""
        recipe = self._recipe
        if isinstance(recipe, DataRecipe | VideoRecipe | SheetRecipe):
            return
        encoding = replace(recipe.encoding, kind=kind)
        if encoding.kind == "flac" and encoding.bits == 32:
            encoding = replace(encoding, bits=24)
        self._put("the kind of file", encoding=encoding)

    def _choose_bits(self, bits: str) -> None:
        chosen: Bits = next(each for each in get_args(Bits) if str(each) == bits)
        self._how("the bits", bits=chosen)

    def _choose_rate(self, index: int) -> None:
        self._how("the rate", rate=self.rate.itemData(index))

    def _choose_forms(self) -> None:
        forms = tuple(form for form, box in self.forms.items() if box.isChecked())
        if forms:
            self._put("its files", forms=forms)
        else:
            self.show_recipe(self._recipe)

    def _choose_aim(self, aim: str) -> None:
        target = USUAL_LOUDNESS if aim == "loudness" else USUAL_PEAK
        self._loud("how loud", aim=aim, target=target)

    def _choose_ceiling(self, on: bool) -> None:  # noqa: FBT001 - a signal says so
        self._loud("the ceiling", ceiling=USUAL_PEAK if on else None)
