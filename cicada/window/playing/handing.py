"""Plans on their way to the player, and what it plays of them."""

from cicada.core.live import behind
from cicada.core.model import Project, Run
from cicada.core.placements import heard_on
from cicada.core.plan import Plan
from cicada.playback.messages import Load
from cicada.window.playing.link import Link
from cicada.window.state.planning import Planning
from cicada.window.state.presence import Presence

# So many plans may be on their way to what is audible.
LOADS = 64


class Handing:
    """Hands plans to the player, each under a number of its own."""

    def __init__(self, link: Link, planning: Planning, presence: Presence) -> None:
        self._link, self._planning, self._presence = link, planning, presence
        # The layers of the plans that were handed over last, by their numbers.
        self.layers: dict[int, tuple[str, ...]] = {}
        # Whether there is something newer that can wait.
        self.behind = False
        self._number = 0
        self._film: Load | None = None

    def film(self) -> None:
        """Hand over the newest plan of the film."""
        planning = self._planning
        played = planning.played
        live = played is not None and played.live
        self._film = self._hand(
            planning.project,
            planning.plan,
            None if played is None else planning.played_plan,
            played.run if live and played is not None else None,
        )
        self.behind = False

    def by_itself(self, project: Project, plan: Plan, run: Run) -> None:
        """Hand over a plan that is not the film's, played live."""
        self._hand(project, plan, plan, run)

    def _hand(self, project: Project, plan: Plan, played: Plan | None, live: Run | None) -> Load:
        self._number += 1
        self.layers[self._number] = tuple(heard_on(project))
        while len(self.layers) > LOADS:
            del self.layers[next(iter(self.layers))]
        files = {sound: str(path) for sound, path in self._presence.standing.files.items()}
        silent = tuple(sorted(self._planning.silent))
        load = Load(project, plan, files, silent, self._number, played, live)
        self._link.send(load)
        return load

    def known(self) -> bool:
        """Whether the newest plan is the player's own: of what was given in the run it plays."""
        handed, played = self._film, self._planning.played
        if handed is None or handed.live is None:
            return False
        same = handed.project is self._planning.project
        if not same or played is None or not behind(handed.live, played.run):
            return False
        return handed.silent == tuple(sorted(self._planning.silent))
