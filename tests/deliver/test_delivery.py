"""Recipes delivered: what is in the files is what was promised, or it is said what is not."""

import json
import os
import struct

import av
import numpy as np
import pyloudnorm
import pytest
import soundfile
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.passage import Passage
from cicada.core.planner import plan
from cicada.core.recipe_edits import PutRecipe
from cicada.core.recipes import (
    ALL_FORMS,
    DataRecipe,
    Encoding,
    Loud,
    MixRecipe,
    Scope,
    StemsRecipe,
    TrimmedRecipe,
)
from cicada.core.scoped import Asked, asked
from cicada.core.tone import InMemory
from cicada.deliver.delivery import deliver
from cicada.deliver.earlier import Earlier
from cicada.deliver.encoding import KINDS, nearest_rate
from cicada.deliver.ready import prepared
from cicada.deliver.signal import Signal
from cicada.errors import BadSound, Cancelled, CannotWrite
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files

ALL_KINDS = [
    Encoding(bits=16), Encoding(bits=24), Encoding(bits=32), Encoding(kind="flac", bits=16),
    Encoding(kind="flac"), Encoding(kind="aiff"), Encoding(kind="caf", bits=32),
    Encoding(kind="vorbis"), Encoding(kind="opus"), Encoding(kind="mp3"),
    Encoding(kind="mp3", mono=True), Encoding(rate=44100, bits=32),
    Encoding(kind="mp3", rate=22050),
]  # fmt: skip


class Desk:
    """A project that recipes are delivered of, into a folder."""

    def __init__(self, file, folder):
        self.file, self.folder = file, folder
        self.project = load(file)
        self.sources = SoundSources(self.project, sound_files(self.project, file), user_cache())
        self.earlier = Earlier(folder.with_name("delivered.json"))

    def deliver(self, recipe, **more):
        project = PutRecipe(recipe=recipe).apply(self.project)
        ready = prepared(project, recipe)
        return deliver(
            project, self.file, ready, self.folder, self.sources, earlier=self.earlier, **more
        )

    def read(self, file):
        return soundfile.read(self.folder / file.name, dtype="float32", always_2d=True)

    def files(self):
        return sorted(
            str(p.relative_to(self.folder)) for p in self.folder.rglob("*") if p.is_file()
        )


@pytest.fixture
def desk(demo, tmp_path):
    folder = tmp_path / "out"
    folder.mkdir()
    return Desk(demo, folder)


def night(project, **more):
    return Scope(scene=project.scenes[1].id, **more)


@pytest.mark.parametrize(
    "encoding", ALL_KINDS, ids=lambda e: f"{e.kind}-{e.bits}-{e.rate}-{e.mono}"
)
def test_every_kind_of_file_is_as_long_and_begins_on_its_sample(desk, encoding):
    made = desk.deliver(MixRecipe(id="r", encoding=encoding, scope=night(desk.project)))
    (file,) = made.files
    samples, rate = desk.read(file)
    assert not made.missed
    assert {promise.what for promise in file.promises} == {"frames", "rate", "channels", "start"}
    assert (len(samples), rate, samples.shape[1]) == (file.frames, file.rate, file.channels)
    found = asked(desk.project, night(desk.project))
    wanted = Passage(found, desk.sources).block(0, found.length).T
    if rate == desk.project.rate and not encoding.mono:
        exact = {16: 1.6 / 32768, 24: 1.6 / 8388608, 32: 0}[encoding.bits]
        if not encoding.lossy:
            np.testing.assert_allclose(samples, wanted, atol=exact)
        else:
            assert np.sqrt(np.mean((samples - wanted) ** 2)) < 0.1 * np.sqrt(np.mean(wanted**2))


def test_mono_is_half_of_both_sides(desk):
    scope = night(desk.project)
    made = desk.deliver(MixRecipe(id="r", encoding=Encoding(bits=32, mono=True), scope=scope))
    samples, _ = desk.read(made.files[0])
    found = asked(desk.project, scope)
    both = Passage(found, desk.sources).block(0, found.length)
    np.testing.assert_allclose(samples[:, 0], both.mean(axis=0), atol=1e-6)


@pytest.mark.parametrize("kind", ["wav", "vorbis", "opus", "mp3"])
@pytest.mark.parametrize("quality", [0.1, 0.6])
def test_the_ceiling_holds_for_the_decoded_file(desk, kind, quality):
    loud = Loud(aim="peak", target=3.0, ceiling=-1.0)
    encoding = Encoding(kind=kind, quality=quality, bits=16)
    recipe = MixRecipe(id="r", encoding=encoding, loud=loud, scope=night(desk.project))
    (file,) = desk.deliver(recipe).files
    samples, rate = desk.read(file)
    finely = soxr.resample(samples.astype(np.float64), rate, 8 * rate, quality="VHQ")
    assert 20 * np.log10(np.abs(finely).max()) < -0.9
    assert file.true_peak == pytest.approx(-1.0, abs=0.6)
    # What was aimed at is higher than the ceiling lets it go, and that is said.
    (missed,) = file.missed
    assert "ceiling" in missed.said


def test_loudness_is_what_was_aimed_at(desk):
    loud = Loud(aim="loudness", target=-20.0)
    (file,) = desk.deliver(MixRecipe(id="r", encoding=Encoding(bits=32), loud=loud)).files
    samples, rate = desk.read(file)
    assert pyloudnorm.Meter(rate).integrated_loudness(samples) == pytest.approx(-20.0, abs=0.1)
    assert not file.missed


def test_a_wav_says_where_in_the_film_it_begins_and_nothing_of_when(desk):
    recipe = MixRecipe(id="r", scope=night(desk.project, first=24, last=40), encoding=Encoding())
    (file,) = desk.deliver(recipe).files
    data = (desk.folder / file.name).read_bytes()
    with av.open(str(desk.folder / file.name)) as read:
        told = read.metadata
    begins = desk.project.scenes[0].length * 2000 + 24 * 2000
    assert told["time_reference"] == str(begins)
    assert "date" not in told
    assert "creation_time" not in told
    again = desk.deliver(recipe)
    assert (desk.folder / again.files[0].name).read_bytes() == data


def test_what_does_not_fit_into_whole_numbers_is_a_promise_missed(desk):
    desk.project = replace(desk.project, level=16.0)
    made = desk.deliver(MixRecipe(id="r", encoding=Encoding(bits=16), scope=night(desk.project)))
    assert len(made.missed) == 1
    assert "cut off" in made.missed[0]
    assert desk.files()


@pytest.mark.parametrize(("by", "bits"), [("layer", 16), ("folder", 24), ("sound", 32)])
def test_stems_sum_to_the_mix(desk, by, bits):
    loud = Loud(aim="peak", target=-6.0)
    scope = night(desk.project, first=40, last=99)
    how = {"scope": scope, "encoding": Encoding(bits=bits), "loud": loud}
    recipe = StemsRecipe(id="r", name="Parts", by=by, **how)
    parts = [desk.read(file)[0] for file in desk.deliver(recipe).files]
    mix = MixRecipe(id="m", **how)
    whole, _ = desk.read(desk.deliver(mix).files[0])
    step = 0.0 if bits == 32 else (len(parts) + 1) * 1.5 / (1 << (bits - 1))
    assert len(parts) > 1
    assert np.abs(sum(parts) - whole).max() <= max(step, 1e-6)


def test_stems_of_layers_of_one_name_are_one(desk):
    names = [layer.name for _, layer in desk.project.all_layers()]
    made = desk.deliver(StemsRecipe(id="r", name="Parts", encoding=Encoding(bits=16)))
    assert len(set(names)) < len(names)
    stems = {file.name.removeprefix("Parts/").removesuffix(".wav") for file in made.files}
    assert stems <= set(names)


def test_trimmed_sounds_put_together_again_are_the_clips(desk):
    made = desk.deliver(TrimmedRecipe(id="r", name="Pieces", encoding=Encoding(bits=32)))
    told = json.loads((desk.folder / "Pieces/sounds.json").read_text("utf-8"))
    assert len(told["sounds"]) == len(made.files) - 1
    found = asked(desk.project, Scope())
    voices = {(v.layer, v.frame): v for v in found.plan.voices if v.sync == "free"}
    plain = 0
    for piece in told["sounds"]:
        samples, rate = desk.read(
            next(f for f in made.files if f.name.endswith("/" + piece["file"]))
        )
        assert (len(samples), rate, samples.shape[1]) == (
            piece["frames"], piece["rate"], piece["channels"],
        )  # fmt: skip
        for use in piece["uses"]:
            voice = voices.get((use["layer"], use["frame"]))
            layer = desk.project.layer(use["layer"])[1]
            clip = next(k for k in layer.keyframes if k.frame == use["frame"])
            whole = voice is not None and voice.ended == "finished" and not voice.fades
            if not whole or use["loops"] != 1 or clip.delay or clip.offset or piece["left"]:
                continue
            alone = replace(layer, keyframes=(clip,), line=(), level=1.0, pan=0.0)
            plain += 1
            made_alone = _alone(desk, alone, replace(clip, level=1.0, pan=0.0, sync="free"))
            np.testing.assert_allclose(samples, made_alone[:, : samples.shape[1]], atol=1e-6)
    assert plain > 3


def _alone(desk, layer, clip):
    layer = replace(layer, keyframes=(replace(clip, frame=0),))
    scene = replace(desk.project.scenes[0], length=1, layers=(layer,), master=())
    project = replace(desk.project, scenes=(scene,), level=1.0)
    planned = plan(project, Run())
    found = Asked(project, Run(), planned, 0, planned.voices[0].end, folded=False, loops=False)
    return Passage(found, desk.sources).block(0, found.length).T


# -- round the loop ------------------------------------------------------------------------------


class Ring:
    """A sound that rings on for long."""

    def source(self, sound, first, last, speed):
        at = np.arange(first, last)
        ring = np.sin(at * 0.07) * np.exp(-at / 3000)
        return InMemory(ring[None].astype(np.float32))


@settings(max_examples=20)
@given(st.integers(1, 30), st.integers(0, 29), st.sampled_from([22050, 32000, 44100, 96000]))
def test_a_loop_at_another_rate_is_the_repeated_film_at_that_rate(length, frame, rate):
    layer = Layer(id="l", keyframes=(Clip(frame=frame % length, sound="s"),))
    sound = Sound(id="s", frames=20_000, rate=48000, channels=1)
    scene = Scene(id="sc", length=length, layers=(layer,))
    project = Project(
        format="cicada-project",
        version=1,
        fps=(25, 1),
        rate=48000,
        sounds=(sound,),
        scenes=(scene,),
    )
    found = asked(project, Scope(tail="fold"))
    passage = Passage(found, Ring())
    once = passage.block(0, passage.length)
    made = np.concatenate(list(Signal(passage, rate, mono=False).blocks()), axis=1)
    turns = 2 + 2 * (1 + 16384 // passage.length)
    repeated = soxr.resample(np.tile(once, turns).T, passage.length, made.shape[1], quality="HQ")
    middle = turns // 2 * made.shape[1]
    wanted = repeated[middle : middle + made.shape[1]].T
    near = 1e-6 * max(1.0, float(np.abs(wanted).max()))
    np.testing.assert_allclose(made, wanted, atol=near)


# -- what is refused, stopped, or in the way -----------------------------------------------------


@pytest.mark.parametrize("rate", [44100, 37800, 96000, 8000, 11025])
@pytest.mark.parametrize("kind", list(KINDS))
def test_the_rate_that_is_proposed_is_held(desk, kind, rate):
    near = nearest_rate(kind, rate)
    encoding = Encoding(kind=kind, rate=rate)
    recipe = MixRecipe(id="r", encoding=encoding, scope=night(desk.project, last=3))
    if near == rate:
        assert desk.deliver(recipe).files[0].rate == rate
    else:
        with pytest.raises(CannotWrite, match=f"{near:,}"):
            desk.deliver(recipe)
        assert desk.deliver(replace(recipe, encoding=replace(encoding, rate=near))).files


def test_flac_holds_no_floating_point(desk):
    with pytest.raises(CannotWrite, match="24 bits"):
        desk.deliver(MixRecipe(id="r", encoding=Encoding(kind="flac", bits=32)))


@pytest.mark.parametrize(
    "recipe",
    [
        MixRecipe(id="r", name="Mix", place="deep/down/mix", loud=Loud(aim="peak", ceiling=-1.0)),
        StemsRecipe(id="r", name="Stems", scope=Scope(scene="sc1")),
        TrimmedRecipe(id="r", name="Pieces", scope=Scope(scene="sc1")),
        DataRecipe(id="r", name="Data", place="some/data", forms=ALL_FORMS),
    ],
    ids=lambda recipe: recipe.name,
)
@pytest.mark.parametrize("share", [0.0, 0.5, 0.97])
def test_what_is_stopped_leaves_nothing(desk, recipe, share):
    with pytest.raises(Cancelled):
        desk.deliver(recipe, going=lambda done: done < share)
    assert not list(desk.folder.iterdir())


def test_a_file_of_an_earlier_delivery_is_replaced_and_any_other_is_not(desk):
    recipe = MixRecipe(id="r", name="Mix", scope=night(desk.project, last=3))
    desk.deliver(recipe)
    desk.deliver(recipe)
    mix = desk.folder / "Mix.wav"
    before = mix.read_bytes()
    with pytest.raises(CannotWrite, match="already"):
        desk.deliver(replace(recipe, id="other"))
    mix.write_bytes(before + b"edited")
    with pytest.raises(CannotWrite, match="already"):
        desk.deliver(recipe)
    assert mix.read_bytes() == before + b"edited"
    desk.deliver(recipe, over=("Mix.wav",))
    assert mix.read_bytes() == before


def test_a_damaged_list_of_earlier_deliveries_lets_nothing_be_replaced(desk):
    recipe = MixRecipe(id="r", name="Mix", scope=night(desk.project, last=3))
    desk.deliver(recipe)
    desk.folder.with_name("delivered.json").write_bytes(b'{"/x": 3}\xff')
    with pytest.raises(CannotWrite, match="already"):
        desk.deliver(recipe)


def test_nothing_leads_out_of_the_folder_or_over_the_projects_own(desk, tmp_path):
    (tmp_path / "elsewhere").mkdir()
    (desk.folder / "mix").symlink_to(tmp_path / "elsewhere")
    with pytest.raises(CannotWrite, match="out of the folder"):
        desk.deliver(MixRecipe(id="r", place="mix/film"))
    own = next(iter(sound_files(desk.project, desk.file).values()))
    desk.folder = own.parent
    recipe = MixRecipe(id="r", place=own.stem, encoding=Encoding(kind="flac"))
    if own.suffix == ".flac":
        with pytest.raises(CannotWrite, match="in use"):
            desk.deliver(recipe, over=(f"{own.stem}.flac",))
    assert not list((tmp_path / "elsewhere").iterdir())


def test_a_sound_that_cannot_be_had_is_named_before_anything_is_written(desk):
    heard = asked(desk.project, Scope()).plan.voices[0].sound
    gone = replace(desk.project.sound(heard), file="", hash="")
    sounds = tuple(gone if sound.id == gone.id else sound for sound in desk.project.sounds)
    desk.project = replace(desk.project, sounds=sounds)
    desk.sources = SoundSources(desk.project, {}, user_cache())
    with pytest.raises(BadSound, match=gone.label):
        desk.deliver(MixRecipe(id="r", name="Mix"))
    assert not desk.files()
    made = desk.deliver(MixRecipe(id="r", name="Mix"), without_missing=True)
    assert any(gone.label in said for said in made.said)


def test_a_folder_that_takes_nothing_is_said_so(desk):
    (desk.folder / "mix").write_text("a file")
    with pytest.raises(CannotWrite):
        desk.deliver(MixRecipe(id="r", place="mix/film"))
    assert [path.name for path in desk.folder.iterdir()] == ["mix"]


def test_a_silent_film_keeps_its_promises(tmp_path):
    scene = Scene(id="sc", length=2, layers=(Layer(id="l", keyframes=()),))
    project = Project(
        format="cicada-project", version=1, fps=(24, 1), rate=48000, sounds=(), scenes=(scene,)
    )
    sources = SoundSources(project, {}, user_cache())
    for number, recipe in enumerate((
        MixRecipe(id="r", name="Mix", loud=Loud(aim="loudness", target=-16.0, ceiling=-1.0)),
        StemsRecipe(id="r", name="Stems"),
        TrimmedRecipe(id="r", name="Pieces"),
        DataRecipe(id="r", name="Data", forms=ALL_FORMS),
    )):  # fmt: skip
        made = deliver(
            project, tmp_path / "film.cicada", prepared(project, recipe), tmp_path, sources,
            earlier=Earlier(tmp_path / f"{number}.json"),
        )  # fmt: skip
        assert not made.missed
    assert not soundfile.read(tmp_path / "Mix.wav")[0].any()


def test_files_are_as_others_may_read_them(desk):
    os.umask(mask := os.umask(0o022))
    file = desk.deliver(MixRecipe(id="r", name="Mix", scope=night(desk.project, last=3))).files[0]
    assert (desk.folder / file.name).stat().st_mode & 0o777 == 0o666 & ~mask
    data = (desk.folder / file.name).read_bytes()
    assert struct.unpack("<I", data[4:8])[0] == len(data) - 8
