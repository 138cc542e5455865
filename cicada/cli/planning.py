"""``cicada plan``: printed as it is worked out, however long the run is."""

import argparse
import json
from collections.abc import Iterable, Sequence

from cicada.cli.output import give, refuse_too_large
from cicada.core.model import Clip, Project, Run, Scene
from cicada.errors import BadProject

# About how many bytes a picture and a voice take.
PICTURE, VOICE = 46, 240


def print_plans(options: argparse.Namespace) -> int:
    """Print what will sound and be shown, of each file."""
    from cicada.store.projectfile import load_case, load_run
    from cicada.store.validate import validate_run

    run = load_run(options.run) if options.run else None
    # All are looked at before the first is printed, so that bad input prints nothing.
    cases = []
    for file in options.files:
        project, own_run = load_case(file)
        try:
            validate_run(project, run or own_run, "run")
        except BadProject as error:
            raise error.at(str(options.run if run else file)) from None
        cases.append((project, run or own_run))
    refuse_too_large(sum(_size(project, run) for project, run in cases))
    for project, run in cases:
        _print(project, run, between="\n" if len(cases) == 1 else " ")
    return 0


def frames_at_most(project: Project, run: Run) -> int:
    """How many frames a run goes through, at most."""
    frames = run.passes * sum(scene.length for scene in _scenes(project, run))
    if run.limit is not None or not run.passes:
        limit = 3600.0 if run.limit is None else run.limit
        most = int(limit * project.fps[0] / project.fps[1]) + 1
        frames = min(frames, most) if run.passes else most
    return frames


def _scenes(project: Project, run: Run) -> Sequence[Scene]:
    scenes = [scene for scene in project.scenes if not run.only_scene or scene.id == run.scene]
    return scenes or project.scenes[:1]


def _size(project: Project, run: Run) -> int:
    """About how many bytes a plan takes, at most."""
    pictures = clips = 0
    for scene in _scenes(project, run):
        pictures += scene.length
        clips += sum(isinstance(k, Clip) for layer in scene.layers for k in layer.keyframes)
    frames = frames_at_most(project, run)
    return PICTURE * frames + VOICE * clips * frames // max(1, pictures)


def _print(project: Project, run: Run, between: str) -> None:
    """Print one plan; its end and its length stand last, for they are known last."""
    from cicada.cli.waiting_lines import WaitingLines
    from cicada.core.plan import event_to_builtins, glide_to_builtins, voice_to_builtins
    from cicada.core.streaming import portions

    def part(text: str) -> None:
        give(text, end="", flush=False)

    part(f'{{"rate": {project.rate}, "fps": {json.dumps(project.fps)},{between}"picture": [')
    names = {scene.id: json.dumps(scene.id) for scene in project.scenes}
    separator = ""
    with WaitingLines() as voices, WaitingLines() as events:
        number = 0
        for portion in portions(project, run):
            if portion.anew:
                voices.clear()
                events.clear()
            lines = []
            for at, scene, frame in portion.pictures:
                lines.append(f'{{"at": {at}, "scene": {names[scene]}, "frame": {frame}}}')
                if len(lines) == 10_000:
                    part(separator + f",{between}".join(lines))
                    separator, lines = f",{between}", []
            if lines:
                part(separator + f",{between}".join(lines))
                separator = f",{between}"
            for key, voice in portion.voices:
                voices.add(key, json.dumps(voice_to_builtins(voice)))
            for event in portion.events:
                events.add((number,), json.dumps(event_to_builtins(event)))
                number += 1
            over = portion.over
            glides = [json.dumps(glide_to_builtins(glide)) for glide in portion.glides]
        _part_list("voices", voices.in_order(), between)
        _part_list("events", events.in_order(), between)
        if project.values:
            _part_list("glides", glides, between)
    assert over is not None
    give(f'],{between}"end": {over[0]}, "length": {over[1]}}}')


def _part_list(name: str, lines: Iterable[str], between: str) -> None:
    give(f'],{between}"{name}": [', end="", flush=False)
    for number, line in enumerate(lines):
        give(f",{between}{line}" if number else line, end="", flush=False)
