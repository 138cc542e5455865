"""Debian's Chromium, without a screen, in a page of a folder that Cicada serves: it is asked."""

import json
import os
import queue
import shutil
import subprocess
import threading
from contextlib import suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from cicada.deliver.bundle import player_script
from cicada.remote.page_server import PageServer

# So that it looks for nothing outside this machine.
QUIET = (
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update",
    "--autoplay-policy=no-user-gesture-required",
)  # fmt: skip
PAGE = """<!doctype html><meta charset="utf-8"><script src="cicada-player.js"></script><script>
const ASKING = "%s";
const bytes = (text) => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
const samples = (text) => new Float32Array(bytes(text).buffer);
const text = (samples) => {
  const all = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  let found = "";
  for (let i = 0; i < all.length; i += 32768) {
    found += String.fromCharCode(...all.subarray(i, i + 32768));
  }
  return btoa(found);
};
(async () => {
  for (;;) {
    const asked = await (await fetch(ASKING + "next")).json();
    if (asked === null) continue;
    let answer;
    try {
      const f = new Function("data", "return (async () => {" + asked.script + "})();");
      answer = { found: await f(asked.data) };
    } catch (error) {
      answer = { error: String(error && error.stack || error) };
    }
    await fetch(ASKING, { method: "POST", body: JSON.stringify(answer) });
  }
})();
</script>"""


class Browser:
    """A page in which ``ask`` runs a script, as the body of an async function of ``data``.

    It is served from ``folder``, with ``cicada-player.js`` beside it.
    """

    def __init__(self, folder, program):
        self.folder = folder
        self._asked, self._answers = queue.Queue(), queue.Queue()
        self._asking = ThreadingHTTPServer(("127.0.0.1", 0), self._handler())
        self._asking.daemon_threads = True
        self._pages = PageServer(folder)
        address = f"http://127.0.0.1:{self._asking.server_port}/"
        (folder / "index.html").write_text(PAGE % address)
        (folder / "cicada-player.js").write_text(player_script(), "utf-8")
        self._threads = [
            threading.Thread(target=server.serve_forever, daemon=True)
            for server in (self._asking, self._pages)
        ]
        for thread in self._threads:
            thread.start()
        self._process = subprocess.Popen(
            [program, "--headless", *QUIET, f"--user-data-dir={folder}/.profile",
             self._pages.address],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def _handler(self):
        asked, answers = self._asked, self._answers

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self):
                try:
                    self._give(json.dumps(asked.get(timeout=5)).encode())
                except queue.Empty:
                    self._give(b"null")

            def do_POST(self):
                answers.put(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
                self._give(b"")

            def _give(self, body):
                self.send_response(200)
                self.send_header("Access-Control-Allow-Origin", "*")
                self.send_header("Content-Length", str(len(body)))
                self.end_headers()
                # The browser may have been ended meanwhile.
                with suppress(OSError):
                    self.wfile.write(body)

            def log_message(self, *_):
                pass

        return Handler

    def ask(self, script, data=None, seconds=120):
        self._asked.put({"script": script, "data": data})
        answer = self._answers.get(timeout=seconds)
        assert "error" not in answer, answer["error"]
        return answer.get("found")

    def close(self):
        self._process.terminate()
        self._process.wait(20)
        for server, thread in zip((self._asking, self._pages), self._threads, strict=True):
            server.shutdown()
            server.server_close()
            thread.join(5)


@pytest.fixture(scope="module")
def browser(tmp_path_factory):
    program = shutil.which("chromium")
    if program is None:
        if os.environ.get("CI"):
            pytest.fail("Chromium is not installed")
        pytest.skip("Chromium is not installed: packaging/system-packages.sh test")
    made = Browser(tmp_path_factory.mktemp("served"), program)
    yield made
    made.close()
