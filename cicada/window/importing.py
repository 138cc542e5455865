"""Taking sound files in from the window, in the background."""

from pathlib import Path
from typing import TYPE_CHECKING

from cicada.core.edits import AddSounds
from cicada.deliver.work import take_in
from cicada.errors import CicadaError
from cicada.media.ingest import Ingested
from cicada.store.importing import new_sound
from cicada.window.quantities import count
from cicada.window.session import Cell

if TYPE_CHECKING:
    from cicada.window.main_window import MainWindow


class Importing:
    """Files being taken in, one after the other; each sound can be used as soon as it is in."""

    def __init__(
        self, window: "MainWindow", files: list[Path], place_at: Cell | None = None
    ) -> None:
        """The first sound that comes in is put on ``place_at``, if given."""
        self.window, self.files, self.place_at = window, list(files), place_at
        self.number, self.taken, self.refused = len(files), 0, list[str]()
        self._next()

    def _next(self) -> None:
        window = self.window
        if not self.files:
            self._summary()
            return
        path = self.files.pop(0)
        window.say(f"Importing {path.name}…", lasting=True)
        window.jobs.run(
            take_in,
            path,
            window.document.project.rate,
            window.sounds.cache.folder,
            done=lambda taken: self._done(path, taken),
            failed=self._failed,
        )

    def _done(self, path: Path, taken: Ingested) -> None:
        document, window = self.window.document, self.window
        try:
            sound = new_sound(path, taken, document.project, document.file)
        except CicadaError as error:
            self._failed(str(error))
            return
        if document.do(AddSounds(sounds=(sound,))):
            self.taken += 1
            window.session.choose_sound(sound.id)
            window.sounds.refresh()
            if self.place_at is not None:
                layer = self.place_at.layer or window.commands.new_layer_for(sound.id)
                window.card.place(sound.id, Cell(layer, self.place_at.frame))
                self.place_at = None
        self._next()

    def _failed(self, sentence: str) -> None:
        self.refused.append(sentence)
        self._next()

    def _summary(self) -> None:
        words = f"{count(self.taken, 'sound')} imported." if self.taken else ""
        if self.refused:
            words = f"{words} {'; '.join(self.refused)}".strip()
        self.window.say(words, lasting=bool(self.refused))
