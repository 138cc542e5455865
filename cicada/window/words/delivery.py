"""How deliveries are spoken of: what a recipe is, what it comes to, and what became of it."""

from cicada.core.model import Project
from cicada.core.recipes import (
    AnyRecipe,
    BundleRecipe,
    DataForm,
    DataRecipe,
    Encoding,
    Loud,
    MixRecipe,
    Scope,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.deliver.encoding import name_of
from cicada.deliver.foresight import Foreseen
from cicada.deliver.promises import File
from cicada.deliver.weight import Fetched, Weight
from cicada.disk.why import size_text
from cicada.window.words.numbers import fixed, read, shown
from cicada.window.words.quantities import count

TITLES: dict[type[AnyRecipe], str] = {
    MixRecipe: "Mix",
    StemsRecipe: "Stems",
    TrimmedRecipe: "Trimmed sounds",
    BundleRecipe: "Player bundle",
    VideoRecipe: "Video",
    SheetRecipe: "Frame sheet",
    DataRecipe: "Data",
}
WHAT: dict[type[AnyRecipe], str] = {
    MixRecipe: "The mix in one file.",
    StemsRecipe: "The mix in parts that sum to it, a file each, all by one gain.",
    TrimmedRecipe: "Each sound in use as its clips shape it, for player code to play.",
    BundleRecipe: "The film as a folder that plays in any web page, with all that answers.",
    VideoRecipe: "The picture with its sound; without a picture, its waveform.",
    SheetRecipe: "The sheet on paper, for people who draw, with room for notes.",
    DataRecipe: "What will sound and be shown, for player code and other programs.",
}
FORMS: dict[DataForm, tuple[str, str]] = {
    "json": ("player data", "JSON: what every keyframe does, and the plan it comes to"),
    "csv": ("table", "CSV: a row for each sounding"),
    "captions": ("captions", "WebVTT: what sounds, and the marks"),
    "timeline": ("timeline", "OpenTimelineIO: every stretch that sounds, for editing programs"),
    "midi": ("markers", "A MIDI file with tempo, and a marker where each sound starts"),
    "levels": ("levels", "CSV and JSON: how loud each layer is on each frame"),
}
TAILS = [
    ("ring", "rings out", "The file is as long as the last sound"),
    ("cut", "is cut", "The file ends with the last picture"),
    ("fold", "is folded over the beginning", "So that the file loops without a seam"),
    (
        "steady",
        "is the steady pass",
        "From which on all passes are alike: it loops as the film does",
    ),
]


def parse_decibels(text: str) -> float:
    """Decibels; raises ``ValueError`` with a sentence."""
    plain = text.strip().lower()
    for unit in ("dbtp", "dbfs", "db", "lufs", "lu"):
        plain = plain.removesuffix(unit).strip()
    try:
        value = read(plain)
    except ValueError:
        raise ValueError(f"“{text.strip()}” is no level: write -16 or -1.5") from None
    if not -120 <= value <= 20:
        raise ValueError("a level goes from -120 to 20 here")
    return round(value, 3)


def parse_percent(text: str) -> float:
    """A share in per cent; raises ``ValueError`` with a sentence."""
    try:
        value = read(text.strip().removesuffix("%")) / 100
    except ValueError:
        raise ValueError(f"“{text.strip()}” is no quality: write 60 %") from None
    if not 0 <= value <= 1:
        raise ValueError("a quality goes from 0 % to 100 %")
    return round(value, 4)


def encoding_text(encoding: Encoding) -> str:
    """How sound is written, in short."""
    parts = [name_of(encoding)]
    if encoding.lossy:
        parts.append(f"{shown(100 * encoding.quality, 3)}\N{NO-BREAK SPACE}%")
    else:
        parts.append("32 bit float" if encoding.bits == 32 else f"{encoding.bits} bit")
    if encoding.rate is not None:
        parts.append(f"{encoding.rate:,} a second")
    if encoding.mono:
        parts.append("mono")
    return ", ".join(parts)


def loud_text(loud: Loud) -> str:
    """How loud it is to be, in short; empty: as it is."""
    aim = {"peak": "dB peak", "loudness": "LUFS"}.get(loud.aim)
    parts = [f"{shown(loud.target)} {aim}"] if aim else []
    if loud.ceiling is not None:
        parts.append(f"below {shown(loud.ceiling)} dB")
    return ", ".join(parts)


def scope_text(project: Project, scope: Scope) -> str:
    """What of the film it is, in short."""
    if scope.run is not None:
        return f"the kept run {scope.run}"
    if scope.scene is None:
        return "the whole film"
    names = {scene.id: scene.label for scene in project.scenes}
    named = names.get(scope.scene, "a scene that is gone")
    if scope.first or scope.last is not None:
        last = "its end" if scope.last is None else str(project.shown(scope.last))
        return f"{named}, {project.shown(scope.first)} to {last}"
    return named


def recipe_text(project: Project, recipe: AnyRecipe) -> str:
    """What a recipe is, in one line."""
    parts = [TITLES[type(recipe)], scope_text(project, recipe.scope)]
    if isinstance(recipe, DataRecipe):
        parts.append(", ".join(FORMS[form][0] for form in recipe.forms))
    elif isinstance(recipe, SheetRecipe):
        parts.append("PDF")
    elif isinstance(recipe, VideoRecipe):
        parts.append(recipe.kind.upper())
        parts.append("its own size" if recipe.height is None else f"{recipe.height} high")
    else:
        parts.append(encoding_text(recipe.encoding))
    if isinstance(recipe, BundleRecipe) and recipe.endless:
        parts.append("without end")
    if isinstance(recipe, MixRecipe | StemsRecipe | VideoRecipe) and recipe.loud != Loud():
        parts.append(loud_text(recipe.loud))
    return " · ".join(parts)


def foreseen_text(project: Project, found: Foreseen) -> list[str]:
    """What a delivery comes to, in lines."""
    first = [f"{fixed(found.seconds, 2)} s", count(found.files, "file")]
    if found.size is not None:
        first.append(("about " if found.about else "") + size_text(found.size))
    lines = [", ".join(first)]
    if found.mono is not None:
        lines.append(_mono_text(project, found))
    return lines + list(found.said)


def _mono_text(project: Project, found: Foreseen) -> str:
    cost = found.mono
    assert cost is not None
    if cost.over_all < 0.05 and cost.most < 0.5:
        return "Mono costs nothing here: both sides are alike."
    names = {scene.id: scene.label for scene in project.scenes}
    where = f"{names.get(cost.scene, '')} frame {project.shown(cost.frame)}".strip()
    return (
        f"Mono makes it {fixed(cost.over_all, 1)} dB fainter, "
        f"and up to {fixed(cost.most, 1)} dB on {where}."
    )


def file_text(file: File) -> str:
    """What a file has turned out to be."""
    parts = list[str]()
    if file.frames is not None and file.rate:
        parts.append(f"{fixed(file.frames / file.rate, 2)} s")
        peak = file.true_peak
        parts.append("silent" if peak is None else f"peak {fixed(peak, 1)} dB")
        if file.loudness is not None:
            parts.append(f"{fixed(file.loudness, 1)} LUFS")
    else:
        parts.append(file.kind)
    return ", ".join([*parts, size_text(file.size)])


def height_text(height: float) -> str:
    """How high a video is; 0: as its picture is."""
    return f"{height:.0f} high" if height else "its own"


def parse_height(text: str) -> float:
    """How high a video is in pixels, 0 for its own; raises ``ValueError`` with a sentence."""
    plain = text.strip().lower().removesuffix("high").removesuffix("p").strip()
    if plain in ("", "own", "its own"):
        return 0.0
    if not plain.isdigit() or not 16 <= int(plain) <= 4320:
        raise ValueError("a height goes from 16 to 4320 pixels; write 720, or nothing for its own")
    return float(plain)


def line_text(line: int) -> str:
    """A line of so many bits a second."""
    return f"{shown(line / 1_000_000, 3)} Mbit a second"


def weight_text(weight: Weight) -> list[str]:
    """What there is to fetch, and how long it takes until the film can begin, in lines."""
    lines = [f"{count(len(weight.files), 'sound')}, {size_text(weight.total)} in all."]
    if weight.picture:
        lines.append(f"The picture's files have {size_text(weight.picture)}.")
    if weight.wait > 0:
        lines.append(
            f"Before frame 1: {count(weight.before, 'sound')}, {size_text(weight.bytes_before)}, "
            f"{fixed(weight.wait, 1)} s. Then everything is there in time."
        )
    elif weight.files:
        lines.append("Everything is there in time, though nothing is waited for.")
    return lines


def needed_text(project: Project, file: Fetched) -> str:
    """When a file is needed first."""
    names = {scene.id: scene.label for scene in project.scenes}
    where = f"{names.get(file.needed.scene, '')} {project.shown(file.needed.frame)}".strip()
    return f"{where}, {fixed(float(file.needed.seconds), 2)} s"


def left_text(seconds: float) -> str:
    """How long something still takes."""
    if seconds >= 90:
        return f"about {seconds / 60:.0f} minutes left"
    return f"about {max(1, round(seconds)):.0f} s left"
