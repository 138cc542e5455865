"""What of a film a recipe asks for: its run and plan, and where in that a file begins and ends."""

from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.model import Project, Run
from cicada.core.placed import Tables
from cicada.core.plan import Plan, Voice
from cicada.core.planner import plan
from cicada.core.recipes import Scope
from cicada.core.steady import MOST_PASSES, may_settle, steady_pass
from cicada.errors import BadProject


class Asked(NamedTuple):
    """Samples ``first`` to ``first + length`` of a plan.

    What is ``folded`` has laid over its beginning what rings past its end; what ``loops`` goes on
    with its beginning. ``project`` is the one that is planned: a range of frames is a film that
    ends there.
    """

    project: Project
    run: Run
    plan: Plan
    first: int
    length: int
    folded: bool
    loops: bool


class Differs(NamedTuple):
    """What a keyframe does otherwise when the film comes round again, and in which scene."""

    scene: str
    layer: str
    frame: int


def asked(project: Project, scope: Scope) -> Asked:
    """What a recipe asks for of a project; raises ``BadProject`` if that is not there."""
    film, run = project, _run(project, scope)
    if scope.tail == "steady":
        return _steady(project, run)
    run = replace(run, tail="cut" if scope.tail == "cut" else "ring")
    if scope.last is not None:
        film = _ending(project, scope)
    planned = plan(film, run, Tables(() if film is project else project.scenes))
    folded = scope.tail == "fold"
    length = planned.end if folded else planned.length
    if not length:
        raise BadProject("the run ends as it begins", remedy="choose more of the film")
    return Asked(film, run, planned, 0, length, folded, loops=folded)


def _run(project: Project, scope: Scope) -> Run:
    if scope.run is not None:
        kept = [run for run in project.runs if run.name == scope.run]
        if not kept:
            raise BadProject(
                f"there is no kept run {scope.run!r}", remedy="choose another in the recipe"
            )
        run = kept[0].run()
    else:
        scenes = {scene.id: scene for scene in project.scenes}
        if scope.scene is not None and scope.scene not in scenes:
            raise BadProject(
                f"there is no scene {scope.scene!r}", remedy="choose another in the recipe"
            )
        only = scope.scene is not None
        run = Run(scene=scope.scene, frame=scope.first, only_scene=only, passes=scope.passes)
        if only and scope.first >= scenes[str(scope.scene)].length:
            raise BadProject(
                f"frame {project.shown(scope.first)} is past the end of its scene",
                remedy="choose other frames in the recipe",
            )
    return run if scope.seed is None else replace(run, seed=scope.seed)


def _ending(project: Project, scope: Scope) -> Project:
    """The film whose scene ends with the last frame that is asked for."""
    assert scope.last is not None
    end = scope.last + 1
    scenes = tuple(
        replace(scene, length=min(scene.length, end)) if scene.id == scope.scene else scene
        for scene in project.scenes
    )
    return replace(project, scenes=scenes)


def _steady(project: Project, run: Run) -> Asked:
    run = replace(run, passes=MOST_PASSES + 2)
    planned = plan(project, run)
    found = steady_pass(planned) if may_settle(project) else None
    if found is None:
        raise BadProject(
            f"no pass is steady within {MOST_PASSES}", remedy="fold the end over the beginning"
        )
    inside = [visit for visit in planned.visits if visit.number == found]
    first, end = inside[0].start, inside[-1].end
    return Asked(project, run, planned, first, end - first, folded=False, loops=True)


# -- the seam of a loop --------------------------------------------------------------------------


def cut_at_seam(found: Asked) -> list[Voice]:
    """The soundings that have no end, and end where the loop does."""
    return [voice for voice in found.plan.voices if voice.ended == "run"] if found.folded else []


def differing(found: Asked) -> list[Differs]:
    """The keyframes that do otherwise from the second time on than in a loop that is folded.

    Empty where no second time is defined: of a kept run, or frames of a scene.
    """
    run = found.run
    if not found.folded or run.presses or run.inputs or run.frame or run.limit is not None:
        return []
    again = plan(found.project, replace(run, passes=3 * run.passes))
    second = [v for v in again.visits if run.passes < v.number <= 2 * run.passes]
    start, end = second[0].start, second[-1].end
    once = {_done(voice, 0) for voice in found.plan.voices}
    then = {_done(voice, start) for voice in again.voices if start <= voice.start < end}
    other = sorted(once ^ then, key=lambda done: done[1])
    return list(dict.fromkeys(done[0] for done in other))


def _done(voice: Voice, origin: int) -> tuple[Differs, int, tuple[tuple[int, int], ...], str]:
    """What a voice does, in samples from the beginning of its pass."""
    pieces = tuple((start - origin, end - origin) for start, end, _ in voice.pieces)
    where = Differs(voice.scene, voice.layer, voice.frame)
    return where, voice.start - origin, pieces, voice.plays
