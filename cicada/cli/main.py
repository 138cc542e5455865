"""``cicada``: the window, and the commands that scripts call (format.md)."""

import argparse
import os
import sys
from collections.abc import Callable, Sequence
from importlib import import_module
from math import isfinite
from pathlib import Path
from typing import NoReturn, cast

from typing_extensions import override

from cicada import __version__
from cicada.cli.output import Ended, close, prepare, warn
from cicada.errors import CicadaError, plain

Command = Callable[[argparse.Namespace], int]


def run() -> int:
    """Run the command of this process; its exit code."""
    prepare()
    try:
        return main(sys.argv[1:])
    finally:
        close()


def main(arguments: Sequence[str]) -> int:
    """Run one command; the process's exit code."""
    given = list(arguments)
    if given and given[0] not in COMMANDS and not given[0].startswith("-"):
        given.insert(0, "open")
    try:
        options = _parser().parse_args(given or ["open"])
        return COMMANDS[options.command](options)
    except CicadaError as error:
        warn(str(error).replace("\n", " "))
        return 2
    except BrokenPipeError:
        # Whoever read the output has had enough.
        return 0
    except RecursionError:
        warn("what was named is nested too deeply to be read; name something nearer to it")
        return 2
    except MemoryError:
        warn("there is not enough memory for this; close other programs, or do it in parts")
        return 2
    except Ended as ended:
        return ended.code
    except KeyboardInterrupt:
        return 130
    except RuntimeError as error:
        # Python wraps whatever is raised while a class is being made.
        if isinstance(error.__cause__, Ended):
            return error.__cause__.code
        raise


class _Parser(argparse.ArgumentParser):
    @override
    def error(self, message: str) -> NoReturn:
        warn(f"cicada: {plain(message)}; see 'cicada --help'")
        sys.exit(2)


def _seconds(text: str) -> float:
    seconds = float(text)
    if not (isfinite(seconds) and 0 <= seconds <= 1e9):
        raise ValueError
    return seconds


def _whole(text: str) -> int:
    if not text.lstrip("-").isascii() or len(text) > 18:
        raise ValueError
    return int(text)


# What argparse calls them when it says that something is none.
_seconds.__name__, _whole.__name__ = "number of seconds", "whole number"


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

    drift = commands.add_parser("drift", help="print by how much sounds run ahead of the picture")
    drift.add_argument("file", type=Path)
    drift.add_argument("--run", type=Path, help="a run file")
    drift.add_argument(
        "--draw-time", type=_seconds, metavar="SECONDS",
        help="as if drawing one picture took so long, whatever the run says",
    )  # fmt: skip
    form = drift.add_mutually_exclusive_group()
    form.add_argument("--csv", action="store_true")
    form.add_argument("--json", action="store_true")

    render = commands.add_parser("render", help="mix a project to a sound file")
    render.add_argument("file", type=Path)
    render.add_argument("-o", "--output", type=Path, required=True)
    render.add_argument("--run", type=Path, help="a run file")
    render.add_argument("--subtype", type=str.upper, help="FLOAT, PCM_24, PCM_16 ...")
    render.add_argument("--only-layer", metavar="ID", help="leave all other layers out")
    render.add_argument(
        "--limit", type=_seconds, metavar="SECONDS", help="end there, whatever the run says"
    )
    render.add_argument(
        "--missing", choices=["silent"], help="let sounds that cannot be had be silent"
    )
    render.add_argument(
        "--allow-outside", action="store_true", help="let it read outside its own folder"
    )
    render.add_argument("--yes", action="store_true", help="render more than 24 hours")

    delivering = commands.add_parser("deliver", help="deliver recipes of a project")
    delivering.add_argument("file", type=Path)
    delivering.add_argument(
        "--recipe", action="append", required=True, metavar="NAME", help="one of the project's"
    )
    delivering.add_argument(
        "--to", type=Path, required=True, metavar="FOLDER", help="a folder that is there"
    )
    delivering.add_argument("--json", action="store_true", help="print what was delivered as JSON")
    delivering.add_argument(
        "--replace", action="store_true", help="also replace files that it did not make"
    )
    delivering.add_argument(
        "--missing", choices=["silent"], help="let sounds that cannot be had be silent"
    )
    delivering.add_argument(
        "--allow-outside", action="store_true", help="let it read outside its own folder"
    )

    serving = commands.add_parser("serve", help="serve a player bundle to browsers here")
    serving.add_argument("folder", type=Path)
    serving.add_argument("--port", type=_whole, default=0, help="the port; any that is free")

    packing = commands.add_parser("pack", help="pack a project with everything it uses")
    packing.add_argument("file", type=Path)
    packing.add_argument("-o", "--output", type=Path, required=True, metavar="ARCHIVE")
    packing.add_argument(
        "--allow-outside", action="store_true", help="let it read outside its own folder"
    )

    unpacking = commands.add_parser("unpack", help="open an archive into a new folder")
    unpacking.add_argument("archive", type=Path)
    unpacking.add_argument(
        "--to", type=Path, required=True, metavar="FOLDER", help="a folder that is there"
    )

    checking = commands.add_parser("check", help="list what looks wrong")
    checking.add_argument("file", type=Path)
    checking.add_argument("--json", action="store_true")

    info = commands.add_parser("info", help="print what sound files are")
    info.add_argument("sounds", nargs="+", type=Path, metavar="SOUND")

    new = commands.add_parser("new", help="make an empty project")
    new.add_argument("file", type=Path)
    new.add_argument("--fps", default="24", help="frames a second: 24, 30000/1001 ...")
    new.add_argument("--rate", type=_whole, default=48000, help="samples a second")
    new.add_argument("--length", type=_whole, default=240, help="frames of the first scene")

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
    from cicada.cli.output import say
    from cicada.demo.harbour import demo_folder, make_demo, said_of

    if options.make is not None:
        say(str(make_demo(options.make)))
        return 0
    project_file = make_demo(demo_folder())
    if news := said_of(project_file):
        say(news)
    if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
        return _window(project_file)
    from cicada.cli.rendering import demo_without_display

    return demo_without_display(project_file)


def _in(module: str, name: str) -> Command:
    """A command of a module that is loaded when it is called."""

    def command(options: argparse.Namespace) -> int:
        return cast("Command", getattr(import_module(f"cicada.cli.{module}"), name))(options)

    return command


COMMANDS: dict[str, Command] = {
    "open": _open,
    "demo": _demo,
    "plan": _in("planning", "print_plans"),
    "drift": _in("drifting", "print_drift"),
    "render": _in("rendering", "render"),
    "deliver": _in("delivering", "deliver_recipes"),
    "serve": _in("serving", "serve_folder"),
    "pack": _in("handing_over", "pack_project"),
    "unpack": _in("handing_over", "unpack_archive"),
    "check": _in("checking", "print_findings"),
    "info": _in("shelving", "print_info"),
    "new": _in("shelving", "make_project"),
    "import": _in("shelving", "import_sounds"),
}
