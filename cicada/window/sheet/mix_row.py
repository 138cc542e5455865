"""Keeps the peaks of the whole mix at hand for the sheet, worked out in a worker."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.arrays import Samples
from cicada.deliver.mix_peaks import MixPeaks
from cicada.jobs.mixing import mixed_peaks
from cicada.media.cache import SoundCache
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.sounds import Sounds

# Edits come in bursts; the mix follows when they pause.
PAUSE = 120
# Blocks worked on between two looks at what is wanted now.
AT_ONCE = 24


class MixRow(QObject):
    """The newest mix; ``changed`` comes when more of it is known."""

    changed = Signal()

    def __init__(
        self,
        planning: Planning,
        presence: Presence,
        cache: SoundCache,
        sounds: Sounds,
        jobs: Jobs,
    ) -> None:
        super().__init__()
        self._planning, self._presence = planning, presence
        self._cache, self._jobs = cache.folder, jobs
        self._job: Job | None = None
        self._closed = False
        self.mix: MixPeaks | None = None
        # Where on the run one looks, so that what is in sight comes first.
        self.around: Callable[[], int] = lambda: 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._follow)
        planning.planned.connect(self._timer.start)
        sounds.changed.connect(self._forget)

    def _forget(self) -> None:
        """More sounds can be heard than before."""
        if self._closed:
            return
        self.mix = None
        self._timer.start()

    @property
    def busy(self) -> bool:
        """Whether more of the mix is still to come."""
        return self._timer.isActive() or self._job is not None

    def _follow(self) -> None:
        if self._closed:
            return
        planning, before = self._planning, self.mix
        # What comes after the pass shown is not on the sheet, and playing on plans ever more of it.
        later = [v.start for v in planning.plan.visits if v.number > planning.number]
        mix = MixPeaks(planning.plan, planning.project, planning.silent, min(later, default=None))
        if before is not None:
            mix.take_over(before)
        self.mix = mix
        self.changed.emit()
        self._go_on()

    def _go_on(self) -> None:
        mix = self.mix
        if mix is None or self._job is not None or self._closed:
            return
        blocks = mix.wanted(self.around())[:AT_ONCE]
        if not blocks:
            return
        files = {sound: Path(path) for sound, path in self._presence.standing.files.items()}
        self._job = self._jobs.run(
            mixed_peaks,
            mix.plan,
            mix.project,
            files,
            self._cache,
            mix.silent,
            blocks,
            done=lambda found: self._take(mix, blocks, found),
            failed=lambda _: self._lose(),
        )

    def _take(self, mix: MixPeaks, blocks: list[int], found: list[Samples]) -> None:
        self._job = None
        for block, peaks in zip(blocks, found, strict=True):
            mix.put(block, peaks)
        if mix is self.mix:
            self.changed.emit()
        self._go_on()

    def _lose(self) -> None:
        self._job = None

    def close(self) -> None:
        """Mix no more."""
        self._closed = True
        self._timer.stop()
