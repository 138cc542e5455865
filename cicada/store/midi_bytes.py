"""What Standard MIDI Files are written from: numbers, texts, tempos, tracks."""

TEMPO_UNIT = 60_000_000
_SLOWEST, _FARTHEST = (1 << 24) - 1, (1 << 28) - 1


def head(tracks: int, ticks: int) -> bytes:
    """The beginning of a file of format 1 with so many tracks and ticks a beat."""
    return b"MThd" + (6).to_bytes(4) + (1).to_bytes(2) + tracks.to_bytes(2) + ticks.to_bytes(2)


def microseconds(bpm: float) -> int:
    """A beat's length at a tempo, as a file holds it."""
    return min(_SLOWEST, max(1, round(TEMPO_UNIT / bpm)))


def tempo(bpm: float) -> bytes:
    """A change of tempo."""
    return b"\xff\x51\x03" + microseconds(bpm).to_bytes(3)


def variable(number: int) -> bytes:
    """A number in as few bytes as it takes, seven bits in each."""
    found = [number & 0x7F]
    while number := number >> 7:
        found.append(0x80 | number & 0x7F)
    return bytes(reversed(found))


def track(events: list[tuple[int, int, bytes]], end: int) -> bytes:
    """Events of (tick, order on it, bytes) as a track that ends at a tick."""
    data, before = bytearray(), 0
    for at, _, event in [*sorted(events), (end, 0, b"\xff\x2f\x00")]:
        while at - before > _FARTHEST:
            # A number has four bytes at most: a text that says nothing stands between.
            data += variable(_FARTHEST) + text(1, "")
            before += _FARTHEST
        data += variable(max(0, at - before)) + event
        before = max(at, before)
    return b"MTrk" + len(data).to_bytes(4) + bytes(data)


def text(kind: int, said: str) -> bytes:
    """A text of a kind: 3 is a track's name, 6 a marker, 7 what is heard."""
    data = said.encode()[:1000].decode(errors="ignore").encode()
    return bytes((0xFF, kind)) + variable(len(data)) + data
