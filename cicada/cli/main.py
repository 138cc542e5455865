"""``cicada``: the window, and the commands that scripts call (format.md)."""

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

import msgspec
from typing_extensions import override

from cicada import __version__
from cicada.core.model import Project, Run
from cicada.errors import BadProject, CannotWrite, CicadaError


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the process's exit code."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given and given[0] not in COMMANDS and not given[0].startswith("-"):
        given.insert(0, "open")
    options = _parser().parse_args(given or ["open"])
    try:
        code = COMMANDS[options.command](options)
        sys.stdout.flush()
    except CicadaError as error:
        print(str(error).replace("\n", " "), file=sys.stderr)
        return 2
    except BrokenPipeError:
        # Whoever read the output has had enough; say nothing more into the closed pipe.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        return 130
    return code


class _Parser(argparse.ArgumentParser):
    @override
    def error(self, message: str) -> NoReturn:
        print(f"cicada: {message}; see 'cicada --help'", file=sys.stderr)
        sys.exit(2)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="cicada", description="Place sounds against moving pictures.")
    parser.add_argument("--version", action="version", version=f"cicada {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)

    opening = commands.add_parser("open", help="open the window (the default)")
    opening.add_argument("file", nargs="?", type=Path)

    demo = commands.add_parser("demo", help="open the demo project, made if need be")
    demo.add_argument("--make", type=Path, metavar="DIR", help="only make it, in DIR")

    planning = commands.add_parser("plan", help="print what will sound and be shown, as JSON")
    planning.add_argument("files", nargs="+", type=Path, metavar="FILE")
    planning.add_argument("--run", type=Path, help="a run file")

    render = commands.add_parser("render", help="mix a project to a sound file")
    render.add_argument("file", type=Path)
    render.add_argument("-o", "--output", type=Path, required=True)
    render.add_argument("--run", type=Path, help="a run file")
    render.add_argument("--subtype", type=str.upper, help="FLOAT, PCM_24, PCM_16 ...")
    render.add_argument("--only-layer", metavar="ID", help="leave all other layers out")

    checking = commands.add_parser("check", help="list what looks wrong")
    checking.add_argument("file", type=Path)
    checking.add_argument("--json", action="store_true")

    info = commands.add_parser("info", help="print what sound files are")
    info.add_argument("sounds", nargs="+", type=Path, metavar="SOUND")

    new = commands.add_parser("new", help="make an empty project")
    new.add_argument("file", type=Path)
    new.add_argument("--fps", default="24", help="frames a second: 24, 30000/1001 ...")
    new.add_argument("--rate", type=int, default=48000, help="samples a second")
    new.add_argument("--length", type=int, default=240, help="frames of the first scene")

    importing = commands.add_parser("import", help="put sounds and folders of them on the shelf")
    importing.add_argument("file", type=Path)
    importing.add_argument("sounds", nargs="+", type=Path, metavar="SOUND")
    return parser


def _open(options: argparse.Namespace) -> int:
    return _window(options.file)


def _window(file: Path | None) -> int:
    from cicada.window.state.collecting import hold_off

    hold_off()
    from cicada.window.app import run_window

    return run_window(file)


def _demo(options: argparse.Namespace) -> int:
    from cicada.demo.harbour import demo_folder, make_demo

    if options.make is not None:
        print(make_demo(options.make))
        return 0
    project_file = make_demo(demo_folder())
    if not _has_display():
        return _demo_without_display(project_file)
    return _window(project_file)


def _has_display() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _demo_without_display(project_file: Path) -> int:
    from cicada.window.app import picture_of

    sound, picture = project_file.with_name("harbour.wav"), project_file.with_name("harbour.png")
    _mix(project_file, sound, Run(), None, None)
    picture_of(project_file, picture)
    print(f"There is no display here, so the demo was rendered instead.\n{sound}\n{picture}")
    return 0


def _plan(options: argparse.Namespace) -> int:
    from cicada.core.plan import plan_to_builtins
    from cicada.core.planner import plan
    from cicada.store.projectfile import load_case, load_run

    run = load_run(options.run) if options.run else None
    # All are planned before the first is printed, so that bad input prints nothing.
    shown = []
    for file in options.files:
        project, own_run = load_case(file)
        try:
            shown.append(plan_to_builtins(plan(project, run or own_run)))
        except BadProject as error:
            raise error.at(str(options.run if run else file)) from None
    if len(shown) == 1:
        print(json.dumps(shown[0], indent=1))
    else:
        for one in shown:
            print(json.dumps(one))
    return 0


def _render(options: argparse.Namespace) -> int:
    from cicada.store.projectfile import load_run

    run = load_run(options.run) if options.run else Run()
    return _mix(options.file, options.output, run, options.subtype, options.only_layer)


def _mix(file: Path, output: Path, run: Run, subtype: str | None, only_layer: str | None) -> int:
    from cicada.core.planner import plan
    from cicada.deliver.mixdown import mixdown
    from cicada.media.cache import user_cache
    from cicada.media.sources import SoundSources
    from cicada.store.projectfile import load
    from cicada.store.sounds_folder import sound_files

    project = load(file)
    layers = [layer for _, layer in project.all_layers()]
    if only_layer is not None and only_layer not in [layer.id for layer in layers]:
        raise BadProject(
            f"there is no layer {only_layer!r}",
            file=str(file),
            remedy="name one of " + ", ".join(layer.id for layer in layers),
        )
    if output.resolve() == file.resolve() or output.resolve() in {
        path.resolve() for path in sound_files(project, file).values()
    }:
        raise CannotWrite("is part of the project", file=str(output), remedy="choose another name")
    silent = {layer.id for layer in layers if layer.mute or (only_layer and layer.id != only_layer)}
    sources = SoundSources(project, sound_files(project, file), user_cache())
    try:
        planned = plan(project, run)
    except BadProject as error:
        raise error.at(str(file)) from None
    done = mixdown(planned, project, sources, output, subtype=subtype, silent=silent)
    seconds = done.length / done.rate
    print(f"{done.path}: {seconds:.3f} s, {done.subtype}, peak {done.levels.peak_db:.1f} dB")
    for kind, chosen in (
        ("muted", [x for x in layers if x.mute]),
        ("soloed", [x for x in layers if x.solo]),
    ):
        if chosen:
            rule = "left out" if kind == "muted" else "a mixdown takes no notice"
            print(f"{kind}, {rule}: " + ", ".join(x.label for x in chosen))
    for sound, refusal in sources.refused.items():
        print(f"silent: {project.sound(sound).label}: {refusal}", file=sys.stderr)
    for sound in _missing(project, file):
        print(f"silent: {project.sound(sound).label} is missing", file=sys.stderr)
    if done.warning:
        print(done.warning, file=sys.stderr)
    return 0


def _missing(project: Project, file: Path) -> list[str]:
    from cicada.store.sounds_folder import sound_files

    files = sound_files(project, file)
    return [s.id for s in project.sounds if s.id not in files or not files[s.id].exists()]


def _check(options: argparse.Namespace) -> int:
    from cicada.core.checks import check, overs
    from cicada.core.mix import Mixer
    from cicada.core.planner import plan
    from cicada.deliver.levels import measure
    from cicada.media.cache import user_cache
    from cicada.media.sources import SoundSources
    from cicada.store.projectfile import load
    from cicada.store.sounds_folder import sound_files

    project = load(options.file)
    findings = check(project, _missing(project, options.file))
    sources = SoundSources(project, sound_files(project, options.file), user_cache())
    silent = {layer.id for _, layer in project.all_layers() if layer.mute}
    levels = measure(Mixer(plan(project, Run()), project, sources, silent))
    if levels.first_over is not None:
        findings.append(overs(levels.over, levels.first_over, levels.peak_db, project.rate))
    if options.json:
        print(json.dumps(msgspec.to_builtins(findings), indent=1))
    else:
        for finding in findings:
            print(f"{finding.severity}: {finding.sentence}")
        if not findings:
            print("nothing looks wrong")
    return int(any(finding.severity == "error" for finding in findings))


def _info(options: argparse.Namespace) -> int:
    from cicada.media.decode import describe

    for path in options.sounds:
        info = describe(path)
        notes = "".join(f"; {note}" for note in info.notes)
        seconds = info.frames / info.rate
        channels = {1: "mono", 2: "stereo"}.get(info.channels, f"{info.channels} channels")
        print(f"{path}: {info.encoding}, {info.rate} Hz, {channels}, {seconds:.3f} s{notes}")
    return 0


def _new(options: argparse.Namespace) -> int:
    from cicada.core.model import empty_project
    from cicada.core.timebase import parse_fps
    from cicada.store.projectfile import dumps, loads

    file: Path = options.file
    if file.exists():
        raise CannotWrite("is there already", file=str(file), remedy="choose another name")
    try:
        fps = parse_fps(options.fps)
    except ValueError as error:
        raise BadProject(str(error), place="--fps") from None
    project = empty_project(file.stem, fps, options.rate, options.length)
    _save(loads(dumps(project)), file)
    print(file)
    return 0


def _import(options: argparse.Namespace) -> int:
    from cicada.core.shelf_edits import AddSounds
    from cicada.jobs.files import find_sounds
    from cicada.media.cache import user_cache
    from cicada.media.ingest import ingest
    from cicada.store.importing import already_here, new_sound
    from cicada.store.projectfile import load

    project = load(options.file)
    cache = user_cache()
    # All are decoded before the first is kept, so that one bad file changes nothing.
    found = find_sounds(options.sounds)
    taken = [(path, ingest(path, project.rate, cache)) for path in found.sounds]
    for path, ingested in taken:
        here = already_here(ingested, project.sounds)
        if here is not None:
            print(f"already here: {path.name} is {here.sound.id}, {here.sound.name}")
            continue
        sound = new_sound(path, ingested, project, options.file)
        project = AddSounds(sounds=(sound,)).apply(project)
        print(f"{sound.id}: {sound.name}, {sound.encoding}, {sound.frames / sound.rate:.3f} s")
    _save(project, options.file)
    return 0


def _save(project: Project, file: Path) -> None:
    """Save a project, and keep what was there and what is there now among its versions."""
    from cicada.store.folders import data_folder
    from cicada.store.projectfile import save
    from cicada.store.versions import Versions

    versions = Versions(data_folder() / "versions")
    versions.keep_what_is_there(file)
    save(project, file)
    versions.keep_what_is_there(file)


COMMANDS = {
    "open": _open,
    "demo": _demo,
    "plan": _plan,
    "render": _render,
    "check": _check,
    "info": _info,
    "new": _new,
    "import": _import,
}
