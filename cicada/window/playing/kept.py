"""What was pressed in the last run: kept by name, shown, changed, turned into keyframes."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget
from typing_extensions import override

from cicada.core.answer_edits import ChangeRun, ForgetRun, KeepRun
from cicada.core.digest import Digests
from cicada.core.model import KeptRun
from cicada.core.naming import free_name
from cicada.core.pressed import as_kept, laid_out, mark_of_film, mark_of_run, moved, trimmed
from cicada.core.timebase import seconds_to_samples
from cicada.errors import BadEdit
from cicada.store.kept_on import KeptOn
from cicada.window.playing.giving import Giving
from cicada.window.state.conditions import Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking, some_words
from cicada.window.widgets.rows import soft
from cicada.window.words.quantities import TimeUnits, begun, count, parse_seconds

CHANGED = "The film has changed since this was pressed."


class KeptRow(QWidget):
    """Says how much was pressed in the last run, and offers what is kept."""

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        planning: Planning,
        giving: Giving,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self._session, self._conditions, self._planning = session, conditions, planning
        self._giving, self._asking, self._notices = giving, asking, notices
        self._made_on, self._digests = KeptOn(), Digests()
        # The one whose mark was worked out last: it may hold thousands of inputs.
        self._marked: tuple[KeptRun, str] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(2)
        self.since = soft(CHANGED)
        column.addWidget(self.since)
        row, below = QHBoxLayout(), QHBoxLayout()
        for each in (row, below):
            each.setSpacing(6)
            column.addLayout(each)
        self.said = soft("")
        row.addWidget(self.said, 1)
        self.keep = QPushButton("Keep it…")
        self.keep.setToolTip("Keep what was pressed, to be played again exactly")
        self.keep.clicked.connect(self.keep_run)
        row.addWidget(self.keep)
        self.kept = QComboBox()
        self.kept.setAccessibleName("what was kept")
        self.kept.setMaximumWidth(160)
        self.kept.currentTextChanged.connect(lambda _: self._say_whether_changed())
        below.addWidget(soft("kept"))
        below.addWidget(self.kept, 1)
        self.again = QPushButton("Show")
        self.again.setToolTip("Draw it on the sheet; Space plays it as it was pressed")
        self.again.clicked.connect(self.show_kept)
        below.addWidget(self.again)
        self.more = QPushButton("Change")
        self.more.setToolTip("Rename, trim or move it, turn it into keyframes, forget it")
        self.menu = QMenu(self.more)
        self.menu.aboutToShow.connect(self._fill)
        self.more.setMenu(self.menu)
        below.addWidget(self.more)
        conditions.changed.connect(self.refresh)
        session.document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is."""
        live, runs = self._conditions.live, self._session.document.project.runs
        number = 0 if live is None else len(live.inputs)
        is_kept = live is not None and any(run.inputs == live.inputs for run in runs)
        self.said.setText(f"{number} pressed in this run")
        self.said.setVisible(number > 0 and not is_kept)
        self.keep.setVisible(number > 0 and not is_kept)
        names = [run.name for run in runs]
        if names != [self.kept.itemText(row) for row in range(self.kept.count())]:
            self.kept.clear()
            self.kept.addItems(names)
        for part in (self.kept, self.again, self.more):
            part.setVisible(bool(names))
        self.setVisible(bool(names) or number > 0)
        self._say_whether_changed()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._say_whether_changed()

    def _say_whether_changed(self) -> None:
        """Say so if the film is not the one it was made on, where that is known."""
        kept = self.chosen() if self.isVisible() else None
        made_on = None if kept is None else self._made_on.film_of(self._mark(kept))
        self.since.setVisible(made_on is not None and made_on != self._film())

    def _film(self) -> str:
        return mark_of_film(self._session.document.project, self._digests)

    def _mark(self, kept: KeptRun) -> str:
        if self._marked is None or self._marked[0] is not kept:
            self._marked = kept, mark_of_run(kept)
        return self._marked[1]

    def chosen(self) -> KeptRun | None:
        """The one that is chosen of what is kept."""
        name = self.kept.currentText()
        return next((r for r in self._session.document.project.runs if r.name == name), None)

    # -- keeping and showing -------------------------------------------------------------------

    def keep_run(self) -> None:
        """Ask for a name and keep what was pressed under it."""
        live = self._conditions.live
        if live is None or not live.inputs:
            return
        taken = {run.name for run in self._session.document.project.runs}
        name = self._asking.ask(
            "Keep what was pressed", "It is played again exactly, under the name:",
            free_name("Pressed", taken), "Keep it", some_words,
        )  # fmt: skip
        if name is None:
            return
        kept = as_kept(live, name, self._giving.delay)
        film = self._film()
        if self._do(KeepRun(run=kept)):
            self._made_on.remember(mark_of_run(kept), film)
            self.kept.setCurrentText(name)

    def show_kept(self) -> None:
        """Draw the one that is chosen on the sheet."""
        kept = self.chosen()
        if kept is not None:
            scenes = self._session.document.project.scenes
            self._session.show_scene(kept.scene or scenes[0].id)
            self._session.move_playhead(kept.frame)
            self._conditions.replay(kept.run())

    @property
    def _shown(self) -> bool:
        """Whether the one that is chosen is what is drawn."""
        kept, live = self.chosen(), self._planning.run
        conditions = self._conditions
        return conditions.keeps_presses and kept is not None and kept.inputs == live.inputs

    # -- changing ------------------------------------------------------------------------------

    def _fill(self) -> None:
        self.menu.clear()
        for words, do in (
            ("Rename…", self.rename),
            ("Begin it at the playhead", lambda: self.trim(begin=True)),
            ("End it at the playhead", lambda: self.trim(begin=False)),
            ("Move it…", self.shift),
            ("Turn it into keyframes, as heard", lambda: self.lay_out(as_heard=True)),
            ("Turn it into keyframes, as pressed", lambda: self.lay_out(as_heard=False)),
            ("Forget it", self.forget_run),
        ):
            action = self.menu.addAction(words)
            action.triggered.connect(lambda _=False, do=do: do())

    def _do(self, edit: KeepRun | ChangeRun | ForgetRun) -> bool:
        try:
            return self._session.document.do(edit)
        except BadEdit as error:
            self._notices.say(begun(str(error)))
            return False

    def _change(self, named: str, change: Callable[[KeptRun], KeptRun]) -> None:
        kept = self.chosen()
        if kept is None:
            return
        shown = self._shown
        try:
            made = change(kept)
        except BadEdit as error:
            self._notices.say(begun(str(error)))
            return
        made_on = self._made_on.film_of(mark_of_run(kept))
        if self._do(ChangeRun(name=kept.name, run=made, named=named)):
            if made_on is not None:
                self._made_on.remember(mark_of_run(made), made_on)
            self.kept.setCurrentText(made.name)
            if shown:
                self._conditions.replay(made.run())

    def rename(self) -> None:
        """Ask for another name."""
        kept = self.chosen()
        if kept is None:
            return
        name = self._asking.ask(
            "Rename what was pressed", "Its name:", kept.name, "Rename it", some_words
        )
        if name is not None:
            self._change(f"rename {kept.name}", lambda run: replace(run, name=name))

    def trim(self, *, begin: bool) -> None:
        """Leave out what was pressed before the playhead's frame, or from there on."""
        if not self._shown:
            self.show_kept()
            self._notices.say("It is drawn now: put the playhead on a frame and choose this again.")
            return
        at = self._playhead_in_run()
        if at is None:
            self._notices.say("The playhead is where this run does not come.")
        elif begin:
            self._change("trim what was pressed", lambda run: trimmed(run, at))
        else:
            self._change("trim what was pressed", lambda run: trimmed(run, 0, at))

    def _playhead_in_run(self) -> int | None:
        """The sample of the run at which the playhead's frame is entered."""
        kept, plan, number = self.chosen(), self._planning.plan, self._planning.number
        scenes = self._session.document.project.scenes
        assert kept is not None
        first, here = (
            plan.visit_of(scene, n)
            for scene, n in ((kept.scene or scenes[0].id, 1), (self._session.scene_id, number))
        )
        if first is None or here is None:
            return None
        begins = plan.entered(kept.frame, first)
        at = plan.entered(self._session.playhead, here)
        return None if begins is None or at is None else max(0, at - begins)

    def shift(self) -> None:
        """Ask how much later, or sooner, all of it is to be."""
        project = self._session.document.project
        units = TimeUnits(project.timebase.fps)

        def read(text: str) -> int:
            sooner = text.strip().startswith(("-", "−"))
            seconds = parse_seconds(text.strip().lstrip("-−"), units)
            samples = seconds_to_samples(seconds, project.rate)
            return -samples if sooner else samples

        samples = self._asking.ask(
            "Move what was pressed", "Later by (with a minus: sooner by):", "1 f", "Move it", read
        )
        if samples:
            self._change("move what was pressed", lambda run: moved(run, samples))

    def lay_out(self, *, as_heard: bool) -> None:
        """Put it on layers of its own, once it has been said what cannot be put there."""
        kept = self.chosen()
        if kept is None:
            return
        laid = laid_out(self._session.document.project, kept, as_heard=as_heard)
        if laid.edit is None:
            self._notices.say("Nothing of it would be a keyframe: values stay as they were moved.")
            return
        words = []
        if laid.shared:
            words.append(f"{count(laid.shared, 'keyframe')} would share a frame with another")
        if laid.outside:
            words.append(f"{count(laid.outside, 'keyframe')} would stand outside the film")
        if words:
            answer = self._asking.choose(
                f"Put {count(laid.placed, 'keyframe')}, leave out the rest?",
                ["Put them", "Leave it as it is"], safe=1, detail=begun("; ".join(words)) + ".",
            )  # fmt: skip
            if answer != 0:
                return
        if self._session.document.do(laid.edit):
            self._notices.say(f"{count(laid.placed, 'keyframe')}, on a layer for each pad.")

    def forget_run(self) -> None:
        """Forget the one that is chosen."""
        kept = self.chosen()
        if kept is not None:
            self._do(ForgetRun(name=kept.name))
