"""Which sample of an input was made as a sample handed over to an output was heard.

Two ways lead there. The server says when each is heard or made, which is good to some
milliseconds; or the probe, played and found again, says it to the sample, as long as both streams
stay open (a loop test). What the first was off by then is worth remembering for the next time.
"""

from collections import deque
from statistics import median

from cicada.playback.messages import Status
from cicada.playback.recorder import Standing, Steady

# So many looks at the output's clock are taken together.
LOOKS = 200


class LiningUp:
    """Lines an output up with an input. ``correction`` is what is remembered of the loop test."""

    def __init__(self, correction: float = 0.0) -> None:
        self.correction = correction
        # Of the loop test: the sample handed over, and that of the input it came back as.
        self._loop: tuple[int, int] | None = None
        self._zeros: deque[float] = deque(maxlen=LOOKS)
        self._output_rate = self._input_rate = 1
        self._input_zero = 0.0
        self.clock = Steady()

    @property
    def exact(self) -> bool:
        """Whether it is known to the sample."""
        return self._loop is not None

    def look(self, status: Status, standing: Standing) -> None:
        """See where both are."""
        if not status.rate or not standing.rate:
            return
        if status.rate != self._output_rate or standing.rate != self._input_rate:
            self.forget()
        self._output_rate, self._input_rate = status.rate, standing.rate
        self._zeros.append(status.clock - status.written / status.rate)
        self._input_zero = standing.zero
        self.clock.note(int(status.written), status.clock)

    def _by_clocks(self, written: float) -> float:
        zero = median(self._zeros) if self._zeros else self._input_zero
        heard = zero + written / self._output_rate
        return (heard - self._input_zero) * self._input_rate

    def input_sample(self, written: int) -> int:
        """The sample of the input that was made as the ``written``-th was heard."""
        if self._loop is not None:
            played, came = self._loop
            return came + round((written - played) * self._input_rate / self._output_rate)
        return round(self._by_clocks(written) + self.correction * self._input_rate)

    def output_sample(self, at: int) -> int:
        """The sample handed over that was heard as sample ``at`` of the input was made."""
        return round((at - self.input_sample(0)) * self._output_rate / self._input_rate)

    def came_back(self, written: int, at: int) -> float:
        """The probe, begun as the ``written``-th sample, came in at ``at``; the correction."""
        self._loop = written, at
        self.correction = (at - self._by_clocks(written)) / self._input_rate
        return self.correction

    def way(self) -> float | None:
        """Seconds from a sample's being handed over to its coming in, by now; None: not known."""
        if not self._zeros:
            return None
        return self.input_sample(0) / self._input_rate + self._input_zero - median(self._zeros)

    def look_anew(self) -> None:
        """Go by looks from now on only: something has just begun, and may have been held up."""
        self._zeros.clear()

    def forget(self) -> None:
        """One of the streams is another than it was."""
        self._loop = None
        self._zeros.clear()
        self.clock = Steady()

    def drift(self, seconds: float, input_clock: float) -> float | None:
        """Seconds by which the input ran ahead of the output in a take; None: not to be known.

        ``input_clock`` is how many samples it gave in a second of this machine.
        """
        output = self.clock.rate
        if not output or not input_clock:
            return None
        return seconds * (input_clock / self._input_rate - output / self._output_rate)
