"""A live run, planned a little ahead again and again as more is given in it."""

import gc
from random import Random

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.live import going_on
from cicada.core.live_plan import LivePlan
from cicada.core.mix import Mixer
from cicada.core.placed import Tables
from cicada.core.planner import plan
from tests.core.live_films import RATE, live_film
from tests.core.test_live_mix import Noise

# What is cut at the end of what is planned is faded there.
RAMP = RATE // 500


def live_run(seed):
    """A random film and a run in which nothing is given yet, and what will be."""
    project, run = live_film(seed, follows=True)
    presses, inputs = sorted(run.presses), sorted(run.inputs, key=lambda given: given.at)
    r = Random(seed)
    given = [(press, None) for press in presses] + [(each.at, each) for each in inputs]
    given += [(r.randrange(24_000), None) for _ in range(3)]
    given.sort(key=lambda each: each[0])
    return project, replace(run, presses=(), inputs=()), given


def with_given(run, at, given):
    """The run with one more input, or with a press."""
    if given is None:
        return replace(run, presses=(*run.presses, at))
    return replace(run, inputs=(*run.inputs, given))


def mixed(planned, project, noise, start, end):
    """Some samples of a plan."""
    return Mixer(planned, project, noise, since=start).mix(start, max(0, end - start))


def check_live(seed):
    """Give what is to be given, one after the other; what is heard each time is the whole plan's.

    Returns at how many of them the run was still going on.
    """
    project, run, given = live_run(seed)
    noise, ahead, tables, going = Noise(project), LivePlan(project), Tables(), 0
    r = Random(seed)
    for at, each in given:
        run = with_given(run, at, each)
        whole = plan(project, going_on(run, RATE), tables)
        if at >= whole.length:
            continue
        going += 1
        for now in sorted({at, at + r.choice((0, 1, 333, 2000))}):
            seconds = float((now + r.choice((900, 4000, 9000))) // RATE + 1)
            found = ahead.ahead(run, now, seconds)
            end = found.until - RAMP
            if found.whole:
                assert (found.until, found.plan.end) == (whole.length, whole.end)
            heard = mixed(found.plan, project, noise, now, end)
            wanted = mixed(whole, project, noise, now, end)
            assert np.abs(heard - wanted).max(initial=0) < 1e-5
    return going


@pytest.mark.parametrize("seed", range(80))
def test_what_is_heard_after_each_input_is_what_the_whole_run_has(seed):
    check_live(seed)


def test_planning_on_leaves_no_garbage_to_be_looked_for():
    project, run, given = live_run(1)
    ahead = LivePlan(project)
    ahead.ahead(run, 0, 1.0)
    gc.collect()
    for at, each in given:
        run = with_given(run, at, each)
        Mixer(ahead.ahead(run, at, at // RATE + 1.0).plan, project, Noise(project)).mix(at, 100)
    assert gc.collect() == 0


def test_what_was_given_in_another_order_counts_in_its_own():
    project, run, given = next(found for found in map(live_run, range(99)) if len(found[2]) > 4)
    inputs = [each for _, each in given if each is not None]
    presses = [at for at, each in given if each is None]
    ordered = replace(run, inputs=tuple(inputs), presses=tuple(presses))
    other = replace(run, inputs=tuple(inputs[::-1]), presses=tuple(presses[::-1]))
    made, wanted = (LivePlan(project).ahead(each, 0, 3.0) for each in (other, ordered))
    assert made.plan == wanted.plan
