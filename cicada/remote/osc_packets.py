"""Packets of Open Sound Control 1.0, read with bounds and written.

https://opensoundcontrol.stanford.edu/spec-1_0.html; nothing of a packet is trusted: whatever does
not add up is ``BadPacket``, and nothing else is raised.
"""

import struct
from collections.abc import Iterator
from math import isfinite
from typing import NamedTuple

Argument = int | float | str | bool | bytes | None

# Bytes of a packet, bundles in bundles, messages of a packet, and arguments of one.
LONGEST, DEEPEST, MOST, ARGUMENTS = 4096, 4, 64, 32
_BUNDLE = b"#bundle\0"
_FIXED = {"i": ">i", "f": ">f", "h": ">q", "d": ">d", "t": ">Q", "c": ">4s", "r": ">4s", "m": ">4s"}
_PLAIN: dict[str, Argument] = {"T": True, "F": False, "N": None, "I": True}


class BadPacket(Exception):
    """A packet that is none."""


class OscMessage(NamedTuple):
    """What is asked for or told: an address and its arguments."""

    address: str
    arguments: tuple[Argument, ...]


def messages_of(packet: bytes) -> list[OscMessage]:
    """All messages of a packet, those of bundles in their order; raises ``BadPacket``."""
    if len(packet) > LONGEST:
        raise BadPacket("too long")
    found: list[OscMessage] = []
    for message in _read(packet, 0):
        if len(found) == MOST:
            raise BadPacket("too many messages")
        found.append(message)
    return found


def _read(packet: bytes, depth: int) -> Iterator[OscMessage]:
    if len(packet) % 4 or not packet:
        raise BadPacket("not a multiple of four bytes")
    if not packet.startswith(_BUNDLE):
        yield _message(packet)
        return
    if depth == DEEPEST:
        raise BadPacket("bundles in too many bundles")
    if len(packet) < 16:
        raise BadPacket("a bundle without a time")
    at = 16
    while at < len(packet):
        (size,) = struct.unpack_from(">i", packet, at)
        at += 4
        if size <= 0 or size > len(packet) - at:
            raise BadPacket("an element longer than its bundle")
        yield from _read(packet[at : at + size], depth + 1)
        at += size


def _message(packet: bytes) -> OscMessage:
    address, at = _text(packet, 0)
    if not address.startswith("/"):
        raise BadPacket("an address that does not begin with a slash")
    if at == len(packet):
        # Old senders leave the types out where there are no arguments.
        return OscMessage(address, ())
    types, at = _text(packet, at)
    if not types.startswith(",") or len(types) - 1 > ARGUMENTS:
        raise BadPacket("no types, or too many")
    arguments: list[Argument] = []
    for kind in types[1:]:
        value, at = _argument(packet, at, kind)
        arguments.append(value)
    if at != len(packet):
        raise BadPacket("more than its types say")
    return OscMessage(address, tuple(arguments))


def _text(packet: bytes, at: int) -> tuple[str, int]:
    """A string that ends with a zero and is filled up to four bytes, and where it ends."""
    end = packet.find(b"\0", at)
    if end < 0:
        raise BadPacket("a text without an end")
    try:
        text = packet[at:end].decode("ascii")
    except UnicodeDecodeError as error:
        raise BadPacket("a text that is no ASCII") from error
    return text, (end // 4 + 1) * 4


def _argument(packet: bytes, at: int, kind: str) -> tuple[Argument, int]:
    if kind in _PLAIN:
        return _PLAIN[kind], at
    if kind in "sS":
        return _text(packet, at)
    try:
        if kind == "b":
            (size,) = struct.unpack_from(">i", packet, at)
            if not 0 <= size <= len(packet) - at - 4:
                raise BadPacket("a blob longer than its packet")
            start = at + 4
            return packet[start : start + size], start + (size + 3) // 4 * 4
        (value,) = struct.unpack_from(_FIXED[kind], packet, at)
    except (struct.error, KeyError) as error:
        raise BadPacket("an argument that is cut off or of no known type") from error
    if isinstance(value, float) and not isfinite(value):
        raise BadPacket("a number that is none")
    return value, at + struct.calcsize(_FIXED[kind])


def packet_of(address: str, *arguments: int | float | str) -> bytes:
    """A message as a packet: whole numbers of 32 bits, floats of 32 bits, and texts."""
    types, data = ",", b""
    for value in arguments:
        if isinstance(value, str):
            types, data = types + "s", data + _filled(value)
        elif isinstance(value, float):
            types, data = types + "f", data + struct.pack(">f", value)
        else:
            types, data = (
                types + "i",
                data + struct.pack(">i", max(-(2**31), min(value, 2**31 - 1))),
            )
    return _filled(address) + _filled(types) + data


def _filled(text: str) -> bytes:
    plain = text.encode("ascii", "replace") + b"\0"
    return plain + b"\0" * (-len(plain) % 4)
