"""Pictures are decoded in a process of their own: a file that upsets a decoder costs no window."""

import multiprocessing
import os
import threading
import time
from contextlib import suppress
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from cicada.errors import BadPicture
from cicada.media.parent import end_with_window

if TYPE_CHECKING:
    from PySide6.QtGui import QGuiApplication

    from cicada.media.composing import Composer
    from cicada.media.wanted import PictureInfo, Wanted

# A decoder that has not answered for so long hangs (seconds).
PATIENCE = 8.0
GLANCE = 0.05
DIED = "made its decoder die"


class Composed(NamedTuple):
    """A picture: its pixels, four bytes each, blue first; and what is wrong with parts of it."""

    width: int
    height: int
    pixels: bytes
    wrong: list[BadPicture]


class Forget(NamedTuple):
    """Read every file anew."""


class PictureDecoder:
    """The decoder's process, seen from outside. It is started when it is first asked.

    One thread asks; ``give_up`` may come from another, and ends what it waits for.
    """

    def __init__(self, patience: float = PATIENCE) -> None:
        self._patience = patience
        self._process: Any = None
        self._pipe: Connection | None = None
        self._over = threading.Event()
        # What killed the process or made it hang is not tried again.
        self._lethal: dict[Path, BadPicture] = {}

    def compose(self, wanted: "Wanted") -> Composed:
        """The picture asked for; raises ``BadPicture``."""
        harmless = tuple(p for p in wanted.parts if p.source not in self._lethal)
        left_out = [self._lethal[p.source] for p in wanted.parts if p not in harmless]
        if not harmless:
            raise left_out[0]
        wanted = wanted._replace(parts=harmless)
        try:
            found = self._composed(wanted)
            return found._replace(wrong=[*found.wrong, *left_out])
        except _Lost as lost:
            if self._over.is_set():
                raise lost.said(harmless[0].source) from None
            if len(harmless) == 1:
                self._lethal[harmless[0].source] = lost.said(harmless[0].source)
                raise self._lethal[harmless[0].source] from None
        # One of them did it: which one shows when each is asked for alone.
        for part in harmless:
            with suppress(BadPicture):
                self.compose(wanted._replace(shape=part, parts=(part,)))
        return self.compose(wanted)

    def _composed(self, wanted: "Wanted") -> Composed:
        width, height, wrong = self._ask(wanted)
        try:
            return Composed(width, height, self._started().recv_bytes(), wrong)
        except (EOFError, OSError):
            self._end()
            raise _Lost(DIED) from None

    def look_at(self, path: Path) -> "PictureInfo":
        """What a file or folder of pictures is; raises ``BadPicture``."""
        try:
            found: PictureInfo = self._ask(path)
        except _Lost as lost:
            raise lost.said(path) from None
        return found

    def forget(self) -> None:
        """Read every file anew."""
        self._lethal.clear()
        if self._process is not None:
            with suppress(_Lost):
                self._ask(Forget())

    def _ask(self, question: object) -> Any:  # noqa: ANN401 - as the question is
        try:
            self._started().send(question)
            answer = self._answer()
        except (EOFError, OSError):
            self._end()
            raise _Lost(DIED) from None
        if isinstance(answer, BadPicture):
            raise answer
        return answer

    def _answer(self) -> Any:  # noqa: ANN401 - as the question is
        pipe, until = self._started(), time.monotonic() + self._patience
        while not pipe.poll(GLANCE):
            if self._over.is_set():
                self._end()
                raise _Lost("is not decoded any more")
            if time.monotonic() > until:
                self._end()
                raise _Lost("takes too long to decode")
        return pipe.recv()

    def _started(self) -> Connection:
        if self._pipe is None:
            context = multiprocessing.get_context("spawn")
            self._pipe, theirs = context.Pipe()
            self._process = context.Process(
                target=run_decoder, args=(theirs,), name="cicada-pictures", daemon=True
            )
            self._process.start()
            theirs.close()
        return self._pipe

    def _end(self) -> None:
        process, pipe, self._process, self._pipe = self._process, self._pipe, None, None
        if pipe is not None:
            pipe.close()
        if process is not None:
            process.kill()
            process.join()
            process.close()

    def give_up(self) -> None:
        """Wait for no answer any more."""
        self._over.set()

    def close(self) -> None:
        """End the process."""
        self._end()


class _Lost(Exception):
    """The process was lost over a question."""

    def said(self, source: Path) -> BadPicture:
        """The same, said of a file."""
        return BadPicture(
            str(self), file=str(source), remedy="export it again, it may be damaged or too large"
        )


class DecoderHere:
    """The same in this process, for a worker, which may have no process of its own."""

    def __init__(self) -> None:
        self._application, self._composer = _composer()

    def compose(self, wanted: "Wanted") -> Composed:
        """The picture asked for; raises ``BadPicture``."""
        image, wrong = self._composer.image(wanted)
        return Composed(image.width(), image.height(), bytes(image.constBits()), wrong)

    def look_at(self, path: Path) -> "PictureInfo":
        """What a file or folder of pictures is; raises ``BadPicture``."""
        return self._composer.look_at(path)

    def close(self) -> None:
        """Let go of its files."""
        self._composer.forget()


def _composer() -> "tuple[QGuiApplication, Composer]":
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtGui import QGuiApplication

    from cicada.media.composing import Composer

    # Letters in a drawing need an application, and there is one at most.
    known = QGuiApplication.instance()
    application = known if isinstance(known, QGuiApplication) else QGuiApplication(["cicada"])
    return application, Composer()


def run_decoder(pipe: Connection) -> None:
    """What the process does: answer until nobody asks any more."""
    os.nice(5)
    end_with_window()
    application, composer = _composer()
    from cicada.media.wanted import Wanted

    with suppress(EOFError, OSError, KeyboardInterrupt):
        while True:
            question = pipe.recv()
            pixels: memoryview | None = None
            try:
                if isinstance(question, Wanted):
                    image, wrong = composer.image(question)
                    answer: object = (image.width(), image.height(), wrong)
                    pixels = memoryview(image.constBits())
                elif isinstance(question, Forget):
                    composer.forget()
                    answer = None
                else:
                    answer = composer.look_at(question)
            except BadPicture as error:
                answer = error
            pipe.send(answer)
            if pixels is not None:
                pipe.send_bytes(pixels)
    del application
