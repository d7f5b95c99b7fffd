"""The server as users run it: long work beside changes, bounds on what comes in, and its end."""

import contextlib
import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from concurrent.futures import CancelledError
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any
from unittest import TestCase, mock, skipUnless

from kegcart.core.pack.sorting import sort_cells
from kegcart.workbench import jobs, rack, workers
from kegcart.workbench.benchmarks import PILES
from kegcart.workbench.models import RackCell
from kegcart.workbench.rack import Stock
from kegcart.workbench.rig import ROOT, Server
from kegcart.workbench.workers import Board, BusyError, Workers

HURRIED = (
    "import kegcart.site.server as s; s.WHOLE_S = 0.6; s.BoundedProtocol.most = 12; s.most_connections = lambda: 12; s.main()"
)
"""The server with bounds that a test can wait for."""
PROC = Path("/proc")


def children(pid: int) -> list[int]:
    return [int(child) for child in (PROC / str(pid) / "task" / str(pid) / "children").read_text().split()]


def alive(pids: list[int]) -> list[int]:
    """Those that still run; one that has ended and waits to be noticed does not."""
    out = []
    for pid in pids:
        try:
            state = (PROC / str(pid) / "stat").read_text().rsplit(")", 1)[1].split()[0]
        except FileNotFoundError:
            continue
        if state != "Z":
            out.append(pid)
    return out


def until(true: Any, seconds: float = 20) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.05)
    return False


class ServedTest(TestCase):
    def setUp(self) -> None:
        self.server = Server()
        self.addCleanup(self.server.stop)

    def get(self, path: str) -> int:
        with urllib.request.urlopen(self.server.url + path, timeout=60) as answer:
            answer.read()
            return int(answer.status)


class LongWork(ServedTest):
    def test_a_change_is_answered_before_the_long_work_that_was_asked_for_before_it(self) -> None:
        design = self.server.demo("lantern-lane")
        answered: list[int] = []
        long = [threading.Thread(target=lambda: answered.append(self.get(f"/api/designs/{design}/checks.pdf"))) for _ in range(6)]
        for thread in long:
            thread.start()
        time.sleep(0.2)
        self.server.put_at(design, "/loads/items/fog-machine/watts", 640)
        self.assertLess(len(answered), len(long))
        for thread in long:
            thread.join()
        self.assertEqual(set(answered), {200})

    @skipUnless(PROC.exists(), "looks at processes")
    def test_it_ends_soon_when_told_and_its_processes_with_it_however_it_ends(self) -> None:
        design = self.server.demo("lantern-lane")
        for sign in (signal.SIGTERM, signal.SIGKILL):
            process = self.server.process
            assert process
            self.assertTrue(until(lambda pid=process.pid: len(children(pid)) >= 2))
            own = children(process.pid)
            asking = threading.Thread(target=self.ask, args=(f"/api/designs/{design}/checks.pdf",))
            asking.start()
            begin = time.monotonic()
            process.send_signal(sign)
            process.wait(timeout=15)
            self.assertLess(time.monotonic() - begin, 10)
            asking.join()
            self.assertTrue(until(lambda own=own: not alive(own)), "left behind")
            self.server.start()

    def ask(self, path: str) -> None:
        with contextlib.suppress(OSError):  # the server has ended
            self.get(path)


class Bounds(ServedTest):
    def setUp(self) -> None:
        super().setUp()
        self.server.kill()
        self.server.process = subprocess.Popen(
            [sys.executable, "-c", HURRIED, "--port", str(self.server.port)],
            cwd=ROOT,
            env=self.server.environment,
            stderr=subprocess.DEVNULL,
        )
        self.assertTrue(until(self.answers))

    def answers(self) -> bool:
        try:
            return self.get("/api/reference") == 200
        except OSError:
            return False

    def opened(self, sent: bytes) -> socket.socket:
        connection = socket.create_connection(("127.0.0.1", self.server.port), timeout=10)
        self.addCleanup(connection.close)
        connection.sendall(sent)
        return connection

    def closed(self, connection: socket.socket) -> bool:
        try:
            return connection.recv(1000) == b""
        except ConnectionError:
            return True

    def test_idle_and_half_sent_requests_are_closed(self) -> None:
        head = b"POST /api/designs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n"
        for sent in (b"", b"GET / HT", head, head + b"Content-Length: 500\r\n\r\n{"):
            self.assertTrue(self.closed(self.opened(sent)), sent)
        self.assertTrue(self.answers())

    def test_connections_beyond_the_bound_are_closed_and_it_answers_when_there_is_room(self) -> None:
        many = [self.opened(b"GET / HT") for _ in range(60)]
        self.assertTrue(all(self.closed(connection) for connection in many))
        self.assertTrue(until(self.answers))


class Pool(TestCase):
    def setUp(self) -> None:
        # A process of the parallel tests is a daemon, which may have no children: the server is none.
        may = mock.patch.dict(multiprocessing.current_process()._config, {"daemon": False})  # type: ignore[attr-defined]
        may.start()
        self.addCleanup(may.stop)
        self.pool = Workers()
        self.pool.start(1)
        self.addCleanup(self.pool.stop)

    def test_too_much_at_once_is_refused_and_taken_again_later(self) -> None:
        with mock.patch.object(workers, "MOST_WAITING", 2):
            waiting = [self.pool.begin(pow, 2, 5), self.pool.begin(time.sleep, 0.5)]
            with self.assertRaises(BusyError):
                self.pool.run(pow, 2, 6)
            self.assertEqual([future.result() for future in waiting], [32, None])
            self.assertEqual(self.pool.run(pow, 2, 6), 64)

    def test_a_process_that_dies_is_replaced(self) -> None:
        with self.assertRaises(BusyError):
            self.pool.run(os._exit, 3)
        self.assertEqual(self.pool.run(pow, 2, 6), 64)

    def test_ended_it_tells_who_waits(self) -> None:
        future = self.pool.begin(time.sleep, 30)
        threading.Timer(0.3, self.pool.stop).start()
        with self.assertRaises((BrokenProcessPool, CancelledError)):
            future.result(timeout=10)

    def test_sorting_beside_gives_what_sorting_here_gives_and_can_be_stopped(self) -> None:
        pile = next(p for p in PILES if p.count == 150)
        capacity, ohms = pile.cells()
        good = [RackCell(pk=n, capacity_ah=c, resistance_mohm=r) for n, (c, r) in enumerate(zip(capacity, ohms, strict=True))]
        stock = Stock(good, mock.Mock())
        with mock.patch.object(rack, "workers", self.pool), mock.patch.object(jobs, "workers", self.pool):
            _, job = rack.begin_sorting(stock, pile.series, pile.parallel, (1, 1), {}, thorough=True)
            self.assertTrue(until(lambda: job.progress > 0 and job.so_far))
            job.stop()
            self.assertTrue(until(lambda: job.done))
            assert job.result
            self.assertTrue(job.result.stopped)
            with mock.patch.object(rack, "QUICK_S", 60.0):
                _, job = rack.begin_sorting(stock, pile.series, pile.parallel, (1, 1), {}, thorough=False)
                job.wait(60)
            here = sort_cells(capacity, ohms, pile.series, pile.parallel)
            assert job.result
            self.assertEqual(job.result.groups, here.groups)
            with mock.patch.object(workers, "MOST_WAITING", 0):
                _, job = rack.begin_sorting(stock, pile.series, pile.parallel, (1, 1), {}, thorough=False)
                job.wait(20)
            self.assertIn("busy", job.error)
        self.assertIsInstance(job, jobs.Job)

    def test_a_board_is_seen_from_both_sides(self) -> None:
        with Board() as ours, Board(ours.name) as theirs:
            self.assertTrue(theirs.tell(0.5, 2.5))
            self.assertEqual(ours.told(), (0.5, 2.5))
            ours.stop()
            self.assertFalse(theirs.tell(0.6, 2.4))
