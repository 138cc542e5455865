"""How recording is spoken of: channels, counting in, the room left, where a take will stand."""

from cicada.core.model import Project
from cicada.window.words.quantities import count

# Within so many milliseconds a take lies where only the clocks of the devices are known.
ABOUT = 15
# Bytes of a sample.
_BYTES = 3
# Beats and seconds that can be counted in.
BEATS, SECONDS = (2, 4, 8), (1, 2, 3, 5)


def column_choices(channels: int) -> list[tuple[str, tuple[int, ...]]]:
    """Which of an input's channels can be recorded, each in words, pairs first."""
    if channels == 1:
        return [("its only channel", (0,))]
    if channels == 2:
        return [("both", (0, 1)), ("left", (0,)), ("right", (1,))]
    pairs = [(f"{n + 1} and {n + 2}", (n, n + 1)) for n in range(0, channels - 1, 2)]
    return pairs + [(f"only {n + 1}", (n,)) for n in range(channels)]


def count_in_choices(bpm: float | None) -> list[tuple[str, str]]:
    """How it can be counted in, each as ``count_in`` reads it and in words."""
    found = [("", "no count-in")]
    if bpm is not None:
        found += [(f"{n} beats", f"{count(n, 'beat')} at {bpm:g}") for n in BEATS]
    return found + [(f"{n} s", count(n, "second")) for n in SECONDS]


def count_in(chosen: str, bpm: float | None, rate: int) -> tuple[tuple[int, ...], int]:
    """At which samples it clicks, and how many there are before what is counted in."""
    number, _, unit = chosen.partition(" ")
    if not number or (unit == "beats" and bpm is None):
        return (), 0
    step = 60.0 / bpm if unit == "beats" and bpm is not None else 1.0
    return tuple(round(n * step * rate) for n in range(int(number))), round(
        int(number) * step * rate
    )


def room_text(room: float, rate: int, channels: int) -> str:
    """How much can be recorded on so many bytes."""
    seconds = room / (rate * channels * _BYTES)
    if seconds >= 2 * 3600:
        return f"room for {seconds / 3600:,.0f} hours"
    if seconds >= 120:
        return f"room for {seconds / 60:.0f} minutes"
    return f"room for {seconds:.0f} seconds"


def way_text(seconds: float | None, *, exact: bool, remembered: bool) -> str:
    """How late what is heard comes in, and how well that is known."""
    if seconds is None:
        return "How late it comes in is not known yet"
    late = max(0.0, seconds * 1000)
    if exact:
        return f"Comes in {late:.1f} ms late, known to the sample"
    known = ", as last time" if remembered else ""
    return f"Comes in about {late:.0f} ms late, ± {ABOUT} ms{known}"


def lands_text(project: Project, layer: str, frame: int, *, locked: bool, obstacle: str) -> str:
    """Where a take will stand."""
    how = "locked to the picture" if locked else "free of the picture"
    if obstacle:
        return f"On a layer of its own, frame {project.shown(frame)}, {how}: {obstacle}."
    return f"On {layer}, frame {project.shown(frame)}, {how}."


def clock_text(seconds: float) -> str:
    """A length as it runs on while it is recorded."""
    minutes, rest = divmod(max(0.0, seconds), 60)
    return f"{int(minutes)}:{rest:04.1f}"


def drift_text(seconds: float) -> str:
    """What two clocks drifted apart during a take."""
    way = "ahead of" if seconds > 0 else "behind"
    return (
        f"During the take the input's clock ran {abs(seconds) * 1000:.0f} ms {way} the output's; "
        "nothing was changed of it."
    )


def slip_text(seconds: float, after: float) -> str:
    """What skipped during a take."""
    way = "later" if seconds > 0 else "sooner"
    return (
        f"The input skipped {after:.1f} s into the take: what follows may lie "
        f"{abs(seconds) * 1000:.0f} ms {way} than it should."
    )
