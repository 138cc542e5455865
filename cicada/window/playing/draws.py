"""What pools draw: tried again for listening, and kept as the project's."""

from secrets import randbelow

from cicada.core.scene_edits import ChangeProject
from cicada.window.state.conditions import Conditions
from cicada.window.state.document import Document
from cicada.window.state.notices import Notices
from cicada.window.widgets.actions import Action

SEEDS = 2**31
NO_POOL = "Nothing is drawn here: there is no pool in this film yet."


class Draws:
    """Other draws than the project's are for listening until they are kept."""

    def __init__(self, document: Document, conditions: Conditions, notices: Notices) -> None:
        self._document, self._conditions, self._notices = document, conditions, notices

    def entries(self) -> list[Action | None]:
        """The entries of the Play menu."""
        return [
            ("draw_anew", "Draw all anew", "Ctrl+Alt+N", self.draw_anew),
            ("keep_draws", "Keep these draws", "Ctrl+Alt+J", self.keep_draws),
            ("own_draws", "Back to the project's draws", "Ctrl+Alt+H", self.own_draws),
            None,
        ]

    def draw_anew(self) -> None:
        """Let all pools draw by another seed, for listening."""
        if not self._document.project.pools:
            self._notices.say(NO_POOL)
            return
        now = self._conditions.seed or self._document.project.seed
        self._conditions.draw_from((now + 1 + randbelow(SEEDS - 1)) % SEEDS)
        self._notices.say("All is drawn anew, for listening. “Keep these draws” makes it stay.")

    def keep_draws(self) -> None:
        """Make the draws that are heard the project's."""
        seed = self._conditions.seed
        if seed is None:
            self._notices.say(
                "These draws are the project's already."
                if self._document.project.pools
                else NO_POOL
            )
            return
        self._document.do(ChangeProject(changes={"seed": seed}))
        self._conditions.draw_from(None)
        self._notices.say("These draws are the project's now.")

    def own_draws(self) -> None:
        """Hear the project's own draws again."""
        if self._conditions.seed is None:
            self._notices.say("What is heard is drawn as the project draws.")
            return
        self._conditions.draw_from(None)
