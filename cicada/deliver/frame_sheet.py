"""The sheet on paper: frames down the page, a column for each layer, and room for notes.

For people who draw on paper: everything is told by shape and words, and legible in grey.
"""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from itertools import islice
from math import log10
from pathlib import Path
from typing import Any, NamedTuple

from cicada.core.model import Clip, Project, Scene
from cicada.core.placements import Placements, heard_on
from cicada.core.plan import Plan, Voice
from cicada.core.scoped import Asked
from cicada.deliver.shown import Pictures
from cicada.errors import CannotWrite

FONTS = Path(__file__).parent.parent / "window" / "drawing" / "fonts"
PAPERS = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
# Millimetres: round the page, above the rows, and of the columns that are always there.
EDGE, HEAD = 11.0, 22.0
FRAME, SECOND, PICTURE, MARK, NOTES = 9.0, 11.0, 21.0, 20.0, 38.0
# How high a row may be, and is where no whole seconds fit.
LOWEST, USUAL, HIGHEST = 3.8, 5.0, 6.5
# A layer's column, at least and at most.
NARROW, WIDE = 14.0, 34.0
# Frames from one picture to the next.
EVERY = 8
PIXELS = 120
MOST_PAGES = 1000
INK, SOFT, RULE, FAINT = (38, 43, 48), (105, 107, 109), (160, 150, 130), (225, 219, 205)
FILLS = {"free": (226, 234, 226), "locked": (214, 217, 230), "hold": (232, 214, 226)}
Going = Callable[[float], bool]


class Bar(NamedTuple):
    """A sounding in a column, from and to a place on the axis of frames."""

    voice: Voice
    start: float
    end: float
    lane: int
    lanes: int
    # It goes on past what is shown, above or below.
    comes_in: bool
    goes_on: bool


class Column(NamedTuple):
    """A layer with all that sounds on it while the picture is in a scene."""

    name: str
    bars: tuple[Bar, ...]


def columns_of(project: Project, planned: Plan, scene: Scene, visit: int) -> list[Column]:
    """The layers of a scene from the top, then those of other scenes that ring into it."""
    here, labels = planned.visits[visit], {k: x.label for k, x in heard_on(project).items()}
    begin, end = max(0, here.start), here.end
    names = {layer.id: layer.label for layer in scene.layers}
    found: dict[str, list[Voice]] = {layer.label: [] for layer in scene.layers if not layer.off}
    for voice in planned.voices:
        if max(voice.start, begin) < min(voice.end, end):
            name = names.get(voice.layer) or labels[voice.layer]
            found.setdefault(name, []).append(voice)
    return [
        Column(name, tuple(_bars(planned, voices, begin, end, scene.length)))
        for name, voices in found.items()
    ]


def _bars(planned: Plan, voices: list[Voice], begin: int, end: int, length: int) -> Iterator[Bar]:
    """Side by side where they overlap."""
    placed = list[tuple[Voice, float, float, int]]()
    ends = list[float]()
    for voice in sorted(voices, key=lambda each: each.start):
        start = _place(planned, max(voice.start, begin))
        stop = float(length) if voice.end >= end else _place(planned, voice.end)
        lane = next((i for i, until in enumerate(ends) if until <= start), len(ends))
        ends[lane : lane + 1] = [stop]
        placed.append((voice, start, max(stop, start + 0.2), lane))
    for voice, start, stop, lane in placed:
        yield Bar(voice, start, stop, lane, len(ends), voice.start < begin, voice.end > end)


def _place(planned: Plan, sample: int) -> float:
    _, frame, share = planned.frame_at(sample)
    return frame + share


def stands(planned: Plan, scene: str, visit: int) -> dict[int, float]:
    """The seconds that the picture stands still on frames of a visit."""
    return {
        each.frame: each.stands / planned.rate
        for each in planned.stretches
        if each.visit == visit and each.stands
    }


def frame_sheet(found: Asked, paper: str, pictures: Pictures | None, going: Going) -> bytes | None:
    """The sheet of every scene that is asked for, as a PDF; None if it is stopped."""
    # Loaded when it is wanted: it brings a library of fonts and one of images along.
    from fpdf import FPDF

    pdf = FPDF(unit="mm", format=PAPERS[paper])
    pdf.set_creation_date(datetime(2000, 1, 1, tzinfo=UTC))
    pdf.set_auto_page_break(False)
    pdf.c_margin = 0
    pdf.set_title(found.project.name or "Film")
    for style, name in (("", "Inter-roman.var.ttf"), ("B", "Inter-roman.var.ttf")):
        pdf.add_font("Inter", style, FONTS / name)
    try:
        return _all_pages(pdf, found, paper, pictures, going)
    finally:
        # It leaves the fonts' files open.
        for font in pdf.fonts.values():
            font.ttfont.close()  # type: ignore[union-attr]


def _all_pages(
    pdf: Any,  # noqa: ANN401 - of fpdf, which is loaded when it is wanted
    found: Asked,
    paper: str,
    pictures: Pictures | None,
    going: Going,
) -> bytes | None:
    pages = list(islice(_pages(found, paper), MOST_PAGES + 1))
    if len(pages) > MOST_PAGES:
        raise CannotWrite(
            f"the sheet would have more than {MOST_PAGES:,} pages",
            remedy="choose a scene, or some of its frames",
        )
    for number, page in enumerate(pages, start=1):
        pdf.add_page()
        _Page(pdf, found, page, f"{number} / {len(pages)}", pictures).draw()
        if not going(number / len(pages)):
            return None
    return bytes(pdf.output())


def rows_of(high: float, fps: float) -> tuple[int, float]:
    """How many rows a page of that height has, whole seconds if these fit, and how high each is."""
    room, second = high - 2 * EDGE - HEAD, max(1, round(fps))
    for seconds in range(int(room / LOWEST) // second, 0, -1):
        row = room / (seconds * second)
        if row <= HIGHEST:
            return seconds * second, row
    return int(room / USUAL), USUAL


class _Layout(NamedTuple):
    """A page: some columns of a scene, over some of its frames in rows of that height."""

    scene: Scene
    visit: int
    columns: tuple[Column, ...]
    first: int
    last: int
    row: float


def _pages(found: Asked, paper: str) -> Iterator[_Layout]:
    project, planned = found.project, found.plan
    wide, high = PAPERS[paper]
    rows, row = rows_of(high, planned.timebase.fps)
    room = wide - 2 * EDGE - FRAME - SECOND - PICTURE - MARK - NOTES
    across = max(1, int(room / NARROW))
    seen = set[str]()
    for visit, each in enumerate(planned.visits):
        if each.scene in seen or each.end <= 0:
            continue
        seen.add(each.scene)
        scene = project.scene(each.scene)
        columns = columns_of(project, planned, scene, visit)
        parts = [columns[at : at + across] for at in range(0, max(1, len(columns)), across)]
        first = planned.frame_at(max(0, each.start))[1]
        for top in range(first, scene.length, rows):
            for part in parts:
                yield _Layout(scene, visit, tuple(part), top, min(scene.length, top + rows), row)


class _Page:
    """Draws one page."""

    def __init__(
        self,
        pdf: Any,  # noqa: ANN401 - of fpdf, which is loaded when it is wanted
        found: Asked,
        layout: _Layout,
        number: str,
        pictures: Pictures | None,
    ) -> None:
        self._pdf, self._project, self._plan = pdf, found.project, found.plan
        self._layout, self._number, self._pictures = layout, number, pictures
        self._placements = Placements(found.project)
        self._top, self._left = EDGE + HEAD, EDGE
        self._row = layout.row
        self._foot = self._top + self._row * (layout.last - layout.first)
        self._right = pdf.w - EDGE
        self._layers = self._left + FRAME + SECOND + PICTURE + MARK
        room = self._right - NOTES - self._layers
        self._wide = min(WIDE, room / max(1, len(layout.columns)))

    def draw(self) -> None:
        """All of it, from the ground up."""
        self._heads()
        self._rows()
        self._stills()
        self._marks()
        for number, column in enumerate(self._layout.columns):
            self._column(self._layers + number * self._wide, column)
        self._standing()

    def _y(self, place: float) -> float:
        shown = min(max(place, self._layout.first), self._layout.last)
        return float(self._top + self._row * (shown - self._layout.first))

    def _write(
        self, x: float, y: float, text: str, width: float, size: float,
        colour: tuple[int, int, int] = INK, *, bold: bool = False, align: str = "L",
    ) -> None:  # fmt: skip
        """A line of text that is no wider than its room."""
        pdf = self._pdf
        pdf.set_font("Inter", "B" if bold else "", size)
        pdf.set_text_color(*colour)
        plain = "".join(letter if letter.isprintable() else " " for letter in text)
        while plain and pdf.get_string_width(plain) > width:
            plain = plain[:-2] + "…" if len(plain) > 2 else ""
        pdf.set_xy(x, y)
        pdf.cell(width, size * 0.42, plain, align=align)

    def _heads(self) -> None:
        layout, project = self._layout, self._project
        room = self._right - self._left
        self._write(self._left, EDGE, project.name or "Film", room * 0.6, 15, bold=True)
        shown = f"frames {project.shown(layout.first)} to {project.shown(layout.last - 1)}"
        fps = self._plan.fps[0] / self._plan.fps[1]
        about = f"{layout.scene.label}, {shown}, {fps:.6g} a second"
        self._write(self._left, EDGE + 7.5, about, room * 0.8, 9, SOFT)
        self._write(self._right - 20, EDGE, self._number, 20, 9, SOFT, align="R")
        y, x = self._top - 5.5, self._left
        for name, wide in (
            ("frame", FRAME), ("seconds", SECOND), ("picture", PICTURE), ("marks", MARK),
        ):  # fmt: skip
            self._write(x, y, name, wide - 1, 6.5, SOFT)
            x += wide
        for column in layout.columns:
            size = 7.5 if len(column.name) * 1.5 < self._wide else 6
            self._write(x + 0.6, y, column.name, self._wide - 1, size, bold=True)
            x += self._wide
        self._write(self._right - NOTES + 1, y, "notes", NOTES - 1, 6.5, SOFT)

    def _rows(self) -> None:
        pdf, layout, base = self._pdf, self._layout, self._plan.timebase
        second = max(1, round(base.fps))
        for frame in range(layout.first, layout.last + 1):
            y = self._y(frame)
            whole = frame % second == 0
            pdf.set_draw_color(*(RULE if whole else FAINT))
            pdf.set_line_width(0.3 if whole else 0.12)
            pdf.line(self._left, y, self._right, y)
            if frame == layout.last:
                break
            shown = str(self._project.shown(frame))
            self._write(
                self._left, y + 1.2, shown, FRAME - 1, 7, INK if whole else SOFT, bold=whole,
                align="R",
            )  # fmt: skip
            if whole or frame == layout.first:
                text = f"{base.seconds(frame):.2f}"
                self._write(self._left + FRAME, y + 1.2, text, SECOND - 1.5, 7, SOFT, align="R")
        pdf.set_draw_color(*RULE)
        pdf.set_line_width(0.2)
        edges = [self._layers + n * self._wide for n in range(len(layout.columns) + 1)]
        for x in (self._left + FRAME + SECOND, self._layers - MARK, *edges, self._right - NOTES):
            pdf.line(x, self._top, x, self._foot)

    def _stills(self) -> None:
        if self._pictures is None or not self._layout.scene.picture:
            return
        from PIL import Image

        x, wide = self._left + FRAME + SECOND + 0.8, PICTURE - 1.6
        for frame in range(self._layout.first, self._layout.last, EVERY):
            drawn = self._pictures.draw(self._layout.scene.id, frame, PIXELS)
            if drawn is None:
                continue
            picture = Image.fromarray(drawn[:, :, 2::-1].copy())
            high = min(wide * drawn.shape[0] / drawn.shape[1], EVERY * self._row - 1)
            if self._y(frame) + high < self._foot + self._row:
                self._pdf.image(picture, x, self._y(frame) + 0.4, w=wide, h=high)

    def _marks(self) -> None:
        layout, x = self._layout, self._layers - MARK + 1
        said: dict[int, list[str]] = {}
        for mark in layout.scene.marks:
            said.setdefault(mark.frame, []).append(mark.text)
        for point in layout.scene.press_points:
            said.setdefault(point.frame, []).append(f"press: {point.label}".rstrip(": "))
        for frame, words in said.items():
            if layout.first <= frame < layout.last:
                for number, text in enumerate(words[:3]):
                    y = self._y(frame) + 1.1 + 3 * number
                    self._write(x, y, text, MARK - 1.5, 6.5)

    def _column(self, x: float, column: Column) -> None:
        for bar in column.bars:
            if bar.end > self._layout.first and bar.start < self._layout.last:
                wide = (self._wide - 1.6) / bar.lanes
                self._bar(x + 0.8 + bar.lane * wide, wide - 0.4, bar)

    def _bar(self, x: float, wide: float, bar: Bar) -> None:
        """A sounding: square if it is locked, round if it is free, and open where it goes on."""
        pdf, layout = self._pdf, self._layout
        top, foot = self._y(bar.start), self._y(bar.end)
        pdf.set_fill_color(*FILLS[bar.voice.sync])
        pdf.set_draw_color(*INK)
        pdf.set_line_width(0.25)
        high = max(0.8, foot - top)
        if bar.voice.sync == "locked":
            pdf.rect(x, top, wide, high, style="DF")
            # Ticks at its side, one for each frame: it moves with the picture.
            for frame in range(int(bar.start) + 1, int(bar.end) + 1):
                if layout.first < frame < layout.last:
                    pdf.line(x, self._y(frame), x + 1, self._y(frame))
        else:
            round_corners = min(1.4, wide / 3, high / 3)
            pdf.rect(
                x, top, wide, high, style="DF", round_corners=True, corner_radius=round_corners
            )
        self._words(x, top, wide, high, bar)
        if bar.goes_on and layout.last == layout.scene.length:
            self._write(x, foot - 3.2, "rings on", wide, 5.5, SOFT)

    def _words(self, x: float, top: float, wide: float, high: float, bar: Bar) -> None:
        voice = bar.voice
        clip = self._placements.clip(voice)
        label = self._project.placeable(voice.plays).label
        if bar.start < self._layout.first or bar.comes_in:
            self._write(x + 0.8, top + 0.8, f"… {label}", max(1.0, wide - 1.2), 6, SOFT)
            return
        lines = [label]
        lines.append(f"{(voice.end - voice.start) / self._plan.rate:.2f} s")
        lines += _said_of(clip, self._placements.layer(voice).level)
        for number, text in enumerate(lines):
            y = top + 0.8 + 3.1 * number
            if number == 0 or y + 2.8 < top + high:
                self._write(
                    x + 0.8, y, text, max(1.0, wide - 1.2), 7 if number == 0 else 6,
                    INK if number == 0 else SOFT,
                )  # fmt: skip

    def _standing(self) -> None:
        """Where the picture stands still, and for how long."""
        pdf, layout = self._pdf, self._layout
        for frame, seconds in stands(self._plan, layout.scene.id, layout.visit).items():
            if layout.first <= frame < layout.last:
                y = self._y(frame)
                pdf.set_line_width(0.6)
                pdf.set_draw_color(*INK)
                pdf.line(self._left, y, self._layers, y)
                said, at = f"stands {seconds:.2f} s", y + self._row - 2.9
                self._write(self._layers - MARK + 1, at, said, MARK - 1.5, 6.5, bold=True)


def _said_of(clip: Clip, layer: float) -> list[str]:
    """What of a clip is not seen: how often, how fast, how loud."""
    said = []
    if clip.loops != 1:
        said.append(f"× {clip.loops}" if clip.loops else "endless")
    if clip.speed != 1:
        said.append(f"speed {clip.speed:g}")
    level = clip.level * layer
    if level != 1:
        said.append(f"{20 * log10(level):+.1f} dB" if level > 0 else "silent")
    return said
