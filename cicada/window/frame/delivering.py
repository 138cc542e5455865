"""Mixing the film down to a file from the window, with progress and cancel."""

from pathlib import Path

from PySide6.QtCore import QTimer

from cicada.core.model import Run
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.deliver.in_use import refuse_in_use
from cicada.deliver.mixdown import FORMATS, Mixdown, file_format, fitting_format
from cicada.disk.writing import sweep
from cicada.errors import CicadaError
from cicada.jobs.mixing import mix_down
from cicada.window.state.conditions import Conditions
from cicada.window.state.document import Document
from cicada.window.state.jobs import Job
from cicada.window.state.notices import Notices
from cicada.window.state.presence import Presence
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.progressing import Progressing
from cicada.window.words.draw_times import draw_time_text
from cicada.window.words.quantities import count

# Sounds named in a question at most.
SHOWN = 8


class Delivering:
    """The mixdown: a question for a file, and the work behind it."""

    def __init__(
        self,
        document: Document,
        presence: Presence,
        conditions: Conditions,
        work: Work,
        asking: Asking,
        notices: Notices,
    ) -> None:
        self.document, self._presence, self.work = document, presence, work
        self.asking, self.notices, self.conditions = asking, notices, conditions

    def mixdown(self) -> None:
        """Ask for a file and mix the film into it."""
        names = " ".join(f"*{suffix}" for suffix in FORMATS)
        path = self.asking.file_to_write("Mixdown", f"Sound files ({names})", ".wav")
        if path is not None:
            self.mix_to(path)

    def mix_to(self, path: Path) -> None:
        """Mix the film into a file, with progress and cancel."""
        project = self.document.project
        files = self._presence.standing.files
        run = self._run()
        if run is None:
            return
        planned = plan(project, run)
        try:
            kind, subtype = file_format(path, None, project.rate)
            fitting_format(path, kind, subtype, planned.length, project.rate)
            refuse_in_use(path, project, self.document.file)
        except CicadaError as error:
            self.notices.tell(str(error))
            return
        if not self._goes_without(planned):
            return
        slow = ""
        if run.draw_time:
            slow = (
                f" as it sounds where drawing takes {draw_time_text(run.draw_time, project.rate)}"
            )
        progress = Progressing(self.asking.parent, f"Mixing {path.name}{slow}…")

        def done(mix: Mixdown) -> None:
            progress.close()
            self.notices.say(
                f"{path.name}{slow}: {mix.length / mix.rate:.2f} s, "
                f"peak {mix.levels.peak_db:.1f} dB. {mix.warning}",
                lasting=True,
            )

        def failed(sentence: str) -> None:
            progress.close()
            # A worker that had to be ended has left what it was writing.
            QTimer.singleShot(1000, lambda: sweep(path.parent))
            self.notices.say(
                "The mixdown was stopped; nothing was written." if job.cancelled else sentence
            )

        job: Job = self.work.jobs.run(
            mix_down,
            planned,
            project,
            files,
            self.work.cache.folder,
            path,
            None,
            done=done,
            failed=failed,
        )
        progress.follow(job)

    def _run(self) -> Run | None:
        """The run that is mixed: the film as it is, or as on the slower machine if that is meant.

        None if neither is.
        """
        slow = self.conditions.draw_time
        if not slow:
            return Run()
        text = draw_time_text(slow, self.document.project.rate)
        chosen = self.asking.choose(
            f"A slower machine is pretended: drawing takes {text}.",
            ["Stay here", "Mix it as on that machine", "Mix the film as it is"],
            safe=0,
            detail="The film as it is has every picture in time; that is what is delivered.",
        )
        return {1: Run(draw_time=slow), 2: Run()}.get(chosen)

    def _goes_without(self, planned: Plan) -> bool:
        """Whether to mix although sounds that are heard in it cannot be had; asked if some are."""
        heard, project = {voice.sound for voice in planned.voices}, self.document.project
        gone = [project.sound(sound).label for sound in sorted(heard & self._presence.missing)]
        if not gone:
            return True
        chosen = self.asking.choose(
            f"{count(len(gone), 'sound')} of the film cannot be had, and would be silent.",
            ["Mix it without", "Stay here"],
            safe=1,
            detail=", ".join(gone[:SHOWN]) + (" …" if len(gone) > SHOWN else ""),
        )
        return chosen == 0
