"""Recordings that no window is at any more, offered at the start."""

import time
from pathlib import Path

from cicada.core.recorded import Stood
from cicada.errors import CannotWrite
from cicada.store.recordings import Kept, any_kept, kept, remove, take_up
from cicada.window.recording.landing import Landed, Landing
from cicada.window.state.document import Document
from cicada.window.state.notices import Notices
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking

OFFERED = ("Put it on the shelf", "Leave it for later", "Throw it away")


class LeftOver:
    """Looks for them, and asks of each what is to become of it."""

    def __init__(
        self, document: Document, work: Work, asking: Asking, notices: Notices, folder: Path
    ) -> None:
        self._document, self._work = document, work
        self._asking, self._notices, self._folder = asking, notices, folder
        self._landing: Landing | None = None

    def look(self) -> None:
        """Offer what was being recorded when a window ended."""
        if any_kept(self._folder):
            self._work.jobs.run(kept, self._folder, done=self._offer, failed=self._notices.say)

    def _offer(self, found: list[Kept]) -> None:
        for each in found:
            when = time.strftime("%d %B, %H:%M", time.localtime(each.about.when))
            made_for = each.about.project
            takes = f" in {len(each.files)} takes" if len(each.files) > 1 else ""
            answer = self._asking.choose(
                f"A recording was not finished: “{each.about.name}”, {when}{takes}.",
                OFFERED, safe=1, detail=f"It was made for {made_for}." if made_for else "",
            )  # fmt: skip
            if answer == 0:
                self._bring(each)
            elif answer == 2:
                remove(each.note)

    def _bring(self, found: Kept) -> None:
        try:
            under_way = take_up(found.note)
        except CannotWrite:
            self._notices.say("Another window has taken it meanwhile.")
            return

        def nowhere(_: int) -> Stood | None:
            return None

        def done(landed: Landed | None) -> None:
            if landed is not None:
                self._notices.say("It is on the shelf.")

        self._landing = Landing(
            self._document, self._work, lambda text: self._notices.say(text, lasting=True), done
        )
        when = time.strftime("%Y-%m-%d %H:%M", time.localtime(found.about.when))
        self._landing.bring(
            [path for path, _ in found.files], found.about.name, f"recorded {when}", under_way,
            "", nowhere,
        )  # fmt: skip
