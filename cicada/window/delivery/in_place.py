"""Hearing a file against the picture in place of the film's own sound, without placing it."""

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from cicada.core.in_place import in_place
from cicada.core.recipes import AnyRecipe
from cicada.errors import CicadaError
from cicada.jobs.delivering import in_mono
from cicada.jobs.files import take_in
from cicada.media.ingest import Ingested
from cicada.store.importing import Shelf
from cicada.window.playing.transport import Transport
from cicada.window.state.conditions import Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.state.work import Work


class InPlace(QObject):
    """``changed`` comes when another file is heard, or none any more."""

    changed = Signal()

    def __init__(
        self,
        session: Session,
        planning: Planning,
        transport: Transport,
        conditions: Conditions,
        work: Work,
        notices: Notices,
    ) -> None:
        super().__init__()
        self._session, self._transport, self._conditions = session, transport, conditions
        self._work, self._notices = work, notices
        self._trial = planning.trial()
        # What is heard, or about to be; and from which frame of the scene shown.
        self.what: Path | None = None
        self._frame = 0
        self._playing = False
        planning.planned.connect(self._planned)
        planning.trial_changed.connect(self._keep_up)
        transport.state_changed.connect(self._follow)

    def toggle(self, path: Path, recipe: AnyRecipe) -> None:
        """Hear a file where its recipe begins, or stop."""
        if self.what == path:
            self.stop()
            return
        self.stop()
        self.what = path
        self.changed.emit()
        self._work.jobs.run(
            take_in, path, self._session.document.project.rate, self._work.cache.folder,
            done=lambda found: self._taken(path, recipe, found), failed=self._refused,
            watched=True,
        )  # fmt: skip

    def hear_in_mono(self, recipe: AnyRecipe) -> None:
        """Hear what a recipe asks for as it is in mono, before anything is delivered."""
        self.stop()
        self._work.with_sounds(
            in_mono, recipe, done=lambda path: self.toggle(path, recipe), failed=self._refused
        )

    def _refused(self, why: str) -> None:
        self._notices.say(why)
        self._forget()

    def _taken(self, path: Path, recipe: AnyRecipe, found: Ingested) -> None:
        if self.what != path:
            return
        document, scope = self._session.document, recipe.scope
        project = document.project
        try:
            fresh = Shelf(project).new(path, found, document.file, file="")
        except CicadaError as error:
            self._refused(str(error))
            return
        scene = scope.scene if scope.scene is not None else project.scenes[0].id
        if all(each.id != scene for each in project.scenes):
            self._refused("Its scene is gone.")
            return
        self._frame = scope.first
        self._session.show_scene(scene)
        self._conditions.play_what("film" if scope.scene is None else "scene")
        self._trial.instead(in_place(project, fresh, scene, scope.first))

    def stop(self) -> None:
        """Hear the film as it is again."""
        if self._playing:
            self._playing = False
            self._transport.stop()
        self._forget()
        self._trial.end()

    def _forget(self) -> None:
        if self.what is not None:
            self.what = None
            self.changed.emit()

    def _planned(self) -> None:
        if self.what is not None and self._trial.planned and not self._playing:
            self._transport.play_from(self._frame)
            self._playing = True

    def _keep_up(self) -> None:
        """Something else is tried out."""
        if not self._trial.begun and self._playing:
            self._playing = False
            self._forget()

    def _follow(self) -> None:
        if self._playing and not self._transport.playing:
            self._playing = False
            self._forget()
            self._trial.end()
