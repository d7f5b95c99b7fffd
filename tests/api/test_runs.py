"""Load tests that are run on a real server: every reading that was told is kept once, whatever breaks; what cannot be done is said."""

import csv
import io
import json
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from contextlib import suppress
from itertools import pairwise
from typing import Any, ClassVar
from unittest import TestCase

from kegcart.core.assess import assess
from kegcart.core.design import read_design
from kegcart.standins.bench import StandInBench, instruments_of
from kegcart.standins.servers import StandInServer, serve
from kegcart.workbench.rig import Server
from kegcart.workbench.running.beside import Beside
from kegcart.workbench.workers import BusyError

SPEED = 120.0
KEPT_WITHIN_S = 4.0
"""What is read is on disk each second; a slow machine takes a little longer."""


class Listener:
    """What a server tells of a run, as a screen hears it, also after it was away."""

    def __init__(self, server: Server, run: str) -> None:
        self.server, self.run, self.ended = server, run, False
        self.state: dict[str, Any] = {}
        self.events: list[dict[str, Any]] = []
        self.readings: list[tuple[float, float, dict[str, float]]] = []
        threading.Thread(target=self.listen, daemon=True).start()

    def listen(self) -> None:
        while not self.ended:
            try:
                with urllib.request.urlopen(f"{self.server.url}/api/runs/{self.run}/live", timeout=20) as lines:
                    kind = ""
                    for line in lines:
                        name, _, said = line.decode().strip().partition(": ")
                        kind = said if name == "event" else kind
                        if name == "data":
                            self.hear(kind, json.loads(said))
            except Exception:  # the server is away
                time.sleep(0.1)

    def hear(self, kind: str, said: Any) -> None:
        if kind == "state":
            self.state = said
        elif kind == "event":
            self.events.append(said)
        elif kind == "readings":
            self.readings += [(time.monotonic(), batch["s"], batch["v"]) for batch in said]
        elif kind == "over":
            self.ended = True


class BesideATest(TestCase):
    """What is worked out while a test runs."""

    def test_what_is_asked_for_while_one_answer_is_worked_out_is_worked_out_after_it(self) -> None:
        begun: list[Future[bytes]] = []
        told: list[int] = []

        def begin() -> Future[bytes]:
            begun.append(Future())
            return begun[-1]

        beside = Beside(begin, told.append)
        for _ in range(3):
            beside.ask()
        beside.collect()
        self.assertEqual((len(begun), told), (1, []), "one at a time")
        begun[0].set_result(b"1")
        beside.collect()
        self.assertEqual((len(begun), told, beside.under_way), (2, [1], True))
        begun[1].set_result(b"2")
        beside.finish()
        self.assertEqual((len(begun), told, beside.under_way), (2, [1, 2], False))

    def test_an_answer_that_cannot_be_had_is_not_told_and_the_next_one_is(self) -> None:
        told: list[int] = []
        begun: list[Future[bytes]] = []
        beside = Beside(lambda: begun.pop() if begun else None, told.append)
        beside.ask()
        self.assertFalse(beside.under_way, "there was nothing to be worked out")
        for error in (BusyError(), ValueError("no such figure")):
            begun.append(Future())
            begun[0].set_exception(error)
            with self.assertLogs("kegcart") if isinstance(error, ValueError) else self.assertNoLogs("kegcart"):
                beside.ask()
                beside.collect()
        begun.append(Future())
        begun[0].set_result(b"7")
        beside.ask()
        beside.collect()
        self.assertEqual(told, [7])


class OnABench(TestCase):
    """A server, and stand-ins that this test works: they are no part of it."""

    server: ClassVar[Server]
    served: ClassVar[list[StandInServer]]
    design: ClassVar[str]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server = Server()
        cls.design = cls.server.demos["lantern-lane"]
        found = assess(read_design(cls.server.get(f"/api/designs/{cls.design}")["document"]))
        cls.bench = StandInBench(found, seed=4, speed=SPEED)
        cls.served = serve(instruments_of(cls.bench))
        asked = {"addresses": [server.address for server in cls.served]}
        cls.found = [f for f in cls.server.send("POST", "/api/bench/find", asked)["found"] if f["address"] in asked["addresses"]]
        for one in cls.found:
            body = {"name": one["name"].split(",")[1], "address": one["address"], "kind": one["kind"]}
            cls.server.send("POST", "/api/bench/instruments", body)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        for server in cls.served:
            server.hang_up()
        super().tearDownClass()

    def refused(self, method: str, path: str, body: Any) -> str:
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.server.send(method, path, body)
        said = json.loads(caught.exception.read())
        self.assertEqual(caught.exception.code, 422, said)
        return str(said["problems"][0]["message"])

    def begin(self, steps: Sequence[str], without: Sequence[str] = (), design: str = "") -> str:
        names = [i["name"] for i in self.get("/api/bench/instruments")["own"]]
        body = {"steps": steps, "instruments": [n for n in names if n not in without], "by_itself": True}
        return str(self.send("POST", f"/api/designs/{design or self.design}/runs", body)["id"])

    def raw(self, path: str, body: bytes | None = None, method: str | None = None) -> bytes:
        """The bytes of an answer. Long work waits for its process, which a machine that is busy begins slowly."""
        request = urllib.request.Request(self.server.url + path, body, {"Content-Type": "application/json"}, method=method)
        try:
            with urllib.request.urlopen(request, timeout=90) as answer:
                return bytes(answer.read())
        except urllib.error.HTTPError as error:
            said = error.read().decode()[:300]
        self.fail(f"{method or 'GET'} {path}: {said}")  # the error itself could not go from one process to another

    def get(self, path: str) -> Any:
        return json.loads(self.raw(path))

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return json.loads(self.raw(path, json.dumps(body).encode(), method))

    def tell(self, run: str, command: str, **more: Any) -> None:
        self.send("POST", f"/api/runs/{run}/command", {"command": command, **more})

    def finish(self, run: str) -> None:
        """End a run however it stands."""
        for command in ("stop", "finish"):
            with suppress(urllib.error.HTTPError):
                self.server.send("POST", f"/api/runs/{run}/command", {"command": command})
        self.until(lambda: (now := self.get(f"/api/runs/{run}")) and not now["live"] and not now["judging"])

    def until(self, holds: Callable[[], Any], said: Callable[[], Any] = lambda: "") -> None:
        end = time.monotonic() + 40
        while not holds():
            self.assertLess(time.monotonic(), end, said())
            time.sleep(0.05)

    def rows(self, run: str) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(self.raw(f"/api/runs/{run}/readings.csv").decode("utf-8-sig"))))


class Runs(OnABench):
    def test_a_test_outlives_a_lost_instrument_and_a_killed_server(self) -> None:
        run = self.begin(("zero", "load-25", "load-50", "load-75"))
        heard = Listener(self.server, run)
        self.until(lambda: heard.state.get("state") == "ready" and heard.readings, lambda: heard.state)
        self.assertIn("finish it first", self.refused("POST", f"/api/designs/{self.design}/runs", {}))
        self.tell(run, "begin")
        self.until(lambda: heard.state["at"] == 1 and heard.state["state"] == "running", lambda: heard.state)
        clamp = next(s for s in self.served if s.stand_in.name == "DC clamp")
        clamp.hang_up()
        self.until(lambda: self.how(heard, "DC clamp") == "lost", lambda: heard.state["instruments"])
        seen = len(heard.readings)
        again = StandInServer(clamp.stand_in, clamp.server_address[1])
        again.start()
        self.served[self.served.index(clamp)] = again
        self.until(lambda: self.how(heard, "DC clamp") == "well", lambda: heard.state["instruments"])
        self.assertTrue(any("posts.v" in v for _, _, v in heard.readings[seen:]))
        self.until(lambda: heard.state["at"] == 2 and heard.state["state"] == "running", lambda: heard.state)
        self.until(lambda: abs(self.bench.shown()["load.w"] - 1000) < 30, self.bench.shown)
        self.bench.speed = 1.0  # so that the step is not over before the server is there again
        said = next(s for _, s, v in reversed(heard.readings) if "posts.v" in v)
        drawn = self.get(f"/api/runs/{run}/chart?points=2000")["traces"]["posts"]["t"]
        self.assertGreaterEqual(drawn[-1], said - 0.002, "what was told is in the chart, also before its second is over")
        time.sleep(KEPT_WITHIN_S)
        self.server.kill()
        killed = time.monotonic()
        told = [(s, v) for at, s, v in heard.readings if at < killed - KEPT_WITHIN_S]
        time.sleep(0.5)
        self.server.start()
        self.until(lambda: any(e["kind"] == "gap" for e in self.get(f"/api/runs/{run}")["events"]))
        self.until(lambda: heard.state["now_s"] > told[-1][0], lambda: heard.state)
        self.assertEqual((heard.state["at"], heard.state["state"]), (2, "running"))
        self.bench.speed = SPEED
        self.until(lambda: heard.state["at"] >= 3, lambda: heard.state)
        self.tell(run, "note", text="the server was away")
        self.until(lambda: heard.state["state"] in ("over", "running") and heard.state["at"] >= 3)
        self.finish(run)
        whole = self.get(f"/api/runs/{run}")
        self.assertEqual([e["data"] for e in whole["events"] if e["kind"] == "note"], [{"text": "the server was away"}])
        self.assertEqual(sum(e["kind"] == "gap" for e in whole["events"]), 1)
        rows = self.rows(run)
        moments = [float(row["time (s)"]) for row in rows]
        self.assertTrue(all(a < b for a, b in pairwise(moments)), "each moment is there once, in order")
        kept = {f"{float(row['time (s)']):.2f} {row['posts (V)']}" for row in rows}

        def was_kept(at_s: float, volts: float) -> bool:
            """Moments are told to the millisecond and kept more finely: they may be rounded apart."""
            return not kept.isdisjoint(f"{at_s + near:.2f} {volts:.10g}" for near in (-0.005, 0, 0.005))

        lost = [s for s, v in told if "posts.v" in v and not was_kept(s, v["posts.v"])]
        self.assertEqual(lost, [], "what was told was kept")
        self.assertGreater(len(told), 100)
        self.assertEqual({s["step"] for s in whole["spans"]} & {"zero", "load-25", "load-50"}, {"zero", "load-25", "load-50"})
        chart = self.get(f"/api/runs/{run}/chart?points=200")["traces"]
        self.assertTrue({"posts", "shunt", "joint", "cell", "load"} <= set(chart))
        self.assertTrue(all(10 < len(c["t"]) <= 200 for c in chart.values()))
        listed = self.get(f"/api/designs/{self.design}/runs")["runs"]
        self.assertIn(run, [r["id"] for r in listed if r["over_at"] and r["state"] == "over"])
        told_of = self.get(f"/api/designs/{self.design}/timeline?kinds=test")["rows"]
        self.assertTrue(any("of 4 steps" in row["text"] and row["remark"] == "the server was away" for row in told_of), told_of)

        self.carried(run)

    def carried(self, run: str) -> None:
        """The archive of a build carries its tests elsewhere, whole."""
        archive = self.raw(f"/api/designs/{self.design}/file")
        made = json.loads(self.raw("/api/designs/import", archive, "POST"))["id"]
        ours = self.get(f"/api/designs/{self.design}/runs")["runs"]
        theirs = self.get(f"/api/designs/{made}/runs")["runs"]
        self.assertEqual([r | {"id": ""} for r in theirs], [r | {"id": ""} for r in ours])
        other = next(t["id"] for o, t in zip(ours, theirs, strict=True) if o["id"] == run)
        self.assertEqual(self.rows(other), self.rows(run))
        whole, again = self.get(f"/api/runs/{run}"), self.get(f"/api/runs/{other}")
        for name in ("plan", "lines", "events", "spans", "end_s"):
            self.assertEqual(again[name], whole[name], name)
        learned = [[(i["key"], i["refused"]) for i in r["judged"]["learned"]] for r in (whole, again)]
        self.assertEqual(learned[0], learned[1])

    def how(self, heard: Listener, name: str) -> str:
        return next((str(i["how"]) for i in heard.state["instruments"] if i["name"] == name), "")

    def test_a_turned_clamp_is_seen_and_read_the_other_way_round(self) -> None:
        shown = self.bench.shown
        self.bench.shown = lambda: shown() | {"clamp.a": -shown()["clamp.a"]}  # type: ignore[method-assign]
        try:
            run = self.begin(("load-50",), without=("thermometer",))
            heard = Listener(self.server, run)
            self.until(lambda: heard.state.get("state") == "ready")
            self.tell(run, "begin")
            self.until(lambda: heard.state["turned"] == ["clamp.a"], lambda: heard.state)
            self.tell(run, "read", channel="air.c", text="77 °F")
            self.until(lambda: any(v.get("air.c") == 25 for _, _, v in heard.readings))
            for channel, text, why in (
                ("air.c", "warm", "number"),
                ("cell.99.v", "3", "no channel"),
                ("clock.s", "3", "no channel"),
            ):
                typed = {"command": "read", "channel": channel, "text": text}
                self.assertIn(why, self.refused("POST", f"/api/runs/{run}/command", typed))
            self.assertIn(
                "only a current", self.refused("POST", f"/api/runs/{run}/command", {"command": "turn", "channel": "air.c"})
            )
            self.tell(run, "turn", channel="clamp.a")
            self.until(lambda: heard.state["turned"] == [], lambda: heard.state)
            self.assertGreater(heard.readings[-1][2].get("clamp.a", 1.0), 0)
        finally:
            self.bench.shown = shown  # type: ignore[method-assign]
            self.finish(run)

    def test_a_server_that_ends_pauses_its_test_and_a_build_that_is_taken_away_ends_it(self) -> None:
        copy = self.server.demo("lantern-lane")
        run = self.begin(("load-25",), design=copy)
        heard = Listener(self.server, run)
        self.until(lambda: heard.state.get("state") == "ready")
        self.tell(run, "begin")
        self.until(lambda: self.bench.load_on)
        self.bench.speed = 1.0
        assert self.server.process
        self.server.process.terminate()
        self.server.process.wait(20)
        self.assertFalse(self.bench.load_on or self.bench.inverter, "nobody watches any more")
        self.server.start()
        self.until(lambda: self.get(f"/api/runs/{run}")["state"] == "paused")
        self.until(lambda: heard.state["state"] == "paused" and heard.readings[-1][0] > time.monotonic() - 1, lambda: heard.state)
        self.bench.speed = SPEED
        self.tell(run, "go on")
        self.until(lambda: self.bench.load_on)
        self.server.remove(copy)
        self.until(lambda: not self.bench.load_on and heard.ended)
        other = self.begin(("standing",))
        self.finish(other)

    def test_what_cannot_be_done_is_said(self) -> None:
        begin = f"/api/designs/{self.design}/runs"
        self.assertIn("'sauna' is no step", self.refused("POST", begin, {"steps": ["sauna"]}))
        self.assertIn("no instrument named 'x'", self.refused("POST", begin, {"instruments": ["x"]}))
        own = {"name": "odd", "address": "localhost:1"}
        put = "/api/bench/instruments"
        self.assertIn("is no address", self.refused("POST", put, own | {"address": "somewhere"}))
        self.assertIn("no kind", self.refused("POST", put, own | {"kind": "toaster"}))
        ask = {"text": "U?", "channels": ["posts.x"], "unit": "V"}
        self.assertIn("'posts.x' is no channel", self.refused("POST", put, own | {"asks": [ask]}))
        self.assertIn("told that", self.refused("POST", put, own | {"acts": {"roof.off": "X"}}))
        self.assertIn(
            "nothing answers at", self.refused("POST", "/api/bench/try", {"design_id": self.design, "address": "localhost:1"})
        )
        tried = {"design_id": self.design, "address": self.found[0]["address"], "kind": "dc"}
        rows = self.send("POST", "/api/bench/try", tried)["tried"]
        self.assertEqual([bool(row["values"]) for row in rows], [True] * 4)
        self.assertIn(
            "answers no number",
            self.send("POST", "/api/bench/try", tried | {"asks": [ask | {"channels": ["load.w"]}]})["tried"][0]["problem"],
        )
        self.send("POST", put, own | {"asks": [ask | {"channels": ["cell.*.v"]}], "every_s": 2})
        mine = {i["name"]: i for i in self.get(put)["own"]}["odd"]
        self.assertEqual((mine["asks"][0]["channels"], mine["every_s"]), (["cell.*.v"], 2))
        self.assertNotIn("odd", [i["name"] for i in self.send("DELETE", f"{put}/odd")["own"]])
        for path in ("/api/runs/nothing", "/api/runs/nothing/live", "/api/runs/nothing/chart", "/api/runs/nothing/readings.csv"):
            with self.assertRaises(urllib.error.HTTPError) as caught:
                self.server.get(path)
            self.assertEqual(caught.exception.code, 404, path)
