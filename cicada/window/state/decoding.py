"""Has what the plan needs decoded, and keeps the cache of decoded sounds within its limit."""

from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.answers import Fire
from cicada.core.needs import stored_of
from cicada.jobs.files import keep_cache
from cicada.jobs.mixing import Ready, make_ready, prove
from cicada.media.sources import SoundSources
from cicada.window.state.document import Document
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence
from cicada.window.state.sounds import Sounds
from cicada.window.state.work import Work

# Milliseconds after which what was in the cache is looked through: the window is there first.
LATER = 3000


class Decoding(QObject):
    """``decoded`` comes when more can be played than before."""

    decoded = Signal()

    def __init__(
        self,
        document: Document,
        planning: Planning,
        presence: Presence,
        sounds: Sounds,
        work: Work,
        notices: Notices,
    ) -> None:
        super().__init__()
        self._document, self._planning, self._presence = document, planning, presence
        self._sounds, self._work, self._notices = sounds, work, notices
        self._under_way = False
        self._proved: tuple[Path, int] | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER)
        self._later.timeout.connect(self._prove_now)
        # Sounds, by id and content, that could not be made ready or have been.
        self._given_up: set[tuple[str, str]] = set()

    def look(self) -> None:
        """Have decoded what is not."""
        standing = self._presence.standing
        hashes = {sound.id: sound.content for sound in self._document.project.sounds}
        unready = {(sound, hashes.get(sound, "")) for sound in standing.unready}
        # What was made ready may be gone or damaged again.
        self._given_up &= unready
        wanted = unready - self._given_up
        if self._under_way:
            return
        if not wanted:
            self._prove()
            return
        self._under_way = True
        self._notices.say("Getting the sounds ready…", lasting=True)

        def done(ready: Ready) -> None:
            self._under_way = False
            # Asked for again only if they are other files by then.
            self._given_up |= wanted
            self._sounds.refresh()
            self.decoded.emit()
            self._presence.look()
            self.keep_to_limit()
            self._notices.say("; ".join(ready.refused.values()), lasting=bool(ready.refused))

        def failed(sentence: str) -> None:
            self._under_way = False
            self._given_up |= wanted
            self._notices.say(sentence, lasting=True)

        self._work.with_sounds(make_ready, done=done, failed=failed)

    def _prove(self) -> None:
        """Have what was in the cache before looked through, once for each project and rate."""
        document = self._document
        whose = document.file, document.project.rate
        if whose == self._proved:
            return
        self._proved = whose
        self._later.start()

    def _prove_now(self) -> None:
        self._work.with_sounds(prove, done=lambda _: self._presence.look(), failed=lambda _: None)

    def close(self) -> None:
        """The window is closing: nothing more is looked through."""
        self._later.stop()

    # -- the cache -----------------------------------------------------------------------------

    @property
    def limit(self) -> int:
        """How many bytes the cache may have."""
        return self._work.cache.limit

    def set_limit(self, size: int) -> None:
        """Let the cache have so many bytes from now on."""
        self._work.cache.set_limit(size)
        self.keep_to_limit()

    def keep_to_limit(self) -> None:
        """Bring the cache down to its limit; what the plan needs stays, and what pads fire."""
        project, cache = self._document.project, self._work.cache
        placed = {voice.sound for voice in self._planning.settled_plan.voices}
        # What a pad may fire has to be there before it is pressed.
        placed |= {d.sound for pad in project.pads for d in pad.does if isinstance(d, Fire)}
        there = {made.id for made in project.all_placeables()}
        stored = frozenset[str]().union(*(stored_of(project, each) for each in placed & there))
        sources = SoundSources(project, self._presence.standing.files, cache, only_cached=True)
        keys = [key for each in stored if (key := sources.key(each))]
        self._work.jobs.run(
            keep_cache, cache.folder, self.limit, keys, done=lambda _: None, failed=lambda _: None
        )
