"""What is asked of a window that plays into memory."""

from cicada.core.mix import Mixer
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from tests.by_hand import player


def said_to_player(window, kind):
    return [
        message for message in window.transport._link._player.heard if isinstance(message, kind)
    ]


def render(window, run, project=None):
    project = project or window.document.project
    made = plan(project, run)
    sources = SoundSources(project, window.presence.standing.files, user_cache())
    return Mixer(made, project, sources).mix(0, made.length).T


def heard_since(window, written):
    return player(window).output.recorded()[written:]
