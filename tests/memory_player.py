"""A player in the window's own process, which plays into memory instead of a device."""

import time

from cicada.media.cache import user_cache
from cicada.playback.output import RecordingOutput
from cicada.playback.player import Player


class MemoryPlayer:
    """Every look at it lets it play a little more."""

    alive = True

    def __init__(self, rate):
        self.rate = rate
        self.player = Player(RecordingOutput(rate), user_cache())
        self.heard = []

    def send(self, message):
        self.heard.append(message)
        self.player.handle(message)
        return True

    def status(self):
        self.player.step()
        self.player.step()
        return self.player.status(time.monotonic())

    def reports(self):
        found = list(self.player.reports)
        self.player.reports.clear()
        return found

    def readings(self):
        found = list(self.player.readings)
        self.player.readings.clear()
        return found

    def close(self):
        pass
