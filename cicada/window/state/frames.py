"""The pictures of scenes, put together beside the window and kept while there is room."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from enum import IntEnum
from functools import lru_cache
from itertools import count
from pathlib import Path
from typing import Any, TypeVar

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from cicada.core.model import Scene
from cicada.core.picture_parts import PicturePart, source_of
from cicada.core.stack import USUAL_RATIO
from cicada.errors import BadPicture
from cicada.media.framing import wanted_on
from cicada.media.picture_process import Composed, PictureDecoder
from cicada.media.wanted import FramePart, PictureInfo, Wanted
from cicada.store.sounds_folder import standing
from cicada.window.state.beside import Inbox, Post
from cicada.window.state.document import Document
from cicada.window.state.guard import guard
from cicada.window.state.permission import Permission

Asked = TypeVar("Asked")
Answer = TypeVar("Answer")
Then = Callable[[PictureInfo | BadPicture], None]

# Pictures kept, by their bytes.
ROOM = 160 << 20
# So many pictures are fetched before they are shown, and so many at most are on their way.
AHEAD, AT_ONCE = 36, 6


class Urgency(IntEnum):
    """What is fetched first."""

    NOW, NEXT, STRIP = range(3)


def start_decoder() -> PictureDecoder:
    """A decoder for a window."""
    return PictureDecoder()


def stop_decoder(decoder: PictureDecoder) -> None:
    """End a window's decoder."""
    decoder.close()


class Frames(QObject):
    """Gives the picture of a frame if it is at hand, and fetches it if it is not.

    ``arrived`` comes when a fetched picture can be had, with how urgent it was; ``forgotten`` when
    all are to be asked for anew; ``trouble`` with a sentence to show.
    """

    arrived = Signal(int)
    forgotten = Signal()
    trouble = Signal(str)

    def __init__(self, document: Document, permission: Permission) -> None:
        super().__init__()
        self._document, self._permission = document, permission
        self._kept: OrderedDict[Wanted, QImage] = OrderedDict()
        self._size = 0
        self._said: set[str] = set()
        self._ratios: dict[FramePart, float] = {}
        self._thens: dict[int, Then] = {}
        self._inbox = Inbox(self._arrived)
        self._era = document.era
        document.changed.connect(self._keep_up)
        permission.changed.connect(self.forget)
        self._fetcher = _Fetcher(self._inbox.post)

    # -- asking --------------------------------------------------------------------------------

    def picture(
        self, scene: Scene, frame: int, height: int, urgency: Urgency = Urgency.NOW
    ) -> QImage | None:
        """The picture of a frame, ``height`` pixels high, or None while it is being fetched.

        It is null where there is none.
        """
        wanted = self.wanted(scene, frame, height)
        if wanted is None:
            return QImage()
        if wanted in self._kept:
            self._kept.move_to_end(wanted)
            return self._kept[wanted]
        self._fetcher.fetch(wanted, urgency)
        return None

    def ahead(self, scene: Scene, frame: int, height: int) -> None:
        """Fetch the pictures that come next, as long as there is nothing more urgent."""
        # No more than there is room for, or they would be gone again before they are shown.
        size = 4 * height * height * self.ratio(scene)
        far = max(2, min(AHEAD, int(ROOM / 2 / size)))
        for following in range(frame + 1, min(frame + 1 + far, scene.length)):
            if self._fetcher.waiting >= AT_ONCE:
                return
            self.picture(scene, following, height, Urgency.NEXT)

    def ratio(self, scene: Scene) -> float:
        """How many times as wide as high a scene's picture is, as far as is known."""
        wanted = self.wanted(scene, scene.picture[0].start, 1) if scene.picture else None
        return USUAL_RATIO if wanted is None else self._ratios.get(wanted.shape, USUAL_RATIO)

    def look_at(self, path: Path, then: Then) -> None:
        """Find out what a file or folder of pictures is."""
        number = self._fetcher.look_at(path)
        self._thens[number] = then

    def _keep_up(self) -> None:
        """Another project's pictures are other ones."""
        if self._document.era != self._era:
            self._era = self._document.era
            self.forget()

    def forget(self) -> None:
        """Read every file anew."""
        self._kept.clear()
        self._said.clear()
        self._ratios.clear()
        self._size = 0
        self._fetcher.forget()
        self.forgotten.emit()

    def wanted(self, scene: Scene, frame: int, height: int) -> Wanted | None:
        """What its decoder is asked for a frame; None where no picture is."""
        return wanted_on(scene, frame, height, self._document.project.fps, self._permitted)

    def _permitted(self, part: PicturePart) -> Path | None:
        file = self.file_of(part)
        return file if self._permission.permits(file) else None

    def file_of(self, part: PicturePart) -> Path:
        """The file or folder a part of the picture is in."""
        return standing(self._document.file, source_of(part))

    def _arrived(self, asked: Wanted | int, found: Any) -> None:  # noqa: ANN401 - as was asked
        if isinstance(asked, Wanted):
            self._keep(asked, found)
            return
        self._fetcher.looked()
        self._thens.pop(asked)(found)

    # -- keeping -------------------------------------------------------------------------------

    def _keep(self, wanted: Wanted, found: Composed | BadPicture) -> None:
        image = QImage()
        if isinstance(found, BadPicture):
            self._say(found)
        else:
            stride, shape = 4 * found.width, QImage.Format.Format_RGB32
            # Qt does not own the bytes, so it is given its own.
            image = QImage(found.pixels, found.width, found.height, stride, shape).copy()
            self._ratios[wanted.shape] = found.width / found.height
            for wrong in found.wrong:
                self._say(wrong)
        self._kept[wanted] = image
        self._size += image.sizeInBytes()
        while self._size > ROOM and len(self._kept) > 1:
            _, oldest = self._kept.popitem(last=False)
            self._size -= oldest.sizeInBytes()
        self.arrived.emit(self._fetcher.done(wanted))

    def _say(self, wrong: BadPicture) -> None:
        if str(wrong) not in self._said:
            self._said.add(str(wrong))
            self.trouble.emit(str(wrong))

    @property
    def busy(self) -> bool:
        """Whether pictures are still being fetched."""
        return self._fetcher.waiting > 0

    def close(self) -> None:
        """Fetch no more."""
        self._fetcher.close()
        self._inbox.close()


@lru_cache(4096)
class _Fetcher:
    """A thread that asks the decoder for what is most urgent: the newest first, or the next."""

    def __init__(self, post: Post) -> None:
        self._post = post
        self._asked: dict[Wanted, tuple[Urgency, int]] = {}
        self._at: set[Wanted] = set()
        self._looking = 0
        self._looks: list[tuple[Path, int]] = []
        self._forget = self._closed = False
        self._order = count()
        self._change = threading.Condition()
        self._thread: threading.Thread | None = None
        self._decoder: PictureDecoder | None = None

    @property
    def waiting(self) -> int:
        """How much is asked for and not had yet."""
        with self._change:
            return len(self._asked) + len(self._looks) + self._looking

    def fetch(self, wanted: Wanted, urgency: Urgency) -> None:
        with self._change:
            known = self._asked.get(wanted)
            if known is not None and known[0] <= urgency:
                return
            number = next(self._order)
            # A hand that has moved on does not want what it passed over any more.
            if urgency == Urgency.NOW:
                stale = [
                    each
                    for each, (how, _) in self._asked.items()
                    if how == Urgency.NOW and each not in self._at and each.height == wanted.height
                ]
                for each in stale:
                    del self._asked[each]
                number = -number
            self._asked[wanted] = urgency, number
        self._wake()

    def look_at(self, path: Path) -> int:
        """Have a file looked at; the number that comes back with the answer."""
        number = next(self._order)
        with self._change:
            self._looks.append((path, number))
        self._wake()
        return number

    def forget(self) -> None:
        with self._change:
            self._forget = True
        self._wake()

    def looked(self) -> None:
        """What was found out has been taken."""
        with self._change:
            self._looking -= 1

    def done(self, wanted: Wanted) -> Urgency:
        """It has been taken; how urgent it was."""
        with self._change:
            self._at.discard(wanted)
            return self._asked.pop(wanted, (Urgency.NEXT, 0))[0]

    def _wake(self) -> None:
        if self._thread is None and not self._closed:
            self._thread = threading.Thread(target=self._run, name="cicada-pictures", daemon=True)
            # Not before the first paint, for the process takes half a second to start.
            QTimer.singleShot(0, self._begin)
        with self._change:
            self._change.notify()

    def _begin(self) -> None:
        if self._thread is not None and not self._closed:
            self._decoder = start_decoder()
            self._thread.start()

    def _next(self) -> Wanted | None:
        open_ones = [each for each in self._asked if each not in self._at]
        return min(open_ones, key=self._asked.__getitem__, default=None)

    def _run(self) -> None:
        decoder = self._decoder
        assert decoder is not None
        while True:
            with self._change:
                while not (self._closed or self._forget or self._looks or self._next()):
                    self._change.wait()
                if self._closed:
                    return
                forget, self._forget = self._forget, False
                look = self._looks.pop(0) if self._looks and not forget else None
                self._looking += look is not None
                wanted = None if look or forget else self._next()
                if wanted is not None:
                    self._at.add(wanted)
            if forget:
                decoder.forget()
            elif look is not None:
                self._post(look[1], _answer(decoder.look_at, look[0]))
            elif wanted is not None:
                self._post(wanted, _answer(decoder.compose, wanted))

    def close(self) -> None:
        with self._change:
            self._closed = True
            self._change.notify()
        if self._decoder is None:
            return
        self._decoder.give_up()
        if self._thread is not None and self._thread.is_alive():
            self._thread.join()
        stop_decoder(self._decoder)


def _answer(ask: Callable[[Asked], Answer], about: Asked) -> Answer | BadPicture:
    try:
        return ask(about)
    except BadPicture as error:
        return error
    except Exception as error:  # noqa: BLE001 - the thread goes on with the next
        guard.catch(error, "pictures")
        return BadPicture("cannot be shown", remedy="try another file")
