"""Open Sound Control packets, against another implementation and against damage."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message import OscMessage as Theirs
from pythonosc.osc_message_builder import OscMessageBuilder

from cicada.remote.osc_packets import LONGEST, BadPacket, OscMessage, messages_of, packet_of

texts = st.text(st.characters(codec="ascii", exclude_characters="\0"), max_size=20)
blobs = st.binary(min_size=1, max_size=9)
numbers = st.integers(-(2**31), 2**31 - 1)
floats = st.floats(width=32, allow_nan=False, allow_infinity=False)


def built(address, *arguments):
    builder = OscMessageBuilder(address)
    for argument in arguments:
        builder.add_arg(argument)
    return builder.build()


@given(
    texts,
    st.lists(st.one_of(texts, numbers, floats, st.booleans(), blobs)),
)
def test_what_another_program_writes_is_read(address, arguments):
    packet = built(f"/{address}", *arguments[:20]).dgram
    assert messages_of(packet) == [OscMessage(f"/{address}", tuple(arguments[:20]))]


@given(texts, st.lists(st.one_of(texts, numbers, floats), max_size=10))
def test_what_is_written_is_read_by_another_program(address, arguments):
    read = Theirs(packet_of(f"/{address}", *arguments))
    assert read.address == f"/{address}"
    assert read.params == arguments


def test_messages_of_bundles_come_in_their_order():
    inner, outer = OscBundleBuilder(IMMEDIATELY), OscBundleBuilder(IMMEDIATELY)
    inner.add_content(built("/b", 2))
    outer.add_content(built("/a", 1))
    outer.add_content(inner.build())
    outer.add_content(built("/c"))
    found = messages_of(outer.build().dgram)
    assert found == [OscMessage("/a", (1,)), OscMessage("/b", (2,)), OscMessage("/c", ())]


def nested(depth):
    packet = built("/a").dgram
    for _ in range(depth):
        bundle = b"#bundle\0" + b"\0" * 7 + b"\1"
        packet = bundle + len(packet).to_bytes(4, "big") + packet
    return packet


@pytest.mark.parametrize(
    "packet",
    [
        b"", b"/a", b"/abc", b"abc\0", b"/a\0\0,i\0\0", b"/a\0\0,s\0\0ab", b"/a\0\0,q\0\0",
        b"/a\0\0,b\0\0\x7f\xff\xff\xff", b"/a\0\0i\0\0\0", b"/a\0\0,\0\0\0\0\0\0\0",
        b"/\xff\0\0", b"#bundle\0", b"#bundle\0" + b"\0" * 8 + b"\0\0\0\0",
        b"#bundle\0" + b"\0" * 8 + b"\0\0\1\0", b"/a\0\0," + b"i" * 40 + b"\0\0\0" + b"\0" * 160,
        packet_of("/a", "x" * LONGEST), nested(10), b"/a\0\0,f\0\0\x7f\xc0\0\0",
    ],
    ids=range(18),
)  # fmt: skip
def test_what_is_no_packet_is_refused(packet):
    with pytest.raises(BadPacket):
        messages_of(packet)


def test_many_messages_in_one_packet_are_too_many():
    one = built("/a").dgram
    packet = b"#bundle\0" + b"\0" * 8 + (len(one).to_bytes(4, "big") + one) * 100
    with pytest.raises(BadPacket, match="too many"):
        messages_of(packet)


def test_20_000_damaged_packets_raise_nothing_else():
    random = np.random.default_rng(1)
    good = [
        packet_of("/cicada/locate", 12, "sc1"), packet_of("/cicada/play"), nested(3),
        built("/cicada/follow", 3.5, True, b"blob", "text").dgram,
    ]  # fmt: skip
    read = 0
    for number in range(20_000):
        packet = bytearray(good[number % len(good)])
        for _ in range(random.integers(1, 6)):
            what, at = random.integers(4), int(random.integers(len(packet) + 1))
            if what == 0 and at < len(packet):
                packet[at] = random.integers(256)
            elif what == 1:
                del packet[at : at + int(random.integers(1, 9))]
            elif what == 2:
                packet[at:at] = random.bytes(int(random.integers(1, 9)))
            else:
                packet += packet[at:]
        try:
            read += len(messages_of(bytes(packet[: 2 * LONGEST])))
        except BadPacket:
            continue
    assert read > 100
