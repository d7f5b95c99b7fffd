"""A test that runs: its instruments asked in threads of their own, and one thread that judges, stores and tells what they say."""

import logging
import queue
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import asdict
from typing import Any

import numpy as np
from django.db import DatabaseError, connection
from django.utils import timezone
from pydantic_core import to_json

from kegcart.core.bench.bands import traced
from kegcart.core.bench.clock import TestClock
from kegcart.core.bench.live import LOADS, Command, RefusedCommandError, TestEvent, turned_round
from kegcart.core.bench.plan import Setting
from kegcart.core.bench.thinning import Thinned
from kegcart.core.reference.bench import CLOCK, Ask
from kegcart.instruments.poller import Instrument, Poller, Said
from kegcart.workbench import longwork
from kegcart.workbench.models import TestRun
from kegcart.workbench.running import keeping
from kegcart.workbench.running.beside import Beside
from kegcart.workbench.running.feed import Broadcast, event
from kegcart.workbench.workers import BusyError, workers

log = logging.getLogger(__name__)

LOOK_S = 0.04
"""Readings wait so long at most until they are judged and told."""
KEEP_S = 1.0
OFF_LOOKS = 2
"""A reading is out of its band when it was so at so many looks, a second apart."""
SETTLE_LOOKS = 2
"""So many looks after a step begins, bands are not held against readings yet: the load comes on."""
SETTLED_S = 90.0
"""A step is judged before it ends only when it has run for so long: while a load comes on, nothing of it can be told."""
JUDGE_S = 20.0
"""What is out of band leads to a judgement, so often at most, by the machine's clock."""
OBEYED_S, STILL_DRAWS = 4.0, 0.2
"""So long after a stop it is looked whether it was obeyed: whether less than this share of what is carried for long still flows."""
ANSWER_S = 5.0
UNSTORED = "What is read cannot be stored: make room on the disk. It is held until then."
OTHER_LOAD, OTHER_LOAD_LOOKS = 0.02, 4
"""A load that differs by more from what was planned has a course of its own."""

Doing = Callable[[], None]


class Runner:
    """One test under way. Its commands may come from any thread."""

    def __init__(self, run: TestRun) -> None:
        self.run, self.feed = run, Broadcast()
        self.test = keeping.as_it_stands(run)
        self.kept = keeping.KeptReadings(run)
        self.thinned, self.signs = Thinned(), dict[str, int]()
        self.clock = TestClock(time.monotonic())
        self.courses: list[dict[str, Any]] = list(run.prepared["courses"])
        self.instruments: dict[str, dict[str, str]] = {}
        self.off: list[str] = []
        self.alarm, self.failed, self.ending = "", False, False
        self._unstored: list[TestEvent] = []
        self.judged: Any = run.judged
        self._looked_off: dict[str, int] = {}
        self._looks = 0
        self._set: Setting | None = None
        self._stopped_at: float | None = None
        self._judged_at = -JUDGE_S
        self._batch: list[dict[str, Any]] = []
        self._queue: queue.SimpleQueue[Doing] = queue.SimpleQueue()
        self._closed = threading.Event()
        self._work = ThreadPoolExecutor(1, "judging")
        self._judging = Beside(self._begin_judging, self._judged)
        self._foreseeing = Beside(self._begin_foreseeing, self._foreseen)
        self.pollers = {
            i["name"]: Poller(instrument_of(i), self._readings, self._said) for i in run.instruments
        }  # fmt: skip
        self.obeys = {act.split(".")[0] for i in run.instruments for act in i["acts"]}
        for i in run.instruments:
            self.instruments[i["name"]] = {"name": i["name"], "address": i["address"], "how": "sought", "said": "is looked for"}
        self._take_up()
        self._thread = threading.Thread(target=self._live, name=f"test {run.pk}", daemon=True)

    def _take_up(self) -> None:
        """Take up what was stored of it: it goes on after a gap where the server was away."""
        for happened in keeping.events_of(self.run):
            if happened.kind == "clock":
                self.clock.offset_s = float(happened.data["offset_s"])
            elif happened.kind == "turn":
                self._turn(str(happened.data["channel"]))
        self.thinned = keeping.thinned_of(self.run, self.test)
        last = self.run.chunks.order_by("-number").first()
        begun_s = max([last.end_s if last else 0.0, *(e.at_s for e in keeping.events_of(self.run))])
        away_s = (timezone.now() - last.stored_at).total_seconds() if last else 0.0
        self.clock.at_s = self.clock.latest_s = begun_s
        if last:
            self._happened(self.test.happens(TestEvent(begun_s, "gap", {"seconds": round(away_s, 1)})))
            if self.clock.offset_s is None:
                self.clock.at_s = begun_s + away_s

    def start(self) -> None:
        """Begin to ask and to judge."""
        for poller in self.pollers.values():
            poller.start()
        if self.test.spans_so_far:
            self._queue.put(self._judging.ask)  # what was being worked out went with the server
        self._thread.start()

    def close(self) -> None:
        """The server ends, and nobody watches any more: the test is paused, its load off. It is taken up when the server is there again."""
        if self.test.state == "running":
            with suppress(RefusedCommandError, BusyError):
                self.command("pause", {})
        self._closed.set()
        self._thread.join(ANSWER_S)
        self._let_go()
        self.feed.end()
        self._work.shutdown(wait=False, cancel_futures=True)

    def command(self, command: Command, data: Mapping[str, Any]) -> None:
        """Do what the builder says. Errors: RefusedCommandError, where it cannot be done as the test stands; BusyError."""
        self._have_done(lambda: self._happened(self.test.command(self.clock.now(time.monotonic()), command, data)))

    def write_down(self) -> None:
        """Have all that was read by now on disk, for one who asks for it. Errors: BusyError."""
        self._have_done(self._keep)

    def _have_done(self, doing: Doing) -> None:
        """Do something in the thread of the test, and wait for it. Errors: its own; BusyError."""
        done: Future[None] = Future()

        def do() -> None:
            try:
                doing()
            except RefusedCommandError as error:
                done.set_exception(error)
            else:
                done.set_result(None)

        if self._closed.is_set():
            raise BusyError
        self._queue.put(do)
        try:
            done.result(ANSWER_S)
        except TimeoutError:
            raise BusyError from None

    def turn(self, channel: str) -> None:
        """Read a current the other way round from now on: its clamp's arrow points back."""

        def do() -> None:
            self._turn(channel)
            self._happened(TestEvent(self.clock.now(time.monotonic()), "turn", {"channel": channel}))

        self._queue.put(do)

    def read(self, channel: str, value: float) -> None:
        """Take a reading that was typed."""
        moment = time.monotonic()
        self._queue.put(lambda: self._take(moment, {channel: value}))

    def by_itself(self, goes: bool) -> None:
        """Whether steps that need no hands begin by themselves."""

        def do() -> None:
            self.test.by_itself = self.run.by_itself = goes
            self.run.save(update_fields=["by_itself"])
            self._tell_state()

        self._queue.put(do)

    @property
    def over(self) -> bool:
        """Whether the test has ended."""
        return self.test.state == "over" or self.failed

    def first_told(self) -> bytes:
        """What a screen is told that begins to listen."""
        return event("state", self.state())

    def state(self) -> dict[str, Any]:
        """How it stands, as plain JSON data."""
        test = self.test
        return {
            "state": test.state,
            "at": test.at,
            "begun_s": test.begun_s,
            "held_s": test.held_s,
            "now_s": self.clock.now(time.monotonic()),
            "rate": self.clock.rate,
            "waits": test.waits,
            "by_itself": test.by_itself,
            "spans": [asdict(span) for span in test.spans],
            "instruments": list(self.instruments.values()),
            "obeys": sorted(self.obeys),
            "off": self.off,
            "turned": turned_round(test.watch.latest),
            "alarm": self.alarm,
            "judging": self._judging.under_way,
        }

    # In the instruments' own threads.

    def _readings(self, name: str, machine_s: float, values: Mapping[str, float]) -> None:
        self._queue.put(lambda: self._take(machine_s, values))

    def _said(self, name: str, how: Said, sentence: str) -> None:
        self._queue.put(lambda: self._take_said(name, how, sentence))

    # In the one thread of the test.

    def _live(self) -> None:
        kept = looked = time.monotonic()
        try:
            while not self._closed.is_set():
                self._drain()
                self._happen({})
                now = time.monotonic()
                if now - looked >= KEEP_S:
                    looked = now
                    self._look()
                    self._tell_state()
                if now - kept >= KEEP_S:
                    kept = now
                    self._keep()
                if self.over:
                    break
            self._keep()
        except Exception:
            log.exception("the test %s has ended by an error", self.run.pk)
            self.failed = True
            self._tell("load.off")
            self._tell("supply.off")
            self.alarm = "The test has ended by an error of this program: switch the load off by hand."
        try:
            if self.over:
                self._end()
        finally:
            connection.close()

    def _keep(self) -> None:
        """Write what is new. What cannot be written now is held, and tried again."""
        try:
            self.kept.keep()
        except DatabaseError:
            self._cannot_store()
        else:
            if self._keep_events() and self.alarm == UNSTORED:
                self.alarm = ""

    def _keep_events(self) -> bool:
        """Store what happened, in its order; returns whether that was done."""
        try:
            while self._unstored:
                keeping.keep_event(self.run, self._unstored[0])
                del self._unstored[0]
        except DatabaseError:
            self._cannot_store()
        return not self._unstored

    def _cannot_store(self) -> None:
        if self.alarm != UNSTORED:
            log.exception("what is read cannot be stored")
            self.alarm = UNSTORED

    def _drain(self) -> None:
        """Do what waits, for so long that a screen does not wait for what comes."""
        until = time.monotonic() + LOOK_S
        while (left := until - time.monotonic()) > 0:
            try:
                self._queue.get(timeout=left)()
            except queue.Empty:
                break
        if self._batch:
            self.feed.tell("readings", self._batch)
            self._batch = []

    def _take(self, machine_s: float, values: Mapping[str, float]) -> None:
        """Take readings of one moment."""
        if CLOCK in values and self.clock.count(machine_s, values[CLOCK]):
            self._store(TestEvent(self.clock.latest_s, "clock", {"offset_s": self.clock.offset_s}))
        read = {c: v * self.signs.get(c, 1) for c, v in values.items() if c != CLOCK}
        if not read:
            return
        at_s = self.clock.now(machine_s)
        self.kept.put(at_s, read)
        self.thinned.take(at_s, read)
        said = time.time() - (time.monotonic() - machine_s)
        self._batch.append({"s": round(at_s, 3), "w": said, "v": read, "d": {k: float(v) for k, v in traced(read).items()}})
        self._happen(read, at_s)

    def _take_said(self, name: str, how: Said, sentence: str) -> None:
        """An instrument is otherwise than before."""
        self.instruments[name] |= {"how": how, "said": sentence}
        if how in ("found", "well") and self.pollers[name].instrument.acts:
            self._set = None  # it was away: what was set may be forgotten
        self._store(TestEvent(self.clock.now(time.monotonic()), "instrument", {"name": name, "how": how, "said": sentence}))
        self._tell_state()

    def _happen(self, read: Mapping[str, float], at_s: float | None = None) -> None:
        """Let the test see readings, or only that time goes by, until nothing more happens by it."""
        moment = self.clock.now(time.monotonic()) if at_s is None else at_s
        happened = self.test.take(moment, read)
        while happened:
            for one in happened:
                self._happened(one)
            happened = self.test.take(moment, {})
        if self._set is None and self.test.state != "over":
            self._switch()

    def _happened(self, happened: TestEvent) -> None:
        """Something happened: act by it at once, then store and tell it."""
        if happened.kind == "stop":
            self._stopped_at = time.monotonic()
        if happened.kind == "begin":
            self.alarm = ""
        self._switch()
        self._store(happened)
        if happened.kind in ("begin", "go on", "end", "pause", "stop"):
            self.thinned.begin(happened.at_s)
            self.off, self._looked_off, self._looks = [], {}, 0
        if happened.kind == "begin":
            self._foreseeing.ask()
        if happened.kind in ("end", "stop", "finish"):
            self._judging.ask()
        self._tell_state()

    def _store(self, happened: TestEvent) -> None:
        self._unstored.append(happened)
        self._keep_events()
        if happened.kind not in keeping.UNTOLD:
            self.feed.tell("event", asdict(happened))

    def _tell_state(self) -> None:
        self.feed.tell("state", self.state())

    def _turn(self, channel: str) -> None:
        self.signs[channel] = -self.signs.get(channel, 1)

    def _switch(self) -> None:
        """Set load, supply and switches as the test wants them: what lets less flow first."""
        wanted, stands = self.test.setting, self._set
        if wanted == stands:
            return
        self._set = wanted
        less = stands is None or wanted.watts < stands.watts
        if less and not wanted.watts:
            self._tell("load.off")
        if stands is None or not wanted.supply_a:
            self._tell("supply.off")
        if stands is None or wanted.main != stands.main:
            self._tell("main.on" if wanted.main else "main.off")
        if stands is None or wanted.inverter != stands.inverter:
            self._tell("inverter.on" if wanted.inverter else "inverter.off")
        if wanted.watts and (stands is None or wanted.watts != stands.watts):
            self._tell("load.power", wanted.watts)
            self._tell("load.on")
        if wanted.supply_a and (stands is None or wanted.supply_a != stands.supply_a):
            self._tell("supply.volts", wanted.supply_v)
            self._tell("supply.amps", wanted.supply_a)
            self._tell("supply.on")

    def _tell(self, act: str, value: float = 0.0) -> None:
        """Tell every instrument that can do it."""
        for poller in self.pollers.values():
            if act in poller.instrument.acts:
                poller.tell(act, value)

    def _look(self) -> None:
        """Look once a second at what takes more than one reading to see."""
        self._foreseeing.collect()
        self._judging.collect()
        latest, test = self.test.watch.latest, self.test
        if self._stopped_at is not None and time.monotonic() - self._stopped_at > OBEYED_S:
            self._stopped_at = None
            draws = abs(latest.get("posts.a", 0.0))
            if test.state == "stopped" and draws > STILL_DRAWS * test.watch.lines["amps"]:
                self.alarm = f"It still draws {draws:.3g} A: open the main switch by hand."
        if test.state != "running" or test.step is None:
            return
        self._looks += 1
        if self._looks <= SETTLE_LOOKS:
            return
        off = set(self._out_of_band())
        for key in {*off, *self._looked_off}:
            self._looked_off[key] = self._looked_off.get(key, 0) + 1 if key in off else 0
        now_off = sorted(key for key, looks in self._looked_off.items() if looks >= OFF_LOOKS)
        if "load" in now_off and test.step.act in LOADS and "load" not in self.obeys and self._looks % OTHER_LOAD_LOOKS == 0:
            self._foreseeing.ask()  # what was plugged in is not what was planned: what it would read is worked out for that
        newly = set(now_off) - set(self.off)
        self.off = now_off
        if newly:
            self._store(TestEvent(test.now_s, "out of band", {"traces": sorted(newly)}))
        if self.off and self._settled and time.monotonic() - self._judged_at > JUDGE_S:
            self._judging.ask()

    def _out_of_band(self) -> Sequence[str]:
        """What is beyond its band now."""
        test = self.test
        course = self.courses[test.at] if test.at < len(self.courses) else None
        if course is None or not course["seconds"]:
            return []
        since = test.held_s + test.now_s - test.begun_s
        found = []
        for key, value in traced(test.watch.latest).items():
            if (band := course["traces"].get(key)) is not None:
                low, high = (np.interp(since, course["seconds"], band[side]) for side in ("low", "high"))
                if not low <= float(value) <= high:
                    found.append(key)
        return found

    def _begin_foreseeing(self) -> "Future[bytes] | None":
        """Work out anew what this step and those after it would read, as the test has gone so far."""
        steps, test = self.run.prepared["steps"], self.test
        if test.step is None:
            return None
        by_key = {step["key"]: step for step in steps}
        readings = self.thinned.readings(test.spans)
        as_run = [
            as_it_was(by_key[span.step], readings.of(span).mean("load.w"), span.end_s - span.begin_s) for span in test.spans
        ]
        to_come = [dict(step) for step in steps[test.at :]]
        watts = test.watch.latest.get("load.w")
        if test.state == "running" and self._looks and watts and to_come and to_come[0]["act"] in LOADS:
            to_come[0]["watts"] = watts
        outside = readings.mean("outside.c") if readings.has("outside.c") else None
        return self._work.submit(workers.run, longwork.courses, to_json(self.run.document), as_run, to_come, outside)

    def _foreseen(self, courses: list[dict[str, Any]]) -> None:
        begins = len(self.courses) - len(courses)
        self.courses[begins:] = courses
        self.feed.tell("courses", {"from": begins, "courses": courses})
        self._store(TestEvent(self.clock.latest_s, "course", {"step": begins, "course": courses[0]}))

    @property
    def _settled(self) -> bool:
        """Whether the step that runs has run for so long that its readings can be judged."""
        return self._looks > SETTLE_LOOKS + OFF_LOOKS and self.test.now_s - self.test.begun_s > SETTLED_S

    def _begin_judging(self) -> "Future[bytes]":
        """Work out what the readings so far say."""
        self._judged_at = time.monotonic()
        readings = self.thinned.readings(self.test.spans_so_far if self._settled else self.test.spans)
        return self._work.submit(workers.run, longwork.judged, to_json(self.run.document), (), readings)

    def _judged(self, said: dict[str, Any]) -> None:
        self.judged = self.run.judged = said
        self.run.save(update_fields=["judged"])
        self.feed.tell("judged", said)

    def _let_go(self) -> None:
        """Let all instruments go."""
        for poller in self.pollers.values():
            poller.stop()
        for poller in self.pollers.values():
            poller.close()

    def _end(self) -> None:
        """The test is over: instruments are let go, and all that was read is judged once more, whatever was judged meanwhile."""
        if not self.failed:
            self._switch()
        self.ending = True
        self.run.over_at = timezone.now()
        self.run.save(update_fields=["over_at"])
        self._tell_state()
        self.feed.tell("over", {})
        self.feed.end()
        self._let_go()
        self._foreseeing.finish()
        if self.alarm != UNSTORED:  # what is kept is judged, so that whoever reads it later finds the same in it
            self.thinned = keeping.thinned_of(self.run, self.test)
        self._judging.ask()
        self._judging.finish()
        self.ending = False


def instrument_of(data: Mapping[str, Any]) -> Instrument:
    """An instrument out of what a run keeps of it."""
    asks = [Ask(a["text"], tuple(a["channels"]), a["unit"], a["scale"], a["optional"]) for a in data["asks"]]
    return Instrument(data["name"], data["address"], asks, data["acts"], data["every_s"])


def as_it_was(step: Mapping[str, Any], watts: float, seconds: float) -> dict[str, Any]:
    """A step as it was run: its load as it was read, where it was, and its time."""
    loaded = step["act"] in LOADS and np.isfinite(watts) and abs(watts - step["watts"]) > OTHER_LOAD * step["watts"]
    return {**step, "watts": watts if loaded else step["watts"], "seconds": seconds}
