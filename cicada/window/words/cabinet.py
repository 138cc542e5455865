"""How sounds of the cabinet, and how far it is with them, are spoken of."""

from cicada.cabinet.catalogue import Row
from cicada.cabinet.index import BROKEN
from cicada.cabinet.messages import Progress
from cicada.window.words.loudness import lufs_text
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import count

HINT = "words, < 1 s, mono, −20 LUFS, loops, bright, starred"


def length_text(row: Row) -> str:
    """How long a sound is; empty while nobody knows."""
    seconds = None if row.content is None else row.content.seconds
    if seconds is None:
        return ""
    return f"{fixed(seconds, 2)} s" if seconds < 100 else f"{fixed(seconds / 60, 1)} min"


def detail_text(row: Row, *, away: bool) -> str:
    """What is known of a sound, in a line."""
    content = row.content
    folder = row.file.place.rpartition("/")[0]
    if away:
        return "its drive is away"
    if content is None or not row.measured:
        if content is not None and content.state == BROKEN:
            return f"cannot be read: {content.why}"
        return f"{folder}: not measured yet" if folder else "not measured yet"
    parts = [folder] if folder else []
    number = content.channels or 0
    parts.append({1: "mono", 2: "stereo"}.get(number, f"{number} channels"))
    if content.loudness is not None:
        parts.append(f"{lufs_text(content.loudness)} LUFS")
    if content.loops:
        parts.append("loops")
    if row.own is not None and row.own.tags:
        parts.append(", ".join(row.own.tags.split("\n")))
    return " · ".join(parts)


def progress_text(progress: Progress | None, shown: int) -> str:
    """How many there are and are shown, and what is still to be done."""
    if progress is None:
        return "looking…"
    words = f"{shown:,} of {count(progress.files, 'sound')}"
    if progress.unread:
        words += f", {progress.unread:,} not read yet"
    elif progress.unmeasured:
        words += f", {progress.unmeasured:,} not measured yet"
    return words
