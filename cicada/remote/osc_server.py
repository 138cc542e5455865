"""Open Sound Control over UDP, to and from programs on this machine alone."""

import socket
import threading
import time
from collections.abc import Callable
from contextlib import suppress

from cicada.errors import CicadaError
from cicada.remote.osc_packets import LONGEST, BadPacket, OscMessage, messages_of, packet_of

HOST, PORT = "127.0.0.1", 9137
# Seconds that one who asked to be told is told, and how many are at most.
LAPSES, FOLLOWERS = 60.0, 16
# Seconds between two looks whether it is to end.
LOOK = 0.25
Address = tuple[str, int]
Take = Callable[[OscMessage], None]


class PortTaken(CicadaError):
    """Another program listens there."""


class OscServer:
    """Listens in a thread; ``take`` is called there with each message that is understood.

    Who sends ``/cicada/follow`` is told what is told for a minute, or for as many seconds as it
    says, and has to ask again then.
    """

    def __init__(self, take: Take, port: int = PORT) -> None:
        """Raises ``PortTaken`` if the port is not free."""
        self._take = take
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        try:
            self._socket.bind((HOST, port))
        except OSError as error:
            self._socket.close()
            raise PortTaken(
                f"port {port} is not free", remedy="end the program that listens there"
            ) from error
        self._socket.settimeout(LOOK)
        self.port = int(self._socket.getsockname()[1])
        self._followers: dict[Address, float] = {}
        self._lock = threading.Lock()
        self._open = True
        self._thread = threading.Thread(target=self._serve, name="cicada-osc", daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        while self._open:
            try:
                packet, sender = self._socket.recvfrom(LONGEST + 1)
            except TimeoutError:
                continue
            except OSError:
                # It was closed, or one who was told is gone: UDP says so at the next look.
                if not self._open:
                    return
                continue
            with suppress(BadPacket):
                for message in messages_of(packet):
                    self._do(message, sender)

    def _do(self, message: OscMessage, sender: Address) -> None:
        if message.address != "/cicada/follow":
            self._take(message)
            return
        seconds = message.arguments[0] if message.arguments else LAPSES
        if isinstance(seconds, bool) or not isinstance(seconds, int | float):
            return
        with self._lock:
            now = time.monotonic()
            self._forget_lapsed(now)
            if seconds <= 0:
                self._followers.pop(sender, None)
            elif sender in self._followers or len(self._followers) < FOLLOWERS:
                self._followers[sender] = now + min(float(seconds), LAPSES)
        # So that it is told at once how things are.
        self._take(message)

    def _forget_lapsed(self, now: float) -> None:
        for address in [a for a, until in self._followers.items() if until <= now]:
            del self._followers[address]

    @property
    def followers(self) -> int:
        """How many are told what goes on."""
        with self._lock:
            self._forget_lapsed(time.monotonic())
            return len(self._followers)

    def tell(self, address: str, *arguments: int | float | str) -> None:
        """Tell all who asked; whoever is gone is told nothing."""
        with self._lock:
            self._forget_lapsed(time.monotonic())
            followers = list(self._followers)
        packet = packet_of(address, *arguments) if followers else b""
        for follower in followers:
            with suppress(OSError):
                self._socket.sendto(packet, follower)

    def close(self) -> None:
        """Listen no more."""
        self._open = False
        self._thread.join()
        self._socket.close()
