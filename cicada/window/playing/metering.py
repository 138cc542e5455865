"""What meters show: what is audible now, what was highest since playing began, and where."""

from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.metering import NOTHING, Metered
from cicada.core.model import Project
from cicada.jobs.measuring import FilmLevels, film_levels
from cicada.media.cache import SoundCache
from cicada.playback.messages import FILM, Meter
from cicada.playback.meters import Reading
from cicada.window.playing.transport import Transport
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.sounds import Sounds

# So many places past full scale are listed.
MOST_OVERS = 200
# Milliseconds after an edit before the film is measured anew.
PAUSE = 600


class Over(NamedTuple):
    """A frame on which what comes out passes full scale, by its samples or only between them."""

    scene: str
    frame: int
    true: bool


class Metering(QObject):
    """Takes what became audible. ``changed`` comes when there was something to take.

    ``sides`` and ``layers`` are the highest of what came last, which whoever shows them lets fall;
    ``highest`` is the highest of each layer since playing began, ``overs`` how high it went
    on each frame past full scale. ``film`` is the loudness of the whole film.
    """

    changed = Signal()
    film_changed = Signal()

    def __init__(
        self,
        transport: Transport,
        planning: Planning,
        presence: Presence,
        sounds: Sounds,
        cache: SoundCache,
        jobs: Jobs,
    ) -> None:
        super().__init__()
        self._transport, self._planning, self._presence = transport, planning, presence
        self._cache, self._jobs = cache.folder, jobs
        self._plays = 0
        self._job: Job | None = None
        self._wanted = False
        self.sides = 0.0, 0.0
        self.layers: dict[str, float] = {}
        self.highest: dict[str, float] = {}
        self.overs: dict[Over, float] = {}
        self.more_overs = 0
        self.whole: Metered = NOTHING
        self.chosen: Metered = NOTHING
        self.layer = ""
        self.film: FilmLevels | None = None
        self._measured: Project | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._measure_film)
        transport.metered.connect(self.take)
        transport.player_begun.connect(self.again)
        planning.planned.connect(self._keep_up)
        sounds.changed.connect(self._forget_film)

    # -- what is audible -------------------------------------------------------------------------

    def take(self, readings: list[Reading]) -> None:
        """Some more became audible."""
        if readings:
            self.sides, self.layers = (0.0, 0.0), {}
        for reading in readings:
            if reading.plays != self._plays and reading.doing == FILM:
                self._plays = reading.plays
                self._begin()
            self._take(reading)
        if readings:
            self.changed.emit()

    def _begin(self) -> None:
        self.highest, self.overs, self.more_overs = {}, {}, 0

    def _take(self, reading: Reading) -> None:
        left, right = self.sides
        self.sides = max(left, reading.left), max(right, reading.right)
        self.whole, self.chosen = reading.whole, reading.chosen
        ids = self._transport.handing.layers.get(reading.load, ())
        for layer, peak in zip(ids, reading.layers.tolist(), strict=False):
            if peak:
                self.layers[layer] = max(self.layers.get(layer, 0.0), peak)
                if reading.doing == FILM:
                    self.highest[layer] = max(self.highest.get(layer, 0.0), peak)
        if reading.over_at >= 0:
            self._over(reading.over_at, max(reading.left, reading.right), true=False)
        if reading.true_over:
            self._over(reading.true_at, reading.true_over, true=True)

    def _over(self, sample: float, peak: float, *, true: bool) -> None:
        plan = self._transport.plan
        if not plan.stretches:
            return
        visit, frame, _ = plan.frame_at(max(0, int(sample)))
        over = Over(visit.scene, frame, true)
        if over in self.overs or len(self.overs) < MOST_OVERS:
            self.overs[over] = max(self.overs.get(over, 0.0), peak)
        else:
            self.more_overs += 1

    def choose(self, layer: str) -> None:
        """Measure a layer closely; empty: none."""
        self.layer = layer
        self._transport.send(Meter(layer))

    def again(self) -> None:
        """A player was started: tell it what is measured."""
        if self.layer:
            self._transport.send(Meter(self.layer))

    # -- the whole film --------------------------------------------------------------------------

    def want_film(self, *, on: bool) -> None:
        """Whether somebody looks at the loudness of the whole film."""
        self._wanted = on
        if on and self.film is None and not self.busy:
            self._timer.start()

    @property
    def busy(self) -> bool:
        """Whether the film is being measured, or soon will be."""
        return self._job is not None or self._timer.isActive()

    def _keep_up(self) -> None:
        """The plan is another one; the film need not be."""
        if self._planning.settled is not self._measured:
            self._forget_film()

    def _forget_film(self) -> None:
        self.film = None
        if self._job is not None:
            self._job.cancel()
            self._job = None
        if self._wanted:
            self._timer.start()
        self.film_changed.emit()

    def _measure_film(self) -> None:
        project = self._measured = self._planning.settled
        files = {sound: Path(path) for sound, path in self._presence.standing.files.items()}

        def done(found: FilmLevels) -> None:
            if self._job is job:
                self._job, self.film = None, found
                self.film_changed.emit()

        def failed(_: str) -> None:
            if self._job is job:
                self._job = None

        job = self._job = self._jobs.run(
            film_levels, project, files, self._cache, done=done, failed=failed
        )

    def close(self) -> None:
        """Measure no more."""
        self._wanted = False
        self._timer.stop()
