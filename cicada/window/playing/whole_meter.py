"""Loudness and peaks of the whole."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.meter_lines import (
    LEFT,
    NUMBER,
    RIGHT,
    Falling,
    loud_share,
    paint_diamond,
    paint_line,
    paint_scale,
    paint_tick,
    share,
)
from cicada.window.playing.metering import Metering
from cicada.window.words.loudness import lufs_text, peak_text, sides_text

WHOLE = 122


class Whole(QWidget):
    """Left and right against a scale in dB, and loudness against one in LUFS."""

    def __init__(self, metering: Metering) -> None:
        super().__init__()
        self._metering = metering
        self.setFixedHeight(WHOLE)
        self.setAccessibleName("Loudness of the whole")
        self._sides = Falling(), Falling()
        self._peaks = 0.0, 0.0
        self._painted: tuple[object, ...] = ()

    def follow(self, now: float) -> None:
        """Show what is audible now."""
        metering = self._metering
        left, right = metering.sides
        self._peaks = self._sides[0].take(left, now), self._sides[1].take(right, now)
        wide = max(1, self.width())
        pixels = tuple(round(share(peak, 3.0) * wide) for peak in self._peaks)
        said = metering.whole._replace(balance=None, correlation=None)
        balance = round((metering.whole.balance or 0.0) * 50)
        alike = round((metering.whole.correlation or 0.0) * 50)
        painted = (
            pixels,
            lufs_text(said.momentary),
            said.integrated,
            said.true_peaks,
            balance,
            alike,
        )
        if painted != self._painted:
            self._painted = painted
            self.setAccessibleDescription(self._words())
            self.update()

    def _words(self) -> str:
        whole = self._metering.whole
        return (
            f"{lufs_text(whole.momentary)} now, {lufs_text(whole.short)} over 3 s, "
            f"{lufs_text(whole.integrated)} LUFS so far; "
            f"true peak {peak_text(max(whole.true_peaks))} dB; "
            f"{sides_text(whole.balance, whole.correlation)}"
        )

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_sides(p)
        self._paint_loudness(p)
        self._paint_balance(p)

    def _paint_sides(self, p: QPainter) -> None:
        """Two lines on a scale, with the highest true peaks as numbers."""
        left, right = 16.0, self.width() - NUMBER - 6.0
        held = self._metering.whole.true_peaks
        paint_scale(p, (left, right), (3.0, 26.0), 3.0, (-36, -24, -12, 0))
        for number, (name, peak) in enumerate(zip("LR", self._peaks, strict=True)):
            y, high = 8.0 + number * 13, held[number]
            p.setFont(theme.font(11))
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(0, y - 8, 14, 16), LEFT, name)
            paint_line(p, left, right, y, share(peak, 3.0), over=peak > 1)
            ink = theme.BRICK if high > 1 else theme.INK
            if high > 0:
                at = left + (right - left) * share(high, 3.0)
                p.fillRect(QRectF(at - 1, y - 5, 2, 10), ink)
            p.setPen(ink)
            p.drawText(QRectF(right + 4, y - 8, NUMBER, 16), RIGHT, peak_text(high))

    def _paint_loudness(self, p: QPainter) -> None:
        whole, film = self._metering.whole, self._metering.film
        left, right, y = 16.0, self.width() - 10.0, 50.0
        paint_scale(p, (left, right), (y - 4, y + 5), 0.0, (-36, -23, -14, 0))
        now = 0.0 if whole.momentary is None else loud_share(whole.momentary)
        paint_line(p, left, right, y, now, over=False)
        for value, mark in ((whole.short, paint_tick), (whole.integrated, paint_diamond)):
            if value is not None:
                mark(p, left + (right - left) * loud_share(value), y, theme.MOSS)
        if film is not None and film.loudness is not None:
            paint_diamond(p, left + (right - left) * loud_share(film.loudness), y, None)
        p.setFont(theme.font(12))
        p.setPen(theme.INK)
        said, short, so_far = map(lufs_text, (whole.momentary, whole.short, whole.integrated))
        p.drawText(
            QRectF(16, 70, self.width() - 20, 16), LEFT,
            f"{said} now   {short} over 3 s   {so_far} so far   LUFS",
        )  # fmt: skip
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(16, 87, self.width() - 20, 16), LEFT, self._film_words())

    def _film_words(self) -> str:
        film = self._metering.film
        if film is None:
            return "whole film: being measured …" if self._metering.busy else "whole film: –"
        loud = "silent, or too short to measure"
        if film.loudness is not None:
            loud = f"{lufs_text(film.loudness)} LUFS"
        return f"whole film: {loud}, true peak {peak_text(film.true_peak)} dB"

    def _paint_balance(self, p: QPainter) -> None:
        """Where the sound stands from left to right, and how alike the sides are."""
        whole, y = self._metering.whole, 113.0
        half = (self.width() - 16.0) / 2
        p.setFont(theme.font(11))
        for number, (name, value, ends) in enumerate(
            (("balance", whole.balance, ("L", "R")), ("alike", whole.correlation, ("−1", "+1")))
        ):
            left = 16 + number * half + (62 if number == 0 else 52)
            wide = half - 96
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(16 + number * half, y - 8, 50, 16), LEFT, name)
            p.drawText(QRectF(left - 22, y - 8, 16, 16), RIGHT, ends[0])
            p.drawText(QRectF(left + wide + 5, y - 8, 18, 16), LEFT, ends[1])
            p.fillRect(QRectF(left, y - 0.5, wide, 1), theme.RULE_STRONG)
            p.fillRect(QRectF(left + wide / 2, y - 4, 1, 8), theme.RULE_STRONG)
            if value is not None:
                against = number == 1 and value < 0
                p.setBrush(theme.BRICK if against else theme.MOSS)
                p.setPen(theme.NO_PEN)
                p.drawEllipse(QPointF(left + wide * (value + 1) / 2, y), 4, 4)
