"""``cicada render``, and the demo where there is no display."""

import argparse
from collections.abc import Collection
from pathlib import Path

from msgspec.structs import replace

from cicada.cli.output import say, warn
from cicada.core.model import Layer, Project, Run
from cicada.core.placements import heard_on
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.deliver.in_use import refuse_in_use
from cicada.deliver.mixdown import mixdown
from cicada.deliver.unheard import unheard_sounds
from cicada.disk.paths import real_file
from cicada.errors import BadProject, BadSound, CannotWrite, plain
from cicada.jobs.files import keep_cache_to_its_limit
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.allowed import Allowed, permits
from cicada.store.projectfile import load, load_run
from cicada.store.sounds_folder import sound_files
from cicada.store.validate import validate_run

# A mix longer than this is meant seldom, and takes hours and gigabytes.
LONG = 24 * 3600


def render(options: argparse.Namespace) -> int:
    """Mix a project to a file."""
    run = load_run(options.run) if options.run else Run()
    if options.limit is not None:
        run = replace(run, limit=options.limit)
    mix(
        options.file,
        options.output,
        run,
        subtype=options.subtype,
        only_layer=options.only_layer,
        mentioned=[options.run] if options.run else [],
        silence_missing=options.missing == "silent",
        however_long=options.yes,
        allow_outside=options.allow_outside,
    )
    return 0


def mix(
    named: Path,
    output: Path,
    run: Run,
    *,
    subtype: str | None = None,
    only_layer: str | None = None,
    mentioned: Collection[Path] = (),
    silence_missing: bool = False,
    however_long: bool = False,
    allow_outside: bool = False,
) -> None:
    """Mix the project named to ``output``, which is none of the files ``mentioned``."""
    file = real_file(named, BadProject)
    project = load(file)
    layers = list(heard_on(project).values())
    silent = {layer.id for layer in _left_out(layers, only_layer, named)}
    refuse_in_use(output, project, file, mentioned)
    try:
        validate_run(project, run, "run")
        planned = plan(project, run)
    except BadProject as error:
        raise error.at(str(named)) from None
    _not_too_long(planned, however_long=however_long)
    sources = own_sources(project, file, allow_outside=allow_outside)
    unheard = unheard_sounds(planned, project, sources, silent)
    if unheard and not silence_missing:
        raise BadSound(
            "; ".join(f"{project.sound(sound).label}: {why}" for sound, why in unheard.items()),
            file=str(named),
            remedy="put it right, or render with --missing silent",
        )
    done = mixdown(planned, project, sources, output, subtype=subtype, silent=silent)
    keep_cache_to_its_limit(user_cache(), project)
    seconds = done.length / done.rate
    path, peak = plain(str(done.path)), done.levels.peak_db
    say(f"{path}: {seconds:.3f} s, {done.subtype}, peak {peak:.1f} dB")
    if done.kind == "RF64" and output.suffix.lower() == ".wav":
        say("It is over 4 GB, so it is written as RF64, a WAV for long files.")
    for kind, chosen, rule in (
        ("muted", [x for x in layers if x.mute], "left out"),
        ("soloed", [x for x in layers if x.solo], "a mixdown takes no notice"),
    ):
        if chosen:
            say(f"{kind}, {rule}: " + ", ".join(x.label for x in chosen))
    for sound, why in unheard.items():
        warn(f"silent: {project.sound(sound).label}: {why}")
    if done.warning:
        warn(done.warning)


def _left_out(layers: list[Layer], only: str | None, named: Path) -> list[Layer]:
    if only is not None and only not in [layer.id for layer in layers]:
        raise BadProject(
            f"there is no layer {only!r}",
            file=str(named),
            remedy="name one of " + ", ".join(layer.id for layer in layers),
        )
    return [layer for layer in layers if layer.mute or (only and layer.id != only)]


def _not_too_long(planned: Plan, *, however_long: bool) -> None:
    hours = planned.length / planned.rate / 3600
    if planned.length > LONG * planned.rate and not however_long:
        raise CannotWrite(
            f"the mix would be {hours:.0f} hours long",
            remedy="set --limit SECONDS, or say --yes to render all of it",
        )


def own_sources(project: Project, file: Path, *, allow_outside: bool = False) -> SoundSources:
    """The sounds of a project that it may read; what is outside is refused."""
    files, folders = sound_files(project, file), Allowed().folders
    sources = SoundSources(project, files, user_cache())
    for sound, path in files.items():
        if not allow_outside and not permits(folders, file, path):
            sources.refused[sound] = BadSound(
                "is outside the project's folder",
                file=str(path),
                remedy="if you trust the project, render with --allow-outside, or save it once",
            )
    return sources


def demo_without_display(project_file: Path) -> int:
    """Render the demo to a sound file and a picture, and say where."""
    from cicada.window.app import picture_of

    sound, picture = project_file.with_name("harbour.wav"), project_file.with_name("harbour.png")
    mix(project_file, sound, Run())
    picture_of(project_file, picture)
    say(f"There is no display here, so the demo was rendered instead:\n{sound}\n{picture}")
    return 0
