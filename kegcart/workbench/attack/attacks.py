"""What is done to a running server, and what it must withstand. Each attack gives a row of what was promised and found."""

import contextlib
import http.client
import json
import os
import random
import shutil
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote

from pydantic_core import from_json

from kegcart.workbench.attack.fuzz import Fuzz
from kegcart.workbench.attack.hostile import files
from kegcart.workbench.rig import ROOT, Server
from kegcart.workbench.services import DEMO_DIR

SLOWEST_S = 2.0
FLAT_MB = 20.0
ROUNDS = 3
SHELF_S = 0.5
MOUNT = "size=28m"
ROOM = 400_000
"""What is free when typing begins, bytes."""


@dataclass(frozen=True, slots=True)
class Row:
    """One line of the table."""

    what: str
    promised: str
    found: str
    holds: bool

    def __str__(self) -> str:
        return f"{self.what:<44}{self.promised:<34}{self.found:<60}{'holds' if self.holds else 'FAILS'}"


class Wire:
    """A server as the target of requests over HTTP, with the slowest of them and the memory after each."""

    def __init__(self, server: Server) -> None:
        self.server = server
        self.slowest: tuple[float, str] = (0.0, "")
        self.memory_mb: list[float] = []
        self.connection = http.client.HTTPConnection("127.0.0.1", server.port, timeout=60)

    def send(self, method: str, path: str, body: bytes | None) -> tuple[int, bytes]:
        begin = time.perf_counter()
        for again in (False, True):
            try:
                self.connection.request(
                    method, quote(path, safe="/?=&%+,;:@!$*()~[]'"), body, {"Content-Type": "application/json"}
                )
                answer = self.connection.getresponse()
                said = answer.read()
                break
            except (http.client.HTTPException, ConnectionError):
                self.connection.close()
                if again:
                    raise
        self.slowest = max(self.slowest, (time.perf_counter() - begin, f"{method} {path[:60]}"))
        self.memory_mb.append(self.memory())
        return answer.status, said

    def memory(self) -> float:
        """Resident memory of the server's own process, MB; 0 where the system does not tell."""
        assert self.server.process
        with contextlib.suppress(OSError):
            pages = int(Path(f"/proc/{self.server.process.pid}/statm").read_text().split()[1])
            return pages * os.sysconf("SC_PAGE_SIZE") / 1e6
        return 0.0

    def design(self, name: str) -> str:
        return str(self.server.send("POST", "/api/designs/import", from_json((DEMO_DIR / f"{name}.json").read_bytes()))["id"])

    def standing(self, design: str) -> tuple[int, Any]:
        found = self.server.get(f"/api/designs/{design}")
        return found["revision"], found["document"]


@contextmanager
def served(folder: Path | None = None) -> Iterator[Server]:
    server = Server(folder)
    try:
        yield server
    finally:
        server.stop()


def kills(patches: int, times: int, seed: int) -> Row:
    """Patches acknowledged while the server is killed again and again: none is lost."""
    chance = random.Random(seed)
    with served() as server:
        design = server.demo("lantern-lane")
        acknowledged: set[str] = set()
        ended = threading.Event()

        def type_on() -> None:
            n = 0
            revision = 1
            while len(acknowledged) < patches:
                note = f"note {n}"
                body = {"base_revision": revision, "patch": [{"op": "replace", "path": "/notes", "value": note}], "act": f"a{n}"}
                try:
                    revision = server.send("PATCH", f"/api/designs/{design}", body)["revision"]
                except OSError:  # away, or the answer was lost: it is sent again
                    with contextlib.suppress(OSError):
                        revision = server.get(f"/api/designs/{design}")["revision"]
                    time.sleep(0.05)
                    continue
                acknowledged.add(note)
                n += 1
            ended.set()

        typing = threading.Thread(target=type_on)
        typing.start()
        killed = 0
        while not ended.is_set() and (killed < times or not ended.wait(0)):
            before = len(acknowledged)
            if killed < times:
                while len(acknowledged) - before < chance.randint(0, max(1, patches // times)) and not ended.wait(0.002):
                    pass
                server.kill()
                killed += 1
                server.start()
            else:
                ended.wait(0.1)
        typing.join()
        stored = notes_of(server.folder_path / "kegcart.sqlite3", design)
        lost, doubled = acknowledged - set(stored), len(stored) - len(set(stored))
    found = f"{len(acknowledged)} acknowledged, {killed} kills, {len(lost)} lost, {doubled} done twice"
    return Row("kill -9 while typing", "0 lost, 0 twice", found, not lost and not doubled and killed == times)


def notes_of(database: Path, design: str) -> list[str]:
    """Every note that the history of a design holds."""
    with contextlib.closing(sqlite3.connect(database)) as connection:
        rows = connection.execute(
            "SELECT r.patch, s.text, r.steps FROM workbench_revision r LEFT JOIN workbench_snapshot s ON s.revision_id = r.id"
            " WHERE r.design_id = ? AND r.parent_id IS NOT NULL",
            [design],
        ).fetchall()
    out = []
    for patch, text, steps in rows:
        out.append(str(json.loads(patch)[0]["value"]) if steps else str(json.loads(text)["notes"]))
    return out


def fuzzed(cases: int, seed: int) -> list[Row]:
    """Requests from the description, patches and spoiled documents: no 500, none slow, memory flat."""
    with served() as server:
        wire = Wire(server)
        fuzz, description = Fuzz(wire, seed), server.get("/api/openapi.json")
        ends = []
        for _ in range(ROUNDS):  # the first is the warm-up: it fills what is kept of assessments
            fuzz.everything(cases // ROUNDS + 1, description)
            fuzz.number += 10
            ends.append(statistics.median(wire.memory_mb[-200:]))
        grown = ends[-1] - ends[0]
    wrong = f"{sum(fuzz.seen.values())} calls, {len(fuzz.wrong)} otherwise" + "".join(f"\n    {w}" for w in fuzz.wrong[:5])
    slow = f"slowest {wire.slowest[0]:.2f} s ({wire.slowest[1]})"
    return [
        Row("fuzzed calls", "no 500, every refusal with reason", wrong, not fuzz.wrong),
        Row("  their time", f"none over {SLOWEST_S:g} s", slow, wire.slowest[0] <= SLOWEST_S),
        Row("  memory, after the first third", f"grows by {FLAT_MB:g} MB at most", f"{grown:+.1f} MB", grown <= FLAT_MB),
    ]


def hostile() -> list[Row]:
    """Hostile files, one after the other."""
    wrong = []
    with served() as server:
        wire = Wire(server)
        given = list(files())
        for what, path, body, right in given:
            status, said = wire.send("POST", path, body)
            reason = status == 200 or from_json(said).get("message")
            if status not in right or not reason:
                wrong.append(f"{what}: {status} {said[:100]!r}")
        answers = server.get("/api/reference") is not None
    found = f"{len(given)} files, {len(wrong)} otherwise {wrong or ''}"
    slow = f"slowest {wire.slowest[0]:.2f} s"
    return [
        Row("hostile files", "refused with a reason", found, not wrong and answers),
        Row("  their time", f"none over {SLOWEST_S:g} s", slow, wire.slowest[0] <= SLOWEST_S),
    ]


def full_disk() -> Row:
    """A disk that fills up while one types, and has room again: refused as what it is, nothing stored is lost."""
    what, promised = "disk full on a small mount", "told so; all stored stays"
    folder = Path(tempfile.mkdtemp())
    mounted = (
        shutil.which("mount")
        and subprocess.run(
            ["mount", "-t", "tmpfs", "-o", MOUNT, "tmpfs", str(folder)], capture_output=True, check=False
        ).returncode
        == 0
    )
    if not mounted:
        folder.rmdir()
        return Row(what, promised, "not possible here: no right to mount", True)
    try:
        with served(folder / "data") as server:
            wire = Wire(server)
            design = wire.design("hollow-oak")
            ballast = (folder / "ballast").open("wb")
            with contextlib.suppress(OSError):
                while True:
                    ballast.write(b"x" * 4096)
                    ballast.flush()
            os.truncate(folder / "ballast", (folder / "ballast").stat().st_size - ROOM)
            kinds, stored, revision = set(), [], 1
            for n in range(80):
                body = {"base_revision": revision, "patch": [{"op": "replace", "path": "/notes", "value": f"{n} " * 300}]}
                status, said = wire.send("PATCH", f"/api/designs/{design}", json.dumps(body).encode())
                told = from_json(said)
                if status == 200:
                    revision = told["revision"]
                    stored.append(f"{n} " * 300)
                else:
                    kinds.add(told["kind"])
            reads = wire.send("GET", f"/api/designs/{design}", None)[0] == 200
            with contextlib.suppress(OSError):
                ballast.close()
            (folder / "ballast").unlink()
            body = {"base_revision": revision, "patch": [{"op": "replace", "path": "/notes", "value": "again"}]}
            again = wire.send("PATCH", f"/api/designs/{design}", json.dumps(body).encode())[0] == 200
            kept = set(notes_of(folder / "data" / "kegcart.sqlite3", design))
            lost = [note for note in stored if note not in kept]
        found = f"told {sorted(kinds)}, reading {reads}, writes again {again}, {len(lost)} of {len(stored)} lost"
        return Row(what, promised, found, kinds == {"cannot-write"} and reads and again and not lost)
    finally:
        subprocess.run(["umount", "-l", str(folder)], capture_output=True, check=False)
        with contextlib.suppress(OSError):
            folder.rmdir()


def many_designs(count: int) -> Row:
    """A shelf with so many builds answers soon."""
    with served() as server:
        server.fill_shelf(count)
        server.get("/api/designs")  # the cards of a page are worked out once
        times = []
        for query in ("", "?order=name", "?order=verdict", "?search=tidewater 7", "?offset=48") * 3:
            begin = time.perf_counter()
            server.get(f"/api/designs{query}".replace(" ", "%20"))
            times.append(time.perf_counter() - begin)
        total = server.get("/api/designs?limit=1")["count"]
    found = f"{total} builds, median {statistics.median(times):.3f} s, worst {max(times):.3f} s"
    return Row("a full shelf", f"median within {SHELF_S:g} s", found, statistics.median(times) <= SHELF_S and total >= count)


def two_tabs() -> Row:
    """Two windows on one build, and answers lost on the way, in a real browser."""
    labels = [f"tests.browser.test_nothing_lost.{name}" for name in ("TwoTabs", "LostAnswer", "StorageTest", "ReloadTest")]
    done = subprocess.run(
        [sys.executable, "manage.py", "test", *labels, "--noinput"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    last = done.stdout.strip().splitlines()[-1:] or ["nothing"]
    return Row("two windows, lost answers, storage, reload", "all pass", last[0], done.returncode == 0)
