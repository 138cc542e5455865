"""Runs that are kept with a project, taken along as it changes."""

from collections.abc import Collection

from msgspec.structs import replace

from cicada.core.model import KeptRun, Project
from cicada.core.timebase import round_half_up


def that_fit(project: Project) -> Project:
    """The project with its kept runs beginning on frames there are; those of gone scenes go."""
    if not project.runs:
        return project
    lengths = {scene.id: scene.length for scene in project.scenes}
    first = project.scenes[0].id
    kept = []
    for run in project.runs:
        length = lengths.get(run.scene or first)
        if length is not None:
            kept.append(run if run.frame < length else replace(run, frame=length - 1))
    same = len(kept) == len(project.runs) and all(map(_same, kept, project.runs))
    return project if same else replace(project, runs=tuple(kept))


def _same(one: KeptRun, other: KeptRun) -> bool:
    return one is other


def at_rate(project: Project, rate: int) -> tuple[KeptRun, ...]:
    """The kept runs with what was given at the same times at another sample rate."""

    def moved(sample: int) -> int:
        return round_half_up(sample * rate, project.rate)

    return tuple(
        replace(
            run,
            presses=tuple(moved(press) for press in run.presses),
            inputs=tuple(replace(given, at=moved(given.at)) for given in run.inputs),
        )
        for run in project.runs
    )


def without(project: Project, gone: Collection[str]) -> tuple[KeptRun, ...]:
    """The kept runs without the inputs of pads and values that are gone."""
    return tuple(
        replace(
            run,
            inputs=tuple(
                each for each in run.inputs if each.pad not in gone and each.value not in gone
            ),
        )
        for run in project.runs
    )


def inputs_of(project: Project, gone: Collection[str]) -> int:
    """How many inputs in kept runs are of these pads and values."""
    return sum(
        each.pad in gone or each.value in gone for run in project.runs for each in run.inputs
    )
