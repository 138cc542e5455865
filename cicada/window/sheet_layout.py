"""Where things are on the sheet, in pixels."""

from dataclasses import dataclass

HEAD = 168
MARKS = 17
RULER = 62
FILM = 40
ROW = 51
THIN_ROW = 34
TOP = RULER + FILM
CLOSEST = 2000.0


@dataclass(slots=True)
class SheetLayout:
    """Zoom and scroll: ``scale`` pixels a frame, ``left`` the frame at the left edge."""

    scale: float = 5.0
    left: float = 0.0
    top: int = 0
    rows: tuple[int, ...] = ()

    def x(self, place: float) -> float:
        """The pixel column of a place in frames."""
        return HEAD + (place - self.left) * self.scale

    def place(self, x: float) -> float:
        """The place in frames under a pixel column."""
        return self.left + (x - HEAD) / self.scale

    def row_top(self, row: int) -> int:
        """The first pixel line of a row."""
        return TOP - self.top + sum(self.rows[:row])

    def row_at(self, y: float) -> int | None:
        """The row under a pixel line; None above, below or between."""
        if y < TOP:
            return None
        at = TOP - self.top
        for row, height in enumerate(self.rows):
            if at <= y < at + height:
                return row
            at += height
        return None

    def zoom(self, factor: float, x: float, *, least: float) -> None:
        """Zoom about a pixel column, which keeps its frame."""
        under = self.place(x)
        self.scale = min(CLOSEST, max(least, self.scale * factor))
        self.left = under - (x - HEAD) / self.scale

    def keep_inside(self, length: int, width: int) -> None:
        """Scroll back if there is nothing to see."""
        shown = (width - HEAD) / self.scale
        self.left = max(0.0, min(self.left, length + 0.06 * shown - shown))
