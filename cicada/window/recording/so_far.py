"""How loud the round under way was at each look, drawn while it grows."""

# However long a take is, it is drawn at each look: peaks of it at most, an even number.
MOST = 1000


class SoFar:
    """Peaks of a take from the beginning of its round on, in order."""

    def __init__(self) -> None:
        self.peaks: list[float] = []
        # Looks in all, those that a peak is of, and seconds recorded at the last.
        self._looks, self._each = 0, 1
        self._seen = 0.0

    def look(self, recorded: float, peak: float) -> None:
        """By now so many seconds are recorded, and it was so loud since the last look."""
        if recorded < self._seen:
            self.peaks, self._looks, self._each = [], 0, 1
        elif recorded > self._seen:
            self._add(peak)
        self._seen = recorded

    def _add(self, peak: float) -> None:
        if self._looks % self._each:
            self.peaks[-1] = max(self.peaks[-1], peak)
        else:
            self.peaks.append(peak)
        self._looks += 1
        if len(self.peaks) == MOST and not self._looks % self._each:
            pairs = zip(self.peaks[::2], self.peaks[1::2], strict=True)
            self.peaks, self._each = [max(pair) for pair in pairs], 2 * self._each
