"""The desktop's media keys and players: MPRIS 2.2 over the session's D-Bus, in a thread.

https://specifications.freedesktop.org/mpris-spec/2.2/; a session without a bus is no matter.
"""

import os
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any, Literal, NamedTuple

PATH = "/org/mpris/MediaPlayer2"
ROOT, PLAYER = "org.mpris.MediaPlayer2", "org.mpris.MediaPlayer2.Player"
PROPERTIES, INTROSPECT = (
    "org.freedesktop.DBus.Properties",
    "org.freedesktop.DBus.Introspectable",
)
# Seconds between two looks whether there is something to tell, or it is to end.
LOOK = 0.1
Command = Literal["play", "stop", "toggle", "next", "previous", "seek", "position", "raise", "quit"]
Take = Callable[[Command, float], None]


class Playing(NamedTuple):
    """What is told: times in seconds of the scene; ``jumps`` counts where it did not just go on."""

    playing: bool
    film: str
    scene: str
    scene_id: str
    position: float
    length: float
    jumps: int = 0


NOTHING = Playing(playing=False, film="", scene="", scene_id="", position=0.0, length=0.0)

INTROSPECTION = """<node>
<interface name="org.mpris.MediaPlayer2">
<method name="Raise"/><method name="Quit"/>
<property name="CanQuit" type="b" access="read"/><property name="CanRaise" type="b" access="read"/>
<property name="HasTrackList" type="b" access="read"/>
<property name="Identity" type="s" access="read"/>
<property name="SupportedUriSchemes" type="as" access="read"/>
<property name="SupportedMimeTypes" type="as" access="read"/>
</interface>
<interface name="org.mpris.MediaPlayer2.Player">
<method name="Next"/><method name="Previous"/><method name="Pause"/><method name="PlayPause"/>
<method name="Stop"/><method name="Play"/>
<method name="Seek"><arg direction="in" name="Offset" type="x"/></method>
<method name="SetPosition"><arg direction="in" name="TrackId" type="o"/>
<arg direction="in" name="Position" type="x"/></method>
<method name="OpenUri"><arg direction="in" name="Uri" type="s"/></method>
<signal name="Seeked"><arg name="Position" type="x"/></signal>
<property name="PlaybackStatus" type="s" access="read"/>
<property name="Rate" type="d" access="readwrite"/>
<property name="Metadata" type="a{sv}" access="read"/>
<property name="Volume" type="d" access="readwrite"/>
<property name="Position" type="x" access="read"/>
<property name="MinimumRate" type="d" access="read"/>
<property name="MaximumRate" type="d" access="read"/>
<property name="CanGoNext" type="b" access="read"/>
<property name="CanGoPrevious" type="b" access="read"/>
<property name="CanPlay" type="b" access="read"/><property name="CanPause" type="b" access="read"/>
<property name="CanSeek" type="b" access="read"/>
<property name="CanControl" type="b" access="read"/>
</interface>
</node>"""

_CALLS: dict[str, Command] = {
    "Next": "next", "Previous": "previous", "Pause": "stop", "PlayPause": "toggle",
    "Stop": "stop", "Play": "play", "Raise": "raise", "Quit": "quit",
}  # fmt: skip


def _track(playing: Playing) -> str:
    plain = "".join(c if c.isascii() and c.isalnum() else "_" for c in playing.scene_id)
    return f"/org/cicada/scene/{plain or 'none'}"


def root_properties() -> dict[str, tuple[str, Any]]:
    """What the program is."""
    return {
        "CanQuit": ("b", True),
        "CanRaise": ("b", True),
        "HasTrackList": ("b", False),
        "Identity": ("s", "Cicada"),
        "SupportedUriSchemes": ("as", []),
        "SupportedMimeTypes": ("as", []),
    }


def player_properties(playing: Playing) -> dict[str, tuple[str, Any]]:
    """What plays. A scene is a track; the volume is the film's own business and stays 1."""
    metadata = {
        "mpris:trackid": ("o", _track(playing)),
        "mpris:length": ("x", round(playing.length * 1e6)),
        "xesam:title": ("s", playing.scene),
        "xesam:album": ("s", playing.film),
    }
    return {
        "PlaybackStatus": ("s", "Playing" if playing.playing else "Paused"),
        "Rate": ("d", 1.0),
        "Metadata": ("a{sv}", metadata),
        "Volume": ("d", 1.0),
        "Position": ("x", round(playing.position * 1e6)),
        "MinimumRate": ("d", 1.0),
        "MaximumRate": ("d", 1.0),
        "CanGoNext": ("b", True),
        "CanGoPrevious": ("b", True),
        "CanPlay": ("b", True),
        "CanPause": ("b", True),
        "CanSeek": ("b", True),
        "CanControl": ("b", True),
    }


class MediaKeys:
    """Serves in a thread; ``take`` is called there with what is asked for, and a time for some."""

    def __init__(self, take: Take, bus: str = "SESSION") -> None:
        self._take, self._bus = take, bus
        self._lock = threading.Lock()
        self._now = NOTHING
        self._open = True
        self.name = f"{ROOT}.cicada.instance{os.getpid()}"
        self._thread = threading.Thread(target=self._serve, name="cicada-media-keys", daemon=True)
        self._thread.start()

    def show(self, playing: Playing) -> None:
        """From now on this is what is told."""
        with self._lock:
            self._now = playing

    def _shown(self) -> Playing:
        with self._lock:
            return self._now

    def _serve(self) -> None:
        # Without a bus, or if that goes, there are no media keys, and nobody is told.
        with suppress(Exception):
            self._on_the_bus()

    def _on_the_bus(self) -> None:
        from jeepney import message_bus
        from jeepney.io.blocking import open_dbus_connection
        from jeepney.wrappers import unwrap_msg

        with open_dbus_connection(self._bus) as bus:
            unwrap_msg(bus.send_and_get_reply(message_bus.RequestName(self.name), timeout=2.0))
            told = self._shown()
            while self._open:
                with suppress(TimeoutError):
                    answer = self._answer(bus.receive(timeout=LOOK))
                    if answer is not None:
                        bus.send(answer)
                now = self._shown()
                for signal in _changes(told, now):
                    bus.send(signal)
                told = now

    def _answer(self, message: Any) -> Any:  # noqa: ANN401 - the package has no types
        """The answer to a message; None to one that wants none."""
        from jeepney import HeaderFields, MessageType, new_error, new_method_return

        if message.header.message_type != MessageType.method_call:
            return None
        fields = message.header.fields
        interface = fields.get(HeaderFields.interface, "")
        member, path = fields.get(HeaderFields.member, ""), fields.get(HeaderFields.path, "")
        unknown = new_error(message, "org.freedesktop.DBus.Error.UnknownMethod", "s", (member,))
        if path != PATH:
            return unknown
        try:
            if interface == PROPERTIES:
                return self._property(message, member)
            if interface == INTROSPECT:
                return new_method_return(message, "s", (INTROSPECTION,))
            return new_method_return(message) if self._call(member, message.body) else unknown
        except (TypeError, ValueError, KeyError, IndexError):
            return new_error(message, "org.freedesktop.DBus.Error.InvalidArgs", "s", (member,))

    def _call(self, member: str, body: tuple[Any, ...]) -> bool:
        if member in _CALLS:
            self._take(_CALLS[member], 0.0)
        elif member == "Seek":
            self._take("seek", float(body[0]) / 1e6)
        elif member == "SetPosition":
            now, at = self._shown(), float(body[1]) / 1e6
            # As the specification has it: of another track or past the end nothing is done.
            if body[0] == _track(now) and 0 <= at <= now.length:
                self._take("position", at)
        else:
            return member == "OpenUri"
        return True

    def _property(self, message: Any, member: str) -> Any:  # noqa: ANN401 - as above
        from jeepney import new_error, new_method_return

        interface = message.body[0]
        known = {ROOT: root_properties(), PLAYER: player_properties(self._shown())}[interface]
        if member == "GetAll":
            return new_method_return(message, "a{sv}", (known,))
        name = message.body[1]
        if name not in known:
            return new_error(
                message, "org.freedesktop.DBus.Error.UnknownProperty", "s", (str(name),)
            )
        if member == "Get":
            return new_method_return(message, "v", (known[name],))
        # What may be set stays as it is: the film has its own levels and pace.
        return new_method_return(message)

    def close(self) -> None:
        """Serve no more."""
        self._open = False
        self._thread.join(2.0)


def _changes(before: Playing, now: Playing) -> list[Any]:
    """The signals that tell of what changed."""
    from jeepney import DBusAddress, new_signal

    signals = []
    old, new = player_properties(before), player_properties(now)
    changed = {
        name: value for name, value in new.items() if name != "Position" and old[name] != value
    }
    if changed:
        emitter = DBusAddress(PATH, interface=PROPERTIES)
        gone: list[str] = []
        body = (PLAYER, changed, gone)
        signals.append(new_signal(emitter, "PropertiesChanged", "sa{sv}as", body))
    if now.jumps != before.jumps:
        emitter = DBusAddress(PATH, interface=PLAYER)
        signals.append(new_signal(emitter, "Seeked", "x", (round(now.position * 1e6),)))
    return signals
