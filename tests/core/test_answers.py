"""What answers: coverage and gaps, edits that keep the rules, readings at their edges."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.answer_edits import (
    ChangeRun,
    DrawValue,
    ForgetRun,
    KeepRun,
    MovePad,
    PutBlend,
    PutPad,
    PutValue,
    RemovePad,
    RemoveValue,
)  # fmt: skip
from cicada.core.answers import (
    Blend,
    BlendPart,
    Fire,
    Follows,
    GlideDeed,
    GoOn,
    Input,
    Pad,
    Playlist,
    PlaylistPart,
    Pool,
    PoolPart,
    Value,
    Watch,
)  # fmt: skip
from cicada.core.checks import check
from cicada.core.coverage import (
    Stretch,
    blend_coverage,
    gap_closed,
    gaps,
    pool_coverage,
    ranges_over,
    watch_coverage,
)  # fmt: skip
from cicada.core.exact import ExactLine, ExactRange, grained
from cicada.core.following import blend_gain
from cicada.core.in_a_row import blocks
from cicada.core.lengths import Lengths, Row
from cicada.core.making import making_blend, put, with_part, with_part_moved, without_part
from cicada.core.model import KeptRun, Layer, Run, Sound, empty_project
from cicada.core.motion import Motion
from cicada.core.needs import driven_by, may_be_part
from cicada.core.picking import picked
from cicada.core.placements import Placements
from cicada.core.planner import plan
from cicada.core.scene_edits import ChangeProject, ChangeScene, RemoveScene
from cicada.core.shelf_edits import RemoveSounds, ReplaceSound
from cicada.errors import BadEdit
from tests.core.slow_mix import in_a_row

SOUNDS = tuple(
    Sound(id=f"s{n}", name=f"Sound {n}", frames=4800 * (n + 1), rate=48000, channels=1)
    for n in range(4)
)
STORM = Value(id="v", name="Storm")


def pool(*ranges):
    parts = tuple(
        PoolPart(sound=f"s{n}", value=None if each is None else "v", range=each)
        for n, each in enumerate(ranges)
    )
    return Pool(id="po", name="Thunder", parts=parts)


def film(**changes):
    return replace(empty_project("x"), sounds=SOUNDS, values=(STORM,), **changes)


ends = st.sampled_from((-0.5, 0.0, 0.2, 0.25, 0.5, 0.8, 1.0, 1.5))
ranges = st.tuples(ends, ends).filter(lambda pair: pair[0] < pair[1])


@given(st.lists(st.one_of(st.none(), ranges), min_size=1, max_size=4), st.fractions(0, 1))
def test_a_stretch_of_the_table_says_what_is_open_at_each_of_its_numbers(given_ranges, at):
    found = ranges_over(STORM, given_ranges)
    here = next(s for s in found if at < Fraction(str(s.high)) or s.closed)
    wanted = tuple(
        n for n, each in enumerate(given_ranges)
        if each is None or at in ExactRange(*each, STORM.high)
    )  # fmt: skip
    # An end at which a range that stops there is open for that one number alone is left out.
    assert here.parts == wanted or at == 1


def test_a_gap_is_found_and_closed_from_below_and_at_the_lowest_end_from_above():
    made = pool((0.1, 0.4), (0.6, 1.0))
    project = film(pools=(made,))
    assert [(gap.low, gap.high) for _, gap in gaps(project, made)] == [(0.0, 0.1), (0.4, 0.6)]
    for _, gap in gaps(project, made):
        made = gap_closed(project, made, gap)
    assert [part.range for part in made.parts] == [(0.0, 0.6), (0.6, 1.0)]
    assert gaps(film(pools=(made,)), made) == []


def test_a_pool_with_a_part_that_is_always_open_has_no_gap():
    made = pool((0.1, 0.4), None)
    assert gaps(film(pools=(made,)), made) == []


def test_a_blend_sounds_alone_outside_and_goes_over_between():
    blend = Blend(
        id="b", value="v",
        parts=(BlendPart(sound="s0", at=0.25), BlendPart(sound="s1", at=0.75)),
    )  # fmt: skip
    found = blend_coverage(film(blends=(blend,)), blend)
    assert [(s.low, s.high, s.parts) for s in found] == [
        (0.0, 0.25, (0,)), (0.25, 0.75, (0, 1)), (0.75, 1.0, (1,)),
    ]  # fmt: skip


def test_watches_over_one_value_are_in_one_table():
    pads = tuple(
        Pad(id=f"p{n}", watch=Watch(value="v", enters=enters))
        for n, enters in enumerate(((0.0, 0.5), (0.4, 1.0)))
    )
    found = watch_coverage(film(pads=(*pads, Pad(id="q"))), "v")
    assert [s.parts for s in found] == [(0,), (0, 1), (1,)]


@given(st.floats(0, 1), st.sampled_from(("power", "linear")), st.integers(2, 5))
def test_the_gains_of_a_blend_keep_its_level(number, curve, count):
    parts = tuple(BlendPart(sound=f"s{n}", at=n / (count - 1)) for n in range(count))
    blend = Blend(id="b", value="v", curve=curve, parts=parts)
    gains = [float(blend_gain(blend, n)(np.array([number]))[0]) for n in range(count)]
    total = sum(gain**2 for gain in gains) if curve == "power" else sum(gains)
    assert total == pytest.approx(1)
    assert sum(gain > 0 for gain in gains) <= 2


@given(st.lists(st.integers(1, 9), min_size=1, max_size=5), st.fractions(0, 1))
def test_what_is_drawn_is_the_first_whose_share_reaches_that_far(weights, at):
    shares = [Fraction(weight) for weight in weights]
    place = picked(shares, at)
    before, total = sum(shares[:place]), sum(shares)
    assert before <= at * total or place == 0
    assert at * total < before + shares[place] or place == len(shares) - 1


def test_a_line_of_two_points_at_one_place_holds_the_later_from_there():
    line = ExactLine(((0.0, 1.0), (2.0, 3.0), (2.0, 0.5), (4.0, 0.5, "step"), (5.0, 1.0)))
    assert line.at(Fraction(-1)) == 1
    assert line.at(Fraction(2)) == Fraction(1, 2)
    assert line.at(Fraction(9, 2)) == Fraction(1, 2)
    assert line.at(Fraction(9)) == 1
    assert grained(Fraction(1, 2**33)) == Fraction(1, 2**32)


@pytest.mark.parametrize("size", [1, 7, 1000, 10**6])
def test_a_playlist_in_blocks_is_the_playlist(size):
    noise = np.random.default_rng(1)
    wholes = {s.id: noise.uniform(-1, 1, (1, s.frames)).astype(np.float32) for s in SOUNDS[:2]}
    parts = (
        PlaylistPart(sound="s1", loops=2, tail=0.08), PlaylistPart(sound="s0", tail=9.0),
    )  # fmt: skip
    playlist = Playlist(id="pl", parts=parts)
    lengths = Lengths(film(playlists=(playlist,)))

    def read(sound, first, last):
        return wholes[sound][:, first:last]

    made = blocks(lengths.rows(playlist), lengths["pl"], 48000, 1, read, size)
    wanted = in_a_row(playlist, film(), wholes)
    assert np.concatenate(list(made), axis=1) == pytest.approx(wanted, abs=1e-6)


# -- edits -----------------------------------------------------------------------------------------


def played(**changes):
    """A film in which everything there is depends on one value."""
    blend = Blend(
        id="b", value="v", parts=(BlendPart(sound="s0", at=0.0), BlendPart(sound="s1", at=1.0))
    )
    pads = (
        Pad(
            id="p", name="Lamp", watch=Watch(value="v", enters=(0.0, 1.0)),
            follows=Follows(value="v", points=((0.0, 1.0),)),
            does=(Fire(sound="s2"), GlideDeed(value="v", to=1.0)),
        ),
    )  # fmt: skip
    runs = (KeptRun(name="one", inputs=(Input(at=9, pad="p"), Input(at=9, value="v", to=1.0))),)
    made = film(blends=(blend,), pools=(pool((0.0, 1.0)),), pads=pads, runs=runs, **changes)
    return DrawValue(scene="sc1", value="v", line=((0.0, 1.0),)).apply(made)


def test_a_value_that_a_blend_follows_stays_and_otherwise_goes_with_all_that_follows_it():
    with pytest.raises(BadEdit, match="follows it"):
        RemoveValue(value="v").apply(played())
    left = RemoveValue(value="v").apply(replace(played(), blends=()))
    (pad,), (scene,) = left.pads, left.scenes
    assert (pad.watch, pad.follows, pad.does) == (None, None, (Fire(sound="s2"),))
    assert (scene.value_lines, left.pools[0].parts[0].range) == ({}, None)
    assert left.runs[0].inputs == (Input(at=9, pad="p"),)
    assert RemovePad(pad="p").apply(left).runs[0].inputs == ()


def test_what_breaks_a_rule_is_refused_and_changes_nothing():
    project = film()
    wrong = Blend(
        id="b", value="v", parts=(BlendPart(sound="s0", at=1.0), BlendPart(sound="s1", at=0.0))
    )
    for edit in (
        PutBlend(blend=wrong),
        PutValue(value=Value(id="w", low=1.0, high=0.0)),
        PutPad(pad=Pad(id="s0")),
        PutPad(pad=Pad(id="p", does=(Fire(sound="nothing"),))),
        DrawValue(scene="sc1", value="gone", line=()),
        RemovePad(pad="gone"),
        MovePad(pad="gone", to=0),
        ForgetRun(name="gone"),
        RemoveValue(value="gone"),
    ):
        with pytest.raises(BadEdit):
            edit.apply(project)


def test_kept_runs_have_names_of_their_own_and_are_changed_and_forgotten():
    project = KeepRun(run=KeptRun(name="two")).apply(played())
    with pytest.raises(BadEdit, match="kept already"):
        KeepRun(run=KeptRun(name="two")).apply(project)
    with pytest.raises(BadEdit, match="kept already"):
        ChangeRun(name="two", run=KeptRun(name="one")).apply(project)
    renamed = ChangeRun(name="two", run=KeptRun(name="three")).apply(project)
    assert [run.name for run in renamed.runs] == ["one", "three"]
    assert [run.name for run in ForgetRun(name="one").apply(renamed).runs] == ["three"]


def test_kept_runs_are_taken_along_as_the_film_changes():
    project = KeepRun(run=KeptRun(name="late", frame=200, presses=(48000,))).apply(played())
    shorter = ChangeScene(scene="sc1", changes={"length": 100}).apply(project)
    assert shorter.runs[1].frame == 99
    other = ChangeProject(changes={"rate": 24000}).apply(project)
    assert (other.runs[1].presses, other.runs[0].inputs[0].at) == ((24000,), 5)
    second = replace(project.scenes[0], id="sc2", layers=(Layer(id="m", keyframes=()),))
    two = replace(project, scenes=(second, project.scenes[0]))
    two = KeepRun(run=KeptRun(name="there", scene="sc2")).apply(two)
    assert [run.name for run in RemoveScene(scene="sc2").apply(two).runs] == ["one", "late"]


def test_a_sound_that_is_a_part_is_removed_there_only_where_that_is_meant():
    project = played()
    with pytest.raises(BadEdit, match="as a part"):
        RemoveSounds(sounds=("s0",)).apply(project)
    with pytest.raises(BadEdit, match="at least 2"):
        RemoveSounds(sounds=("s1",), from_parts=True).apply(project)
    left = RemoveSounds(sounds=("s2",)).apply(project)
    assert left.pads[0].does == (GlideDeed(value="v", to=1.0),)
    other = ReplaceSound(sound="s2", by="b").apply(project)
    assert other.pads[0].does[0] == Fire(sound="b")


def test_parts_are_added_above_moved_and_taken_out():
    project = film()
    edit, own = making_blend(project, ["s0", "s1", "s2"], "v")
    (blend,) = edit.apply(project).blends
    assert (blend.id, blend.name) == (own, "Sound")
    assert [part.at for part in blend.parts] == [0.0, 0.5, 1.0]
    assert with_part(blend, "s3").parts[-1] == BlendPart(sound="s3", at=1.5)
    moved = with_part_moved(blend, 0, 2)
    assert [(part.sound, part.at) for part in moved.parts] == [
        ("s1", 0.0), ("s2", 0.5), ("s0", 1.0),
    ]  # fmt: skip
    with pytest.raises(BadEdit, match="at least two"):
        without_part(without_part(blend, 0), 0)


def test_checks_name_gaps_unequal_parts_and_pads_with_one_key():
    pads = (Pad(id="p", name="One", key="a"), Pad(id="q", name="Two", key="a"))
    made = replace(played(), pools=(pool((0.2, 1.0)),), pads=pads, runs=())
    kinds = [finding.kind for finding in check(made)]
    assert {"pool-gap", "unequal-parts", "same-pad"} <= set(kinds)
    assert pool_coverage(made, made.pools[0], "v")[0].parts == ()


@pytest.mark.parametrize(
    ("by", "pool", "playlist"), [("s2", "s2", "s2"), ("q1", "q1", "s0"), ("o1", "s0", "s0")]
)
def test_a_sound_is_replaced_in_all_it_is_a_part_of_where_the_other_may_be_one(by, pool, playlist):
    project = replace(
        empty_project("Parts"), sounds=SOUNDS,
        pools=(
            Pool(id="o1", parts=(PoolPart(sound="s1"),)),
            Pool(id="o2", parts=(PoolPart(sound="s0"), PoolPart(sound="s1"))),
        ),
        playlists=(
            Playlist(id="q1", parts=(PlaylistPart(sound="s1"),)),
            Playlist(id="q2", parts=(PlaylistPart(sound="s0", loops=2),)),
        ),
    )  # fmt: skip
    made = ReplaceSound(sound="s0", by=by).apply(project)
    assert [part.sound for part in made.pools[1].parts] == [pool, "s1"]
    assert made.playlists[1].parts[0].sound == playlist


@pytest.mark.parametrize(("to", "order"), [(0, "cab"), (2, "abc"), (9, "abc"), (-4, "cab")])
def test_a_pad_is_moved_to_another_place(to, order):
    project = replace(empty_project("Pads"), pads=tuple(Pad(id=name) for name in "abc"))
    assert "".join(pad.id for pad in MovePad(pad="c", to=to).apply(project).pads) == order
    with pytest.raises(BadEdit, match="gone"):
        MovePad(pad="d", to=0).apply(project)


def test_a_gap_beside_a_part_that_is_always_open_or_at_the_lowest_end_is_closed_downward():
    project = film()
    lowest = pool((0.4, 1.0))
    (gap,) = [stretch for _, stretch in gaps(project, lowest)]
    assert gap_closed(project, lowest, gap).parts[0].range == (0.0, 1.0)
    beside = replace(lowest, parts=(PoolPart(sound="s1"), *lowest.parts))
    assert gap_closed(project, beside, gap).parts[1].range == (0.0, 1.0)


def test_what_may_be_a_part_of_what():
    blend, sound, playlist = BlendPart, PoolPart, PlaylistPart
    two = blend(sound="s0", at=0), blend(sound="s1", at=1)
    project = replace(
        empty_project("Parts"), sounds=SOUNDS, values=(STORM,),
        blends=(Blend(id="b1", value="v", parts=two),),
        pools=(Pool(id="o1", parts=(sound(sound="b1"),)),),
        playlists=(Playlist(id="q1", parts=(playlist(sound="s0"),)),),
    )  # fmt: skip
    may = {
        (made.id, part)
        for made in (*project.blends, *project.pools, *project.playlists)
        for part in ("s0", "b1", "o1", "q1")
        if may_be_part(project, made, part)
    }
    assert may == {
        ("b1", "s0"), ("b1", "q1"), ("o1", "s0"), ("o1", "b1"), ("o1", "q1"), ("q1", "s0"),
    }  # fmt: skip
    assert driven_by(project, "v").placed == {"b1", "o1"}


def test_what_is_made_is_put_back_as_it_is_and_a_part_is_added_before_a_place():
    two = BlendPart(sound="s0", at=0.0), BlendPart(sound="s1", at=1.0)
    made = (
        Blend(id="m", value="v", parts=two),
        Pool(id="m", parts=(PoolPart(sound="s0"), PoolPart(sound="s1"))),
        Playlist(id="m", parts=(PlaylistPart(sound="s0"), PlaylistPart(sound="s1"))),
    )
    project = replace(empty_project("Made"), sounds=SOUNDS, values=(STORM,))
    for each, group in zip(made, ("blends", "pools", "playlists"), strict=True):
        edit = put(each)
        assert edit.title.startswith("make the ")
        assert getattr(edit.apply(project), group) == (each,)
    for each in made[1:]:
        assert [part.sound for part in with_part(each, "s2", 1).parts] == ["s0", "s2", "s1"]


def test_a_gap_that_no_part_stands_beside_stays():
    project = film()
    assert gap_closed(project, pool((0.0, 0.2)), Stretch(0.4, 0.6, False, ())) == pool((0.0, 0.2))


def test_a_piece_that_is_not_there_is_silent_and_one_that_is_cut_is_let_go_of():
    begin = (("here", 0, 40), ("gone", 10, 20), ("here", 20, 0), ("here", 30, 40))
    rows = [Row(sound, range(start, start + 1), length) for sound, start, length in begin]

    def read(sound, first, last):
        return np.ones((1, last - first), np.float32) if sound == "here" else None

    mixed = np.concatenate(list(blocks(rows, 50, 1000, 1, read, 16)), axis=1)[0]
    assert mixed[:30].tolist() == [1.0] * 30
    assert mixed[40:48].tolist() == [1.0] * 8
    assert mixed[48:].tolist() == pytest.approx([2 / 3, 1 / 3])


def test_a_voice_of_a_deed_that_is_none_any_more_has_no_clip():
    fires = Pad(id="p", at_start=True, does=(Fire(sound="s0"),))
    project = replace(empty_project("Fired"), sounds=SOUNDS, pads=(fires,))
    (voice,) = plan(project).voices
    assert Placements(project).clip(voice).sound == "s0"
    for does in ((), (GoOn(),)):
        with pytest.raises(KeyError):
            Placements(replace(project, pads=(replace(fires, does=does),))).clip(voice)


def test_where_no_picture_was_shown_there_is_no_place():
    made = plan(empty_project("None"), Run(limit=0.0))
    visits, positions = Motion(made).about(np.array([0.0, 9.0]))
    assert (visits.tolist(), positions.tolist()) == ([0, 0], [0, 0])
