"""Devices that go and come, and outputs that run dry."""

import numpy as np
import pytest

from cicada.media.cache import user_cache
from cicada.playback.devices import Port, Ports
from cicada.playback.messages import FILM, Device, Devices, Load, Play, Stop, UseDevice
from cicada.playback.output import LATENCY, OutputFailed, RecordingOutput, SilentOutput
from cicada.playback.player import BLOCK, Player
from tests.playback.sound_server import RATE


class Failing(RecordingOutput):
    def write(self, block):
        raise OutputFailed("the sound device has gone", remedy="connect it again")


class Machine:
    """Devices that can be taken away and connected again."""

    def __init__(self, *names):
        self.names, self.kind = list(names), RecordingOutput
        self.opened, self.latencies = [], []

    def open(self, name, latency):
        self.latencies.append(latency)
        if not self.names:
            made = SilentOutput(RATE, "no sound device", sleep=lambda seconds: None)
        else:
            made = self.kind(RATE)
            made.real, made.name = True, name if name in self.names else self.names[0]
        self.opened.append(made)
        return made

    def there(self):
        return tuple(Device(name, name.title()) for name in self.names)

    def player(self, film):
        player = Player(self.open("", LATENCY), user_cache(), Ports(self.open, self.there))
        player.handle(Load(film.project, film.plan, film.files))
        player.handle(Play(0))
        return player


def some_blocks(player, count):
    for _ in range(count):
        player.step()


class Starved(RecordingOutput):
    """One that is handed its fourth block too late."""

    def write(self, block):
        super().write(block)
        self.missed += len(self._blocks) == 4


def test_after_a_hole_more_is_handed_over_ahead_until_it_has_long_been_calm(film, monkeypatch):
    monkeypatch.setattr("cicada.playback.devices.CALM", 1.0)
    machine = Machine("desk")
    machine.kind = Starved
    player = machine.player(film)
    some_blocks(player, 200)
    assert machine.latencies == [0.15, 0.3, 0.6]
    assert player.status(0.0).missed == 3
    # The block that came too late is the first of what follows.
    first, second, third = (output.recorded() for output in machine.opened)
    heard = np.concatenate((first[: 3 * BLOCK], second[: 3 * BLOCK], third))
    assert np.array_equal(heard, film.render[: len(heard)])
    player.handle(Stop())
    some_blocks(player, 100)
    assert machine.latencies[3:] == [0.15]


class Dry(RecordingOutput):
    """One that is never filled again: each block comes too late."""

    def write(self, block):
        super().write(block)
        self.missed += 1


def test_an_output_that_stays_dry_is_opened_anew_every_other_second(film):
    machine = Machine("desk")
    machine.kind = Dry
    player = machine.player(film)
    some_blocks(player, 10 * RATE // BLOCK)
    assert machine.latencies[:3] == [0.15, 0.3, 0.6]
    assert machine.latencies[3:] == [0.6] * 4


def test_a_device_that_goes_is_replaced_and_the_film_goes_on(film):
    machine = Machine("desk")
    player = machine.player(film)
    some_blocks(player, 20)
    machine.names.clear()
    player.output.write = Failing(RATE).write
    some_blocks(player, 20)
    assert not player.output.real
    assert player.status(0.0).doing == FILM
    machine.names.append("desk")
    some_blocks(player, 200)
    assert player.output.real
    heard = player.output.recorded()
    at = player._here() - len(heard)
    assert np.array_equal(heard, film.render[at : at + len(heard)])
    said = [report for report in player.reports if isinstance(report, Devices)]
    assert [each.used for each in said] == ["", "desk"]


def test_a_device_chosen_is_used_while_it_is_there_and_again_when_it_is_back(film):
    machine = Machine("desk", "headset")
    player = machine.player(film)
    player.handle(UseDevice("headset"))
    some_blocks(player, 4)
    assert player.output.name == "headset"
    machine.names.remove("headset")
    player.output.write = Failing(RATE).write
    some_blocks(player, 4)
    assert player.output.name == "desk"
    machine.names.append("headset")
    some_blocks(player, 200)
    assert player.output.name == "headset"


@pytest.mark.parametrize(
    ("shared", "order"), [(True, ["open", "close"]), (False, ["close", "open"])]
)
def test_a_servers_sink_is_kept_awake_while_another_latency_is_asked_for(shared, order):
    done = []

    class Watched(RecordingOutput):
        def close(self):
            done.append("close")

    def opened(name, latency):
        done.append("open")
        made = Watched(RATE)
        made.shared = shared
        return made

    port = Port(opened("", LATENCY), Ports(opened, tuple), lambda report: None)
    port.be_quick(on=True)
    done.clear()
    port.write(np.zeros((2, BLOCK), np.float32), idle=True)
    assert done == order
