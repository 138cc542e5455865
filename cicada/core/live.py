"""Runs as they are played: waiting for presses that have not come yet, and one range of frames.

A live run is the plan of its own presses (semantics.md, section 10). While it waits nobody knows
when the next one comes, so it is planned as if that were far off: what is free goes on, and the
picture stands. When the press comes, the run with it has the same samples up to that moment.
"""

from itertools import pairwise

from msgspec.structs import replace

from cicada.core.model import PressPoint, Project, Run
from cicada.core.placed import Tables
from cicada.core.plan import Event, Plan
from cicada.core.planner import plan

# Seconds after which a press nobody has made yet is taken to come: a week.
FAR = 7 * 24 * 3600


def waits_somewhere(project: Project) -> bool:
    """Whether a film has a press point that is reached."""
    return any(p.frame < scene.length for scene in project.scenes for p in scene.press_points)


def awaiting(run: Run, rate: int) -> Run:
    """The run with its presses so far, as it goes on until the next one comes."""
    far = FAR * rate
    return replace(run, press_points="wait", presses=(*run.presses, far))


def going_on(run: Run, rate: int) -> Run:
    """A live run as it goes on: waiting for the next press, if it waits for presses at all."""
    return awaiting(run, rate) if run.press_points == "wait" else run


def pressed_at_once(project: Project, run: Run, tables: Tables | None = None) -> Run:
    """The run with its presses so far; where it would then wait for good one comes at once."""
    tables = tables or Tables()
    run = replace(run, press_points="wait")
    while (stands := _stands_for_good(plan(project, run, tables))) is not None:
        run = replace(run, presses=(*run.presses, stands + 1))
    return run


def seen_from_start(project: Project, run: Run, tables: Tables | None = None) -> Run:
    """A run in which something is given, that begins inside the film, as the whole film shows it.

    Press points before its beginning are passed, each by a press one sample after it is reached.
    """
    tables = tables or Tables()
    whole = replace(
        run, scene=run.scene if run.only_scene else None, frame=0, presses=(), inputs=()
    )
    index = [scene.id for scene in project.scenes].index(run.scene or project.scenes[0].id)
    visit = 0 if run.only_scene else index
    while True:
        planned = plan(project, whole, tables)
        origin = planned.entered(run.frame, visit) if visit < len(planned.visits) else None
        stands = _stands_for_good(planned)
        if origin is not None and (stands is None or stands >= origin):
            presses = (*whole.presses, *(origin + press for press in run.presses))
            inputs = tuple(replace(given, at=given.at + origin) for given in run.inputs)
            return replace(whole, presses=presses, inputs=inputs)
        if stands is None:
            return run
        whole = replace(whole, presses=(*whole.presses, stands + 1))


def _stands_for_good(planned: Plan) -> int | None:
    for event in planned.events:
        if event.kind == "waiting" and event.until is None:
            return event.at
    return None


def wait_at(planned: Plan, sample: int) -> Event | None:
    """The wait for a press that the picture is in at a run sample."""
    for event in planned.events:
        over = event.until is not None and sample >= event.until
        if event.kind == "waiting" and event.at <= sample and not over:
            return event
    return None


def point_waited_at(project: Project, planned: Plan, sample: int) -> PressPoint | None:
    """The press point the picture waits at, at a run sample."""
    wait = wait_at(planned, sample)
    for scene in project.scenes:
        for point in scene.press_points:
            if wait is not None and (wait.scene, wait.frame) == (scene.id, point.frame):
                return point
    return None


def pressed(planned: Plan, run: Run, moment: int) -> Run | None:
    """The run with a press at a run sample; None if the picture does not wait there, or not yet."""
    wait = wait_at(planned, moment)
    if wait is None or moment == wait.at:
        return None
    return replace(run, presses=(*run.presses, moment))


def up_to_frame(project: Project, run: Run, last: int, tables: Tables | None = None) -> Run:
    """The run, ended at the moment the picture leaves frame ``last`` of the scene it begins in."""
    planned = plan(project, run, tables)
    here = planned.stretches[0].visit
    leaves = planned.entered(last + 1, here)
    if leaves is None:
        leaves = planned.visits[here].end
    return replace(run, limit=leaves / planned.rate)


def in_order(run: Run, presses: int = 0, inputs: int = 0) -> Run:
    """The run with what is given in the order it comes in; so many of each are known to be."""
    pressed, given = run.presses[presses:], run.inputs[inputs:]
    if any(a > b for a, b in pairwise(pressed)):
        run = replace(run, presses=(*run.presses[:presses], *sorted(pressed)))
    if any(a.at > b.at for a, b in pairwise(given)):
        given = tuple(sorted(given, key=lambda each: each.at))
        run = replace(run, inputs=(*run.inputs[:inputs], *given))
    return run


def behind(run: Run, other: Run) -> bool:
    """Whether a live run has less given than another and is like it otherwise."""
    presses, inputs = len(run.presses), len(run.inputs)
    if (presses, inputs) == (len(other.presses), len(other.inputs)):
        return False
    bare = replace(run, presses=(), inputs=(), passes=1)
    same = bare == replace(other, presses=(), inputs=(), passes=1)
    begins = other.presses[:presses] == run.presses and other.inputs[:inputs] == run.inputs
    return same and begins


def same_moment(old: Plan, new: Plan, sample: int) -> int:
    """The run sample of ``new`` at the scene, pass and frame that ``old`` has at ``sample``.

    If that frame is gone it is the nearest earlier one that is still there.
    """
    if not old.stretches or not new.stretches:
        return 0
    if sample >= old.end:
        return min(new.length, new.end + sample - old.end)
    visit, frame, _ = old.frame_at(sample)
    entered = old.entered(frame, old.visits.index(visit)) or 0
    for index, other in enumerate(new.visits):
        if (other.scene, other.number) == (visit.scene, visit.number):
            for earlier in range(frame, -1, -1):
                there = new.entered(earlier, index)
                if there is not None:
                    inside = sample - entered if earlier == frame else 0
                    following = new.entered(earlier + 1, index)
                    if following is not None:
                        inside = min(inside, following - there - 1)
                    return there + inside
    return 0


def standing_at(project: Project, scene_id: str, frame: int) -> tuple[Project, Run]:
    """An otherwise empty film in which the picture stands at a press point on that frame.

    What pads do is heard there as it would be, and values are what they are on that frame.
    """
    scene = project.scene(scene_id)
    point = PressPoint(frame=min(frame, scene.length - 1))
    alone = replace(scene, layers=(), picture=(), master=(), press_points=(point,))
    run = Run(scene=scene_id, frame=point.frame, chase=False, press_points="wait")
    return replace(project, scenes=(alone,)), run
