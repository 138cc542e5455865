"""The window played from outside: over UDP by another implementation, over D-Bus by its tools."""

import re
import socket
import subprocess
import time

import numpy as np
import pytest
from pythonosc.osc_message import OscMessage
from pythonosc.udp_client import SimpleUDPClient

from cicada.playback.messages import Press
from cicada.remote import osc_server
from cicada.remote.media_keys import PATH, PLAYER, ROOT, MediaKeys
from cicada.remote.osc_server import HOST, OscServer, PortTaken
from tests.playback.realtime_kit import CONFIG

PROPERTIES = "org.freedesktop.DBus.Properties"


# -- Open Sound Control ----------------------------------------------------------------------------


class Client:
    """Sends with another implementation, and hears what it is told."""

    def __init__(self, port):
        self._client = SimpleUDPClient(HOST, port)
        self._client._sock.setblocking(False)

    def send(self, address, *arguments):
        self._client.send_message(address, list(arguments))

    def raw(self, packet):
        self._client._sock.sendto(packet, (HOST, self._client._port))

    def told(self):
        found = []
        while True:
            try:
                read = OscMessage(self._client._sock.recv(4096))
            except BlockingIOError:
                return found
            found.append((read.address, read.params))

    def close(self):
        self._client._sock.close()


@pytest.fixture
def client(harbour, monkeypatch, settled):
    """A client of the demo's window, which listens on a port of its own."""
    monkeypatch.setattr(
        "cicada.window.playing.remote.OscServer", lambda take: OscServer(take, port=0)
    )
    harbour.menus.do("osc")
    assert "listens on port" in harbour.foot.note.text()
    made = Client(harbour.remote.osc.port)
    yield made
    made.close()


def test_it_is_off_until_it_is_switched_on(harbour):
    assert harbour.remote.osc is None


def test_it_plays_stops_and_locates(harbour, client, qtbot):
    client.send("/cicada/locate", 30, "sc2")
    qtbot.waitUntil(lambda: harbour.session.playhead == 30)
    assert harbour.session.scene_id == "sc2"
    client.send("/cicada/play")
    qtbot.waitUntil(lambda: harbour.transport.playing)
    client.send("/cicada/locate", 60)
    qtbot.waitUntil(lambda: harbour.session.playhead >= 60)
    assert harbour.transport.playing
    client.send("/cicada/stop")
    qtbot.waitUntil(lambda: not harbour.transport.playing)


def test_who_asks_is_told_where_it_is_and_how_loud_and_nobody_else(harbour, client, qtbot):
    other = Client(harbour.remote.osc.port)
    client.send("/cicada/follow", 30.0)
    qtbot.waitUntil(lambda: harbour.remote.osc.followers == 1)
    first = []
    qtbot.waitUntil(lambda: first.extend(client.told()) or bool(first))
    assert first[0] == ("/cicada/position", ["sc2", 0, 0.0, 0])
    harbour.transport.play_from(0)
    qtbot.waitUntil(lambda: harbour.session.playhead > 12)
    harbour.transport.stop()
    told = client.told()
    frames = [params[1] for address, params in told if address == "/cicada/position"]
    assert frames == sorted(frames)
    assert frames[-1] >= 12
    meters = [params for address, params in told if address == "/cicada/meters"]
    assert meters
    assert all(len(each) == 5 and each[0] <= 20 for each in meters)
    assert other.told() == []
    other.close()


def test_being_told_lapses(harbour, client, qtbot):
    client.send("/cicada/follow", 0.2)
    qtbot.waitUntil(lambda: harbour.remote.osc.followers == 1)
    qtbot.waitUntil(lambda: harbour.remote.osc.followers == 0, timeout=2000)
    client.told()
    harbour.session.move_playhead(9)
    qtbot.wait(50)
    assert client.told() == []


def test_so_many_are_told_at_most(harbour, client, qtbot):
    clients = [Client(harbour.remote.osc.port) for _ in range(osc_server.FOLLOWERS + 4)]
    for each in clients:
        each.send("/cicada/follow", 10)
    qtbot.waitUntil(lambda: harbour.remote.osc.followers == osc_server.FOLLOWERS)
    qtbot.wait(100)
    assert harbour.remote.osc.followers == osc_server.FOLLOWERS
    for each in clients:
        each.close()


def test_what_is_not_understood_changes_nothing(harbour, client, qtbot):
    before = harbour.document.project, harbour.session.scene_id, harbour.session.playhead
    random = np.random.default_rng(3)
    for _ in range(50):
        for _ in range(10):
            client.raw(random.bytes(int(random.integers(1, 200))))
        qtbot.wait(5)
    for address, arguments in (
        ("/cicada/locate", ()), ("/cicada/locate", ("12",)), ("/cicada/locate", (3, "nowhere")),
        ("/cicada/locate", (True,)), ("/cicada/follow", ("x",)), ("/cicada/quit", ()), ("/x", ()),
    ):  # fmt: skip
        client.send(address, *arguments)

    def there():
        # A packet may be lost where many come at once.
        client.send("/cicada/locate", 5)
        return harbour.session.playhead == 5

    qtbot.waitUntil(there)
    assert (harbour.document.project, harbour.session.scene_id) == before[:2]
    assert not harbour.transport.playing


def test_a_frame_past_the_end_is_the_last(harbour, client, qtbot):
    for frame, there in ((10**6, harbour.session.scene.length - 1), (-5, 0)):
        client.send("/cicada/locate", frame)
        qtbot.waitUntil(lambda there=there: harbour.session.playhead == there)


def test_a_port_that_is_taken_is_said(harbour, monkeypatch):
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as taken:
        taken.bind((HOST, 0))
        port = taken.getsockname()[1]
        with pytest.raises(PortTaken, match="not free"):
            OscServer(lambda _: None, port)
        monkeypatch.setattr(
            "cicada.window.playing.remote.OscServer", lambda take: OscServer(take, port=port)
        )
        harbour.menus.do("osc")
        assert "not free" in harbour.foot.note.text()
        assert harbour.remote.osc is None


def test_it_is_switched_off_again(harbour, client, qtbot):
    harbour.menus.do("osc")
    assert harbour.remote.osc is None
    client.send("/cicada/locate", 30)
    qtbot.wait(50)
    assert harbour.session.playhead == 0


# -- media keys ------------------------------------------------------------------------------------


@pytest.fixture
def daemon(tmp_path):
    """A session bus of its own."""
    (tmp_path / "bus.conf").write_text(CONFIG.format(folder=tmp_path))
    daemon = subprocess.Popen(
        ["dbus-daemon", f"--config-file={tmp_path / 'bus.conf'}", "--nofork", "--print-address"],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    yield daemon
    daemon.terminate()
    daemon.wait(5)
    daemon.stdout.close()


@pytest.fixture
def bus(daemon, monkeypatch):
    """Its address, which is the session's."""
    address = daemon.stdout.readline().strip()
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
    return address


class Desktop:
    """The bus's own tool as the desktop."""

    def __init__(self, address, name, qtbot):
        self._address, self._name, self._qtbot = address, name, qtbot

    def call(self, member, *arguments):
        """What is answered; the window works meanwhile."""
        asked = subprocess.Popen(
            ["dbus-send", f"--bus={self._address}", "--print-reply", "--reply-timeout=5000",
             f"--dest={self._name}", PATH, member, *arguments],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip
        self._qtbot.waitUntil(lambda: asked.poll() is not None, timeout=8000)
        with asked.stdout as out:
            return out.read()

    def get(self, name, interface=PLAYER):
        return self.call(f"{PROPERTIES}.Get", f"string:{interface}", f"string:{name}")


@pytest.fixture
def desktop(harbour, bus, qtbot, settled):
    """The demo's window with its media keys on a bus."""
    harbour.remote.begin()
    made = Desktop(bus, harbour.remote._keys.name, qtbot)
    qtbot.waitUntil(lambda: "Cicada" in made.get("Identity", ROOT), timeout=8000)
    return made


def test_media_keys_play_stop_and_turn_to_other_scenes(harbour, desktop, qtbot):
    desktop.call(f"{PLAYER}.PlayPause")
    qtbot.waitUntil(lambda: harbour.transport.playing)
    qtbot.waitUntil(lambda: '"Playing"' in desktop.get("PlaybackStatus"))
    desktop.call(f"{PLAYER}.PlayPause")
    qtbot.waitUntil(lambda: not harbour.transport.playing)
    assert '"Paused"' in desktop.get("PlaybackStatus")
    desktop.call(f"{PLAYER}.Next")
    qtbot.waitUntil(lambda: harbour.session.scene_id == "sc3")
    assert '"Dawn"' in desktop.get("Metadata")
    desktop.call(f"{PLAYER}.Previous")
    qtbot.waitUntil(lambda: harbour.session.scene_id == "sc2")


def test_a_desktop_goes_to_a_moment_and_only_of_the_scene_it_knows(harbour, desktop, qtbot):
    desktop.call(f"{PLAYER}.Seek", "int64:1000000")
    qtbot.waitUntil(lambda: harbour.session.playhead == 24)
    assert "int64 1000000" in desktop.get("Position")
    track = re.search(r'object path "([^"]+)"', desktop.get("Metadata"))[1]
    desktop.call(f"{PLAYER}.SetPosition", f"objpath:{track}", "int64:500000")
    qtbot.waitUntil(lambda: harbour.session.playhead == 12)
    desktop.call(f"{PLAYER}.SetPosition", "objpath:/somewhere", "int64:0")
    desktop.call(f"{PLAYER}.SetPosition", f"objpath:{track}", "int64:999000000000")
    qtbot.wait(100)
    assert harbour.session.playhead == 12


def test_play_at_a_press_point_is_no_press(harbour, desktop, qtbot, settled):
    harbour.session.show_scene("sc2")
    harbour.session.move_playhead(112)
    settled(harbour)
    sent = []
    real = harbour.transport._link.send
    harbour.transport._link.send = lambda message: sent.append(message) or real(message)
    desktop.call(f"{PLAYER}.Play")
    qtbot.waitUntil(lambda: harbour.transport.waiting is not None, timeout=20_000)
    desktop.call(f"{PLAYER}.Play")
    qtbot.wait(100)
    assert harbour.transport.waiting is not None
    assert not any(isinstance(message, Press) for message in sent)
    harbour.transport.stop()


def test_its_volume_stays_one(desktop):
    desktop.call(f"{PROPERTIES}.Set", f"string:{PLAYER}", "string:Volume", "variant:double:0.2")
    assert "double 1" in desktop.get("Volume")


@pytest.mark.parametrize(
    ("member", "arguments", "answer"),
    [
        (f"{PLAYER}.Dance", (), "UnknownMethod"),
        (f"{PLAYER}.Seek", ("string:far",), "InvalidArgs"),
        (f"{PLAYER}.Seek", (), "InvalidArgs"),
        (f"{PROPERTIES}.Get", ("string:nothing", "string:Volume"), "InvalidArgs"),
        (f"{PROPERTIES}.Get", (f"string:{PLAYER}", "string:Colour"), "UnknownProperty"),
        ("org.freedesktop.DBus.Introspectable.Introspect", (), "PlaybackStatus"),
        (f"{PROPERTIES}.GetAll", (f"string:{PLAYER}",), "CanSeek"),
        (f"{PLAYER}.OpenUri", ("string:file:///etc/passwd",), "method return"),
    ],
)
def test_whatever_a_desktop_asks_is_answered(desktop, member, arguments, answer):
    assert answer in desktop.call(member, *arguments)


def test_what_changes_is_told_to_the_desktop(harbour, desktop, bus, qtbot):
    seen = subprocess.Popen(
        ["dbus-monitor", "--address", bus, f"type='signal',interface='{PROPERTIES}'"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    qtbot.wait(300)
    harbour.session.show_scene("sc1")
    harbour.transport.play_from(0)
    qtbot.wait(600)
    harbour.transport.stop()
    qtbot.wait(300)
    seen.terminate()
    with seen.stdout as out:
        text = out.read()
    seen.wait(5)
    assert '"Playing"' in text
    assert '"Dusk"' in text


def test_a_desktop_raises_the_window_and_may_ask_it_to_quit(harbour, desktop, qtbot):
    asked = []
    harbour.remote.raise_wanted.connect(lambda: asked.append("raise"))
    harbour.remote.quit_wanted.disconnect()
    harbour.remote.quit_wanted.connect(lambda: asked.append("quit"))
    desktop.call(f"{ROOT}.Raise")
    desktop.call(f"{ROOT}.Quit")
    qtbot.waitUntil(lambda: asked == ["raise", "quit"])


@pytest.mark.parametrize("address", ["unix:path=/nowhere/at/all", "nonsense", ""])
def test_without_a_bus_there_are_no_media_keys_and_nobody_is_troubled(monkeypatch, address):
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
    keys = MediaKeys(lambda *_: None)
    time.sleep(0.1)
    keys.close()
    assert not keys._thread.is_alive()


def test_a_bus_that_goes_takes_nothing_with_it(harbour, desktop, daemon, qtbot):
    daemon.kill()
    qtbot.wait(400)
    harbour.transport.play_from(0)
    qtbot.waitUntil(lambda: harbour.transport.playing)
    harbour.transport.stop()
