"""Making sounds here, and keeping them to what they follow: a scene's tempo, other sounds."""

from typing import Any

import msgspec
from msgspec.structs import replace
from typing_extensions import override

from cicada.core.beats import beats, tempo_at
from cicada.core.editing import Edit, with_sounds
from cicada.core.made import LONGEST, Making, made_channels, made_frames, made_seconds
from cicada.core.model import Project, Scene, Sound
from cicada.core.patterns import MOST_TICKS, TICKS, Pattern, PatternPart, TempoStep
from cicada.errors import BadEdit

ENCODING = "made here"


def as_read(making: Making) -> Making:
    """The making as it would be read from a file; raises ``BadEdit`` if it would not be."""
    kind: Any = type(making)
    try:
        checked: Making = msgspec.convert(msgspec.to_builtins(making), kind)
    except msgspec.ValidationError as error:
        text = str(error).replace("`", "'").split(" - at ")[0]
        raise BadEdit(text[0].lower() + text[1:], remedy="choose another value") from None
    seconds = made_seconds(checked)
    if seconds > LONGEST:
        raise BadEdit(
            f"it would be {seconds / 3600:,.0f} hours long", remedy="make it a day at most"
        )
    return checked


def made_sound(sound: Sound, making: Making, project: Project) -> Sound:
    """A sound as it is when it is made so: nothing of it is in a file yet; raises ``BadEdit``."""
    making = as_read(making)
    return replace(
        sound,
        making=making,
        file="",
        kept="inside",
        hash="",
        pcm_hash="",
        frames=made_frames(making, project.rate),
        rate=project.rate,
        channels=made_channels(making),
        encoding=ENCODING,
        hits=(),
    )


class ChangeMaking(Edit, frozen=True, kw_only=True, tag="change-making"):
    """Let a sound that is made here be made otherwise; all its uses change with it."""

    sound: str
    making: Making
    named: str = ""

    @property
    @override
    def title(self) -> str:
        return self.named or "change how the sound is made"

    @override
    def apply(self, project: Project) -> Project:
        def change(sound: Sound) -> Sound:
            if sound.making is None:
                raise BadEdit(f"{sound.label} was not made here", remedy="choose one that was")
            made = as_read(self.making)
            return sound if made == sound.making else made_sound(sound, made, project)

        return with_sounds(project, (self.sound,), change)


# -- following ----------------------------------------------------------------------------------


def followed(project: Project) -> Project:
    """The project with every pattern at the tempo of its scene, and playing sounds as they are.

    What a pattern follows and is no longer there is followed no more.
    """
    if all(sound.making is None for sound in project.sounds):
        return project
    changed = tuple(_kept_up(sound, project) for sound in project.sounds)
    if all(new is old for new, old in zip(changed, project.sounds, strict=True)):
        return project
    return replace(project, sounds=changed)


def _kept_up(sound: Sound, project: Project) -> Sound:
    making = sound.making
    if not isinstance(making, Pattern):
        return sound
    pattern = _at_tempo(making, project) if making.follows is not None else making
    parts = tuple(_part_kept_up(part, project) for part in pattern.parts)
    if parts != pattern.parts:
        pattern = replace(pattern, parts=parts)
    if pattern == making:
        return sound
    try:
        return made_sound(sound, pattern, project)
    except BadEdit:
        # A tempo so slow that it would last for days is not followed.
        return sound


def _part_kept_up(part: PatternPart, project: Project) -> PatternPart:
    if part.sound is None:
        return part
    played = next((s for s in project.sounds if s.id == part.sound.sound), None)
    if played is None or isinstance(played.making, Pattern):
        return replace(part, sound=None)
    if part.sound.content == played.content:
        return part
    return replace(part, sound=replace(part.sound, content=played.content))


def _at_tempo(pattern: Pattern, project: Project) -> Pattern:
    scene = next((each for each in project.scenes if each.id == pattern.follows), None)
    if scene is None:
        return replace(pattern, follows=None)
    steps = tempo_steps(scene, project, pattern.round_ticks)
    if not steps:
        return pattern
    (_, bpm), *later = steps
    return replace(pattern, bpm=bpm, steps=tuple(TempoStep(at, bpm) for at, bpm in later))


def tempo_steps(scene: Scene, project: Project, ticks: int) -> list[tuple[int, float]]:
    """The tempos of a scene's beats from its first on, each from the tick of its beat on.

    Where one tempo gives way to another in the midst of a beat, that beat has a tempo of its own.
    After the scene's end the last goes on.
    """
    if not scene.tempo:
        return []
    base = project.timebase
    number = min(-(-ticks // TICKS), MOST_TICKS // TICKS)
    found: list[float] = []
    for _, at in beats(scene, base, 0.0, float(base.start(scene.length))):
        found.append(at)
        if len(found) > number:
            break
    last = tempo_at(scene, scene.length) or 120.0
    steps: list[tuple[int, float]] = []
    for index, at in enumerate(found):
        gap = found[index + 1] - at if index + 1 < len(found) else 60.0 * base.rate / last
        # Whole beats of one tempo differ by what numbers are rounded to.
        bpm = min(1e6, max(0.001, round(60.0 * base.rate / gap, 9)))
        if not steps or steps[-1][1] != bpm:
            steps.append((index * TICKS, bpm))
    return steps
