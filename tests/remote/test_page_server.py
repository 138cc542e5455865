"""A folder served to browsers of this machine: what is in it, and nothing else."""

import http.client
import signal
import subprocess
import sys
import threading
import urllib.request

import pytest

from cicada.cli.main import main
from cicada.remote.page_server import PageServer


@pytest.fixture
def served(tmp_path):
    folder = tmp_path / "page"
    (folder / "sounds").mkdir(parents=True)
    (folder / "index.html").write_text("the page")
    (folder / "film.json").write_text("{}")
    (folder / "sounds/50 % #1.opus").write_bytes(b"sound")
    (folder / ".hidden").write_text("hidden")
    (tmp_path / "secret.txt").write_text("secret")
    (folder / "out").symlink_to(tmp_path / "secret.txt")
    (folder / "up").symlink_to(tmp_path)
    server = PageServer(folder)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield server
    server.shutdown()
    server.server_close()
    thread.join(5)


def asked(server, path, host="127.0.0.1", method="GET"):
    line = http.client.HTTPConnection("127.0.0.1", server.server_port, timeout=5)
    line.request(method, path, headers={"Host": f"{host}:{server.server_port}"})
    answer = line.getresponse()
    found = answer.status, answer.getheader("Content-Type"), answer.read()
    line.close()
    return found


@pytest.mark.parametrize(("path", "kind", "body"), [
    ("/", "text/html; charset=utf-8", b"the page"),
    ("/index.html?again", "text/html; charset=utf-8", b"the page"),
    ("/film.json", "application/json", b"{}"),
    ("/sounds/50%20%25%20%231.opus", "audio/ogg", b"sound"),
])  # fmt: skip
def test_files_are_given_as_what_they_are(served, path, kind, body):
    assert asked(served, path) == (200, kind, body)


@pytest.mark.parametrize("path", [
    "/nothing", "/sounds", "/sounds/", "/../secret.txt", "/%2e%2e/secret.txt", "/out",
    "/up/secret.txt", "/.hidden", "/%2ehidden", "/sounds/../.hidden", "/%00", "/" + "a" * 5000,
    "//secret.txt", "/..%2fsecret.txt",
])  # fmt: skip
def test_nothing_else_is_given(served, path):
    status, _, body = asked(served, path)
    assert status in (404, 414)
    assert b"secret" not in body.replace(path.encode(), b"")


def test_a_page_of_another_name_is_given_nothing(served):
    assert asked(served, "/", host="elsewhere.example")[0] == 404
    assert asked(served, "/", host="localhost")[0] == 200


def test_nothing_is_taken(served):
    assert asked(served, "/", method="POST")[0] == 501


def test_the_command_serves_until_it_is_ended(served, tmp_path):
    process = subprocess.Popen(
        [sys.executable, "-m", "cicada", "serve", str(tmp_path / "page")],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    address = process.stdout.readline().split()[0]
    with urllib.request.urlopen(address, timeout=10) as answer:
        assert answer.read() == b"the page"
    process.send_signal(signal.SIGINT)
    process.communicate(timeout=20)
    assert process.returncode == 130


@pytest.mark.parametrize(("words", "said"), [
    (["gone"], "is no folder"),
    (["empty"], "has no index.html"),
    (["page", "--port", "70000"], "no port 70000"),
    (["page", "--port", "TAKEN"], "cannot be had"),
])  # fmt: skip
def test_what_cannot_be_served_is_said(served, tmp_path, monkeypatch, capsys, words, said):
    (tmp_path / "empty").mkdir()
    monkeypatch.chdir(tmp_path)
    given = [str(served.server_port) if word == "TAKEN" else word for word in words]
    assert main(["serve", *given]) == 2
    assert said in capsys.readouterr().err
