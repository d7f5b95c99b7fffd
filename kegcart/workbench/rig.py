"""A server with data of its own and a headless Chromium: for browser tests, measurements and screenshots."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic_core import from_json

if TYPE_CHECKING:
    from playwright.sync_api import Browser, Playwright

ROOT = Path(__file__).parents[2]
CHROMIUM_NAMES = ("chromium-headless-shell", "chromium", "chromium-browser", "google-chrome", "chrome")
CHROMIUM_FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


def launch_chromium(playwright: "Playwright") -> "Browser":
    """The system's Chromium, headless. Errors: RuntimeError with the command that installs it."""
    executable = next((path for name in CHROMIUM_NAMES if (path := shutil.which(name))), None)
    if executable is None:
        raise RuntimeError("Chromium is missing: install it, for instance with `apt-get install chromium`")
    return playwright.chromium.launch(executable_path=executable, args=CHROMIUM_FLAGS)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@cache
def demo_data() -> "tempfile.TemporaryDirectory[str]":
    """A folder with the demo builds as they ship, made once and copied for each server."""
    folder = tempfile.TemporaryDirectory()
    environment = {**os.environ, "KEGCART_DATA": folder.name}
    subprocess.run([sys.executable, "manage.py", "prepare_data"], cwd=ROOT, env=environment, check=True)
    return folder


class Server:
    """The server as users run it, with data of its own."""

    def __init__(self, folder: Path | None = None) -> None:
        self.made = tempfile.TemporaryDirectory() if folder is None else None
        self.folder_path = Path(self.made.name) if self.made else folder or Path()
        shutil.copytree(demo_data().name, self.folder_path, dirs_exist_ok=True)
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.environment = {**os.environ, "KEGCART_DATA": str(self.folder_path)}
        self.process: subprocess.Popen[bytes] | None = None
        self.revisions: dict[str, int] = {}
        self.start()
        self.demos: dict[str, str] = {d["demo"]: d["id"] for d in self.get("/api/designs")["builds"]}

    def start(self) -> None:
        command = ["-m", "kegcart.site.server", "--port", str(self.port)]
        self.process = subprocess.Popen([sys.executable, *command], cwd=ROOT, env=self.environment, stderr=subprocess.DEVNULL)
        for _ in range(600):
            try:
                self.get("/api/reference")
                return
            except (urllib.error.URLError, ConnectionError):
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def revive(self) -> None:
        """Start it where it has ended."""
        if self.process and self.process.poll() is not None:
            self.start()

    def kill(self) -> None:
        assert self.process
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        self.kill()
        if self.made:
            self.made.cleanup()

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.url + path, timeout=10) as answer:
            return from_json(answer.read())

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return from_json(self.raw(method, path, body))

    def raw(self, method: str, path: str, body: Any) -> bytes:
        headers = {"Content-Type": "application/json"}
        request = urllib.request.Request(self.url + path, json.dumps(body).encode(), headers, method=method)
        with urllib.request.urlopen(request, timeout=10) as answer:
            return bytes(answer.read())

    def demo(self, name: str) -> str:
        """Id of a fresh copy of a demo build, so that tests do not meet."""
        return str(self.send("POST", f"/api/designs/{self.demos[name]}/copy")["id"])

    def original(self, name: str) -> str:
        """Id of a demo build itself, which alone has its cells from the rack."""
        return self.demos[name]

    def begin_run(self, design: str, steps: list[str], **stand_ins: Any) -> str:
        """Begin a load test of a design with stand-ins for all instruments; its id. stand_ins: seed, speed, fault."""
        there = self.send("POST", "/api/bench/stand-ins", {"design_id": design, **stand_ins})["stand_ins"]
        for one in self.send("POST", "/api/bench/find", {"addresses": [s["address"] for s in there]})["found"]:
            self.send("POST", "/api/bench/instruments", {**one, "name": one["name"].split(",")[1]})
        names = [one["name"] for one in self.get("/api/bench/instruments")["own"]]
        return str(self.send("POST", f"/api/designs/{design}/runs", {"steps": steps, "instruments": names})["id"])

    def end_run(self, run: str) -> None:
        """End a load test that runs, and its stand-ins."""
        for command in ("stop", "finish"):
            self.send("POST", f"/api/runs/{run}/command", {"command": command})
        self.send("DELETE", "/api/bench/stand-ins")

    def fill_shelf(self, count: int) -> None:
        """Put so many builds on the shelf, each with a name of its own."""
        made = (
            "import json, django; django.setup(); from kegcart.workbench import services as s; from django.db import transaction\n"
            "d = json.loads((s.DEMO_DIR / 'tidewater.json').read_text())\n"
            f"with transaction.atomic():\n    for n in range({count}): s.create(d | {{'name': f'Tidewater {{n}}'}}, 'Made')\n"
        )
        environment = {**self.environment, "DJANGO_SETTINGS_MODULE": "kegcart.site.settings"}
        subprocess.run([sys.executable, "-c", made], cwd=ROOT, env=environment, check=True)

    def remove(self, design: str) -> None:
        """Take a design off the shelf, as another window does."""
        urllib.request.urlopen(urllib.request.Request(f"{self.url}/api/designs/{design}", method="DELETE"), timeout=10).close()

    def put_at(self, design: str, pointer: str, value: Any) -> int:
        """Change one value on the revision that the last answer gave, as the screen does; returns the bytes of the answer."""
        body = {"base_revision": self.revisions.get(design, 1), "patch": [{"op": "replace", "path": pointer, "value": value}]}
        answer = self.raw("PATCH", f"/api/designs/{design}?answer=changes", body)
        self.revisions[design] = from_json(answer)["revision"]
        return len(answer)

    def put(self, design: str, pointer: str, value: Any) -> dict[str, Any]:
        now = self.get(f"/api/designs/{design}")["revision"]
        body = {"base_revision": now, "patch": [{"op": "replace", "path": pointer, "value": value}]}
        return dict(self.send("PATCH", f"/api/designs/{design}", body))
