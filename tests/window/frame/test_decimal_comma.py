"""A machine where numbers have a comma: what is typed takes it, and files hold points."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from cicada.core.keyframe_edits import PlaceClip
from cicada.store.projectfile import load, save

HERE = Path(__file__).parents[3]
AT_WORK = """
import locale, sys
from pathlib import Path
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from cicada.core.editing import Cell
from cicada.media.cache import user_cache
from cicada.window.app import make_application, make_window

def main():
    make_application()
    assert locale.localeconv()["decimal_point"] == ","
    window = make_window(user_cache())
    window.document.open(Path(sys.argv[1]))
    window.show()
    window.session.choose(Cell("l1", 0))
    field = window.card.clip.controls["level"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "50,5 %")
    QTest.keyClick(field, Qt.Key.Key_Return)
    print(field.text())
    assert window.files.save()
    window.shut_down()

if __name__ == "__main__":
    main()
"""


def test_a_decimal_comma_is_typed_and_shown_and_never_written(demo, tmp_path):
    if not Path("/usr/share/i18n/locales/de_DE").exists() or not shutil.which("localedef"):
        pytest.skip("no other locale can be made here (package locales)")
    made = ["localedef", "-i", "de_DE", "-f", "UTF-8", str(tmp_path / "de_DE.UTF-8")]
    subprocess.run(made, check=True, capture_output=True)
    shutil.copytree(demo.parent, tmp_path / "film")
    file = tmp_path / "film" / demo.name
    save(PlaceClip(layer="l1", frame=0, sound="s1").apply(load(file)), file)
    (tmp_path / "at_work.py").write_text(AT_WORK)
    environment = {
        **os.environ, "LOCPATH": str(tmp_path), "LC_ALL": "de_DE.UTF-8", "PYTHONPATH": str(HERE),
        "CICADA_DATA": str(tmp_path / "data"), "QT_QPA_PLATFORM": "offscreen",
    }  # fmt: skip
    done = subprocess.run(
        [sys.executable, str(tmp_path / "at_work.py"), str(file)], check=False, timeout=60,
        capture_output=True, text=True, env=environment,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("50,5 %")
    keyframe = next(k for k in load(file).scenes[0].layer("l1").keyframes if k.frame == 0)
    assert keyframe.level == 0.505
