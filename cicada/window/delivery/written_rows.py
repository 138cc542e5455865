"""How a recipe is written: the rows of its kind of file, each shown where it means something."""

from collections.abc import Callable
from typing import get_args

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QPushButton

from cicada.core.model import Project
from cicada.core.recipes import (
    ALL_FORMS,
    AnyRecipe,
    Bits,
    BundleRecipe,
    DataRecipe,
    Encoding,
    MixRecipe,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.deliver.encoding import KINDS, name_of, suffix_of
from cicada.deliver.ready import BROWSERS
from cicada.deliver.video import KINDS as VIDEOS
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import Kind, QuantityField
from cicada.window.widgets.rows import Page
from cicada.window.words.delivery import FORMS, height_text, parse_height, parse_percent
from cicada.window.words.numbers import shown

RATES = (8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 88200, 96000, 192000)
WIDTH = 96


def _percent_step(value: float, steps: int, /, *, fine: bool) -> float:
    return min(1.0, max(0.0, round(value + steps * (0.01 if fine else 0.05), 4)))


PERCENT = Kind(
    parse_percent, lambda value: f"{shown(100 * value, 4)} %", "0 % is smallest, 100 % is best",
    None, _percent_step,
)  # fmt: skip


class WrittenRows(QObject):
    """``put`` comes with what is changed, in words, and the recipe as it is to be."""

    put = Signal(str, object)
    mono_heard = Signal()

    def __init__(self, page: Page, project: Callable[[], Project]) -> None:
        super().__init__(page)
        self._page, self._project = page, project
        self._recipe: AnyRecipe = MixRecipe(id="none")
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
        self.picture = Choice("picture", [
            ("images", "numbered images", "A WebP file for each frame that differs"),
            ("drawn", "drawn by the page", "The page's own draw(frame) draws it"),
        ])  # fmt: skip
        self.picture.chosen.connect(
            lambda picture: self._put("its picture", picture=picture == "images")
        )
        self.video_row = page.row("kind of video", self.video)
        self.picture_row = page.row("picture", self.picture)
        self.height_row = page.row("size", self.high)
        self.waits_row = page.row("standstills", self.waits)
        papers = [("a4", "A4", ""), ("letter", "Letter", "8.5 by 11 inches")]
        self.paper = Choice("paper", papers)
        self.paper.chosen.connect(lambda paper: self._put("the paper", paper=paper))
        self.share = Choice("files", [
            ("shapes", "a file for each shape", "Trimmed, at its speed, with its fades and lines"),
            ("sounds", "each sound once", "Whole: all shaping is left to the player"),
        ])  # fmt: skip
        self.share.chosen.connect(lambda files: self._put("files", share=files == "sounds"))
        self.share_row = page.row("files", self.share)
        self.paper_row = page.row("paper", self.paper)
        self.by_row = page.row("a file for each", self.by)
        self.kind_row = page.row("kind of file", self.kind)
        self.bits_row = page.row("samples", self.bits)
        self.quality_row = page.row("quality", self.quality)
        self.rate_row = page.row("sample rate", self.rate)
        self.hear_mono = QPushButton("Hear it in mono")
        self.hear_mono.setToolTip("Against the picture, as half of both sides together")
        self.hear_mono.setAutoDefault(False)
        self.hear_mono.clicked.connect(self.mono_heard)
        self.sides_row = page.row("sides", self.sides, self.hear_mono)
        self.forms_row = page.row("files", *self.forms.values())

    # -- showing -------------------------------------------------------------------------------

    def show_recipe(self, recipe: AnyRecipe) -> str:
        """Show how a recipe is written; what its place is followed by."""
        self._recipe = recipe
        encoding = encoding_of(recipe)
        video, bundle = isinstance(recipe, VideoRecipe), isinstance(recipe, BundleRecipe)
        sounds, lossy = encoding is not None, encoding is not None and encoding.lossy
        high = video or (isinstance(recipe, BundleRecipe) and recipe.picture)
        for label, there in (
            (self.by_row, isinstance(recipe, StemsRecipe)),
            (self.share_row, isinstance(recipe, TrimmedRecipe)),
            (self.paper_row, isinstance(recipe, SheetRecipe)),
            (self.forms_row, isinstance(recipe, DataRecipe)),
            (self.video_row, video), (self.waits_row, video), (self.height_row, high),
            (self.picture_row, bundle), (self.kind_row, sounds),
            (self.rate_row, sounds or video), (self.sides_row, sounds or video),
            (self.bits_row, sounds and not lossy), (self.quality_row, lossy or video),
        ):  # fmt: skip
            self._page.form.setRowVisible(label, there)
        # A kept run has its own presses, which the window does not give; pieces are no mix.
        pieces = isinstance(recipe, TrimmedRecipe | BundleRecipe)
        self.hear_mono.setVisible(recipe.scope.run is None and not pieces)
        if encoding is not None:
            self._show_encoding(encoding)
            for kind, button in self.kind.buttons.items():
                button.setVisible(not bundle or kind in BROWSERS or kind == encoding.kind)
        return self._show_own(recipe)

    def _show_own(self, recipe: AnyRecipe) -> str:
        match recipe:
            case DataRecipe():
                for form, box in self.forms.items():
                    box.setChecked(form in recipe.forms)
                return "with a suffix each"
            case SheetRecipe():
                self.paper.set_value(recipe.paper)
                return ".pdf"
            case VideoRecipe():
                self.video.set_value(recipe.kind)
                self.high.set_value(float(recipe.height or 0))
                self.waits.set_value(recipe.waits)
                self.quality.set_value(recipe.quality)
                self.sides.set_value("mono" if recipe.mono else "stereo")
                self._show_rates(recipe.rate, VIDEOS[recipe.kind].rates)
                return f".{recipe.kind}"
            case BundleRecipe():
                self.picture.set_value("images" if recipe.picture else "drawn")
                self.high.set_value(float(recipe.height or 0))
                return "/ a page and what it plays"
            case StemsRecipe():
                self.by.set_value(recipe.by)
            case TrimmedRecipe():
                self.share.set_value("sounds" if recipe.share else "shapes")
            case MixRecipe():
                return suffix_of(recipe.encoding)
        return f"/ a {suffix_of(recipe.encoding)} each"

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

    # -- changing ------------------------------------------------------------------------------

    def _put(self, what: str, **changes: object) -> None:
        self.put.emit(what, replace(self._recipe, **changes))

    def _how(self, what: str, **changes: object) -> None:
        """Change how it is written: what sounds have in their encoding a video has itself."""
        encoding = encoding_of(self._recipe)
        if encoding is not None:
            self._put(what, encoding=replace(encoding, **changes))
        elif isinstance(self._recipe, VideoRecipe):
            self._put(what, **changes)

    def _choose_kind(self, kind: str) -> None:
        """A rate that it does not hold stays: the nearest is proposed where that is said."""
        encoding = encoding_of(self._recipe)
        if encoding is None:
            return
        encoding = replace(encoding, kind=kind)
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


def encoding_of(recipe: AnyRecipe) -> Encoding | None:
    """How the sound files of a recipe are written; None if it makes none."""
    return getattr(recipe, "encoding", None)
