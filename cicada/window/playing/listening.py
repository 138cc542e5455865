"""Listening to one sound by itself: once through, at a matched level, from anywhere in it."""

from math import log10
from pathlib import Path
from random import choices

import numpy as np
from PySide6.QtCore import QObject, QSettings, Signal

from cicada.core.answers import Blend, Playlist, Pool
from cicada.core.following import blend_gain
from cicada.core.model import Sound
from cicada.core.timebase import resampled_length
from cicada.jobs.measuring import Listenable, Together, hear_file, hear_together
from cicada.media.cache import SoundCache
from cicada.media.measures import Measures
from cicada.media.peaks import Peaks
from cicada.media.sources import open_peaks
from cicada.window.playing.transport import Transport
from cicada.window.state.document import Document
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.measuring import Measuring
from cicada.window.state.presence import Presence

What = str | Path
"""A sound of the shelf by its id, or a file that is not imported."""

USUAL_LEVEL = -20.0
LOWEST, HIGHEST = -40.0, -10.0
# However quiet a sound is by its loudness, its peaks must stay below full scale.
HIGHEST_PEAK = 0.9


class Listening(QObject):
    """What is listened to; ``changed`` comes when that, its position or its level is another."""

    changed = Signal()
    refused = Signal(str)

    def __init__(
        self,
        document: Document,
        transport: Transport,
        presence: Presence,
        measuring: Measuring,
        jobs: Jobs,
        cache: SoundCache,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self._document, self._transport, self._presence = document, transport, presence
        self._measuring, self._jobs, self._cache = measuring, jobs, cache
        self._settings = settings
        self.level = float(str(settings.value("listening/level", USUAL_LEVEL)))
        self.what: What | None = None
        self.waiting: Job | None = None
        self.position = 0.0
        self.length = 0.0
        self.gain = 1.0
        self.heard: Listenable | None = None
        self._peaks: tuple[str, Peaks | None] = ("", None)
        # The blend that is listened to with the number it follows, and what came up of a pool.
        self.blend: Blend | None = None
        self.number = 0.0
        self.came_up = ""
        self._last = ""
        self._keys: tuple[str, ...] = ()
        transport.listened.connect(self._move)
        transport.state_changed.connect(self._follow)

    def set_level(self, level: float) -> None:
        """Choose the loudness everything is listened to at, in LUFS."""
        self.level = max(LOWEST, min(HIGHEST, level))
        self._settings.setValue("listening/level", self.level)
        if self.heard is not None and self._transport.listening:
            self._sound(self.heard, self.position)
        self.changed.emit()

    def toggle(self, what: What) -> None:
        """Listen to something from its beginning, or stop if it is being listened to."""
        if self.what == what:
            self.stop()
        else:
            self.listen(what)

    def listen(self, what: What, at: float = 0.0) -> None:
        """Listen to something from ``at`` seconds on."""
        if self.what == what and self.heard is not None and self.waiting is None:
            self._sound(self.heard, at)
            return
        self.stop()
        project = self._document.project
        path: Path | None = what if isinstance(what, Path) else None
        content = ""
        if isinstance(what, str):
            sound = project.placeable(what)
            if not isinstance(sound, Sound) or sound.making is not None:
                self._listen_to_made(sound, at)
                return
            path, content = self._presence.standing.files.get(what), sound.content
            measures = self._measuring.of(sound)
            key = self._cache.sound_key(content or what, project.rate)
            if measures is not None and self._cache.has(key):
                self.what = what
                length = resampled_length(sound.frames, sound.rate, project.rate)
                self._sound(Listenable(key, length, measures), at)
                return
        if path is None:
            self.refused.emit("Its file is missing, so there is nothing to listen to.")
            return
        self.what = what

        def done(heard: Listenable) -> None:
            if heard.measures is not None:
                self._measuring.learn(heard.key, heard.measures)
            if self.waiting is job:
                self.waiting = None
                self._sound(heard, at)

        def failed(sentence: str) -> None:
            if self.waiting is job:
                self._forget()
                self.refused.emit(sentence)

        job = self._jobs.run(
            hear_file,
            path,
            content,
            project.rate,
            self._cache.folder,
            done=done,
            failed=failed,
            watched=True,
        )
        self.waiting = job
        self.changed.emit()

    # -- what is made of sounds ----------------------------------------------------------------

    def _listen_to_made(self, made: Sound | Blend | Pool | Playlist, at: float) -> None:
        """Listen to what is made; to a blend at the number under the hand, to one of a pool."""
        project, heard = self._document.project, made
        self.came_up = ""
        if isinstance(made, Pool):
            drawn = project.placeable(self._drawn(made))
            self.came_up = drawn.label
            if isinstance(drawn, (Blend, Pool)):
                heard = drawn
            sounds: tuple[str, ...] = (drawn.id,)
        else:
            sounds = (made.id,)
        self.blend = heard if isinstance(heard, Blend) else None
        if self.blend is not None:
            sounds = tuple(part.sound for part in self.blend.parts)
            value = project.value(self.blend.value)
            self.number = min(max(self.number, value.low), value.high)
        self.what = made.id

        def done(found: Together) -> None:
            if self.waiting is job:
                self.waiting = None
                self._keys = found.keys
                self._sound(Listenable(found.keys[0], found.samples, found.measures), at)

        def failed(sentence: str) -> None:
            if self.waiting is job:
                self._forget()
                self.refused.emit(sentence)

        files = self._presence.standing.files
        job = self._jobs.run(
            hear_together, project, files, self._cache.folder, sounds,
            done=done, failed=failed, watched=True,
        )  # fmt: skip
        self.waiting = job
        self.changed.emit()

    def _drawn(self, pool: Pool) -> str:
        """One of a pool's parts by their weights, not the one heard last if another is there."""
        parts = [part for part in pool.parts if part.sound != self._last] or list(pool.parts)
        if pool.again == "any":
            parts = list(pool.parts)
        drawn = choices(parts, [part.weight for part in parts])[0].sound
        self._last = drawn
        return drawn

    @property
    def ends(self) -> tuple[float, float]:
        """The lowest and the highest number the blend may follow."""
        if self.blend is None:
            return 0.0, 1.0
        value = self._document.project.value(self.blend.value)
        return value.low, value.high

    def move_value(self, number: float) -> None:
        """Let the blend that is listened to follow another number."""
        self.number = number
        if self.blend is not None:
            self._transport.share(self._shares())
        self.changed.emit()

    def _shares(self) -> tuple[float, ...]:
        if self.blend is None:
            return (1.0,)
        at = np.array([self.number])
        count = len(self.blend.parts)
        return tuple(float(blend_gain(self.blend, part)(at)[0]) for part in range(count))

    def stop(self) -> None:
        """Listen no more."""
        if self.waiting is not None:
            self.waiting.cancel()
        if self.what is not None and self._transport.listening:
            self._transport.stop()
        self._forget()

    def _forget(self) -> None:
        self.blend, self.came_up, self._keys = None, "", ()
        if self.what is not None:
            self.what, self.waiting, self.heard, self.position = None, None, None, 0.0
            self.changed.emit()

    def _sound(self, heard: Listenable, at: float) -> None:
        rate = self._document.project.rate
        self.heard, self.length, self.position = heard, heard.samples / rate, at
        self.gain = self.gain_of(heard.measures)
        others = self._keys[1:] if self.blend is not None else ()
        self._transport.listen(heard.key, self.gain, max(0, int(at * rate)), others, self._shares())
        self.changed.emit()

    def gain_of(self, measures: Measures | None) -> float:
        """The gain that brings a sound to the level, as far as its peaks allow."""
        if measures is None or measures.heard is None or not measures.peak:
            return 1.0
        wanted: float = 10 ** ((self.level - measures.heard) / 20)
        return min(wanted, HIGHEST_PEAK / measures.peak)

    def peaks(self) -> Peaks | None:
        """The peaks of what is heard."""
        if self.heard is None:
            return None
        if self._peaks[0] != self.heard.key:
            found = open_peaks(self._cache, self.heard.key, self.heard.samples)
            self._peaks = self.heard.key, found
        return self._peaks[1]

    @property
    def gain_text(self) -> str:
        """By how much it is changed for listening."""
        change = 20 * log10(self.gain) if self.gain > 0 else 0.0
        if abs(change) < 0.05:
            return "as loud as it is"
        return f"{abs(change):.1f} dB {'louder' if change > 0 else 'quieter'} than it is"

    def _move(self, sample: float) -> None:
        self.position = sample / self._document.project.rate
        self.changed.emit()

    def _follow(self) -> None:
        if self.heard is not None and not self._transport.listening:
            self._forget()
