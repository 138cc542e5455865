"""What all tests share: a cache and data folder of their own, no leaks, and hypothesis profiles."""

import os
import signal
import sys
import threading

import pytest
from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
SLOW = [HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much]
settings.register_profile("dev", deadline=None, max_examples=20, suppress_health_check=SLOW)
settings.register_profile(
    "ci", deadline=None, max_examples=20, derandomize=True, suppress_health_check=SLOW
)
settings.register_profile("deep", deadline=None, max_examples=5000, suppress_health_check=SLOW)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "dev"))


# What takes longest begins first, or one process works on when the others are done.
LONG = ("playback/test_soak", "core/test_planner", "journeys/test_hands", "core/test_any_plan",
        "core/test_state", "journeys/test_nothing_to_act_on")  # fmt: skip


def pytest_collection_modifyitems(items):
    def later(item):
        return next((i for i, name in enumerate(LONG) if name in item.nodeid), len(LONG))

    items.sort(key=later)


@pytest.fixture(scope="session", autouse=True)
def interrupts():
    """Ctrl+C reaches what the tests start, also where they run in the background themselves."""
    signal.signal(signal.SIGINT, signal.default_int_handler)


@pytest.fixture(scope="session", autouse=True)
def own_folders(tmp_path_factory):
    """Neither the user's cache nor the user's data is touched."""
    folder = tmp_path_factory.mktemp("home")
    old = {name: os.environ.get(name) for name in ("CICADA_CACHE", "CICADA_DATA")}
    os.environ["CICADA_CACHE"] = str(folder / "cache")
    os.environ["CICADA_DATA"] = str(folder / "data")
    yield folder
    for name, value in old.items():
        if value is None:
            os.environ.pop(name, None)
        else:
            os.environ[name] = value


@pytest.fixture(autouse=True)
def no_thread_survives():
    before = set(threading.enumerate())
    yield
    left = [t for t in threading.enumerate() if t not in before and t.is_alive() and not t.daemon]
    for thread in left:
        thread.join(2)
    assert not [t for t in left if t.is_alive() and "QueueManager" not in t.name]


@pytest.fixture(autouse=True)
def one_application():
    """Pictures are decoded with the suite's own application: a lesser one would bar the windows."""
    yield
    gui = sys.modules.get("PySide6.QtGui")
    made = gui.QGuiApplication.instance() if gui else None
    assert made is None or type(made) is not gui.QGuiApplication, "ask for qapp"


@pytest.fixture(scope="session")
def whole_demo(own_folders, tmp_path_factory):
    """The demo project, made once for all that test at the same time."""
    import shutil

    from cicada.demo.harbour import make_demo
    from cicada.disk.locking import locked
    from cicada.media.cache import user_cache
    from cicada.media.ingest import ingest
    from cicada.store.projectfile import load
    from cicada.store.sounds_folder import sound_files

    shared = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent
    with locked(shared, patience=120):
        if not (shared / "demo").exists():
            made = make_demo(shared / "making")
            made.parent.rename(shared / "demo")
    shutil.copytree(shared / "demo", own_folders / "demo")
    file = own_folders / "demo" / "harbour.cicada"
    project = load(file)
    for path in sound_files(project, file).values():
        ingest(path, project.rate, user_cache())
    return file


@pytest.fixture(scope="session")
def demo(whole_demo):
    """The demo without its storm: three scenes, eleven sounds, and nothing that answers."""
    import shutil

    from msgspec.structs import replace

    from cicada.store.projectfile import load, save

    folder = whole_demo.parent.with_name("calm")
    shutil.copytree(whole_demo.parent, folder)
    shutil.rmtree(folder / "harbour.pictures" / "storm")
    project, calm = load(whole_demo), folder / whole_demo.name
    nothing = dict.fromkeys(
        ("values", "blends", "pools", "playlists", "pads", "runs", "recipes"), ()
    )
    sounds = tuple(sound for sound in project.sounds if sound.folder != "Storm")
    for sound in set(project.sounds) - set(sounds):
        (folder / sound.file).unlink()
    save(replace(project, scenes=project.scenes[:3], sounds=sounds, **nothing), calm)
    return calm
