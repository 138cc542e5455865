"""A short part of the long runs on damaged files (``make fuzz``)."""

from tests import fuzz


def test_damaged_and_wicked_files_are_taken_or_refused():
    assert not fuzz.run(300, seed=3)


def test_what_goes_wrong_is_found(monkeypatch, tmp_path):
    good = tmp_path / "good"
    for folder in ("good", "cases", "outside"):
        (tmp_path / folder).mkdir()
    (good / "run.json").write_text('{"passes": 2}')

    def careless(path, good, dice):
        path.parent.with_name("elsewhere").write_text("outside")

    def mistaken(path, good, dice):
        raise KeyError("frame")

    monkeypatch.setattr(fuzz, "KINDS", [("run", "run.json", careless)])
    assert "wrote ['elsewhere', 'film'] outside" in fuzz.attempt(good, 0, 1)
    monkeypatch.setattr(fuzz, "KINDS", [("run", "run.json", mistaken)])
    assert "KeyError" in fuzz.attempt(good, 0, 1)


def test_a_process_that_dies_or_hangs_is_that_of_its_file(monkeypatch):
    def results(words):
        process = fuzz.subprocess.Popen([fuzz.sys.executable, "-c", words], stdout=-1, stderr=-1)
        found = list(fuzz._results(process, 5, 9))
        process.kill()
        process.communicate()
        return found

    says = "import json, os, time; print(json.dumps({'begins': 6}), flush=True); "
    ((number, fault),) = results(says + "os._exit(3)")
    assert number == 6
    assert fault.startswith("ended with 3")
    monkeypatch.setattr(fuzz, "SECONDS", 0.2)
    assert results(says + "time.sleep(60)") == [(6, "hangs")]
