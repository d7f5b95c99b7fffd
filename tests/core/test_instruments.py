"""Instruments over sockets and serial lines: whatever one of them does is said by its name, and costs no other a reading."""

import os
import socketserver
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import pairwise
from random import Random
from statistics import median
from unittest import TestCase, skipUnless

from kegcart.core.bench.asking import (
    AnswerError,
    another_unit,
    commands,
    kind_named,
    known_channel,
    read_answer,
    spelled_out,
    taken_twice,
)
from kegcart.core.bench.bands import traced
from kegcart.core.reference.bench import ACTS, CLOCK, Ask, instrument_types
from kegcart.instruments.finding import find, try_out
from kegcart.instruments.lines import LineError, resource_name
from kegcart.instruments.poller import Instrument, Poller
from kegcart.standins.bench import StandInBench, instruments_of
from kegcart.standins.servers import StandInServer, serve
from tests.core.samples import demo, judge

VOLTS = Ask("MEAS:VOLT?", ("posts.v",), "V")
Answers = Callable[[str], bytes | None]


class Answering(TestCase):
    def test_numbers_as_instruments_write_them(self) -> None:
        for said, value in (
            ("26.396", 26.396), ("+2.63960E+01", 26.396), (" 26.396 V\r", 26.396), ("26396 mV", 26.396), ("26,396", 26.396),
            ("26.396VDC", 26.396), (".5", 0.5), ("-4e-3", -0.004), ("0.026396 kV", 26.396),
        ):  # fmt: skip
            self.assertAlmostEqual(read_answer(said, VOLTS)["posts.v"], value, msg=said)
        warm = Ask("MEAS:TEMP? (@1:3)", ("air.c", "part.1.c", "part.2.c"), "°C")
        self.assertEqual(list(read_answer("21.5,22 C,86F", warm).values()), [21.5, 22, 30])

    def test_a_shunt_that_answers_in_millivolts_is_scaled(self) -> None:
        """75 mV at 500 A: the number of mV times 500/75 is A."""
        self.assertAlmostEqual(read_answer("13.125", Ask("U?", ("posts.a",), "A", 500 / 75))["posts.a"], 87.5)
        self.assertAlmostEqual(read_answer("13.125", Ask("I?", ("posts.a",), "mA", 1000.0))["posts.a"], 13.125)

    def test_what_is_no_answer_is_said(self) -> None:
        for said, why in (
            ("", "answers nothing"), ("ERR", "no number: 'ERR'"), ("26.4 A", "answers in a where V is asked"),
            ("26.4,3", "gives 2 values where 1 are asked"), ("9.9E37", "beyond its range"), ("nan", "no number"),
            ("12 34", "no number"), ("x" * 200, "…'"), ("\x00\x07", "no number: '··'"), ("26.4 furlongs", "where V is asked"),
        ):  # fmt: skip
            with self.assertRaisesRegex(AnswerError, why.replace("(", r"\("), msg=said):
                read_answer(said, VOLTS)

    def test_any_text_is_a_number_or_an_error_in_words(self) -> None:
        chance = Random(4)
        for _ in range(3000):
            text = "".join(chance.choice("0123456789.,;+-eE VmAk°C\t\x00é") for _ in range(chance.randrange(12)))
            try:
                self.assertTrue(all(abs(v) < 1e38 for v in read_answer(text, VOLTS).values()))
            except AnswerError as error:
                self.assertGreater(len(str(error)), 10)

    def test_another_unit_is_noticed(self) -> None:
        self.assertEqual([another_unit(a, VOLTS) for a in ("26.4", "26.4 V", "26400 mV", "26.4 Volt")], ["", "", "mV", ""])

    def test_kinds_are_known_by_their_names_and_ask_for_channels_that_there_are(self) -> None:
        for key, kind in instrument_types().items():
            self.assertEqual(kind_named(f"generic,{kind.known_by.upper()} 7,0042,1.0"), kind, key)
            self.assertTrue(set(kind.acts) <= set(ACTS))
            self.assertEqual([a for a in kind.acts if not commands(kind.acts, a, 12.5)], [])
            for ask in kind.asks:
                for channel in ask.channels:
                    self.assertTrue(known_channel(channel, 8, 5), channel)
        self.assertIsNone(kind_named("toaster,4 slots"))
        self.assertFalse(any(known_channel(c, 8, 5) for c in ("cell.9.v", "part.0.c", "posts.c", "cell.1.c", "a.b", "posts.1.v")))

    def test_a_query_is_spelled_out_and_no_channel_asked_twice(self) -> None:
        cells, warm = instrument_types()["cells"].asks[0], instrument_types()["thermometer"].asks[0]
        self.assertEqual(spelled_out(cells, 4, 0).text, "MEAS:VOLT:DC? (@1:4)")
        self.assertEqual(spelled_out(warm, 4, 2).channels, ("air.c", "outside.c", "pack.c", "part.1.c", "part.2.c"))
        clock = Ask("T?", (CLOCK,), "s")
        self.assertEqual(taken_twice([[VOLTS, clock], [VOLTS, clock]]), [[VOLTS, clock], [clock]])


class OddServer(socketserver.ThreadingTCPServer):
    """Answers each line as it is told to; None hangs up."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, answers: Answers) -> None:
        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                while line := self.rfile.readline():
                    answer = answers(line.decode().strip())
                    if answer is None:
                        return
                    try:
                        self.wfile.write(answer)
                    except OSError:
                        return

        super().__init__(("127.0.0.1", 0), Handler)
        threading.Thread(target=self.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True).start()


@contextmanager
def polled(*odd: tuple[str, Answers]) -> Iterator[tuple[dict[str, list[tuple[float, float]]], dict[str, list[tuple[str, str]]]]]:
    """Instruments polled all at once: what is read by name, with its moment, and what is said of each."""
    read: dict[str, list[tuple[float, float]]] = {name: [] for name, _ in odd}
    said: dict[str, list[tuple[str, str]]] = {name: [] for name, _ in odd}
    servers = [OddServer(answers) for _, answers in odd]
    pollers = [
        Poller(
            Instrument(name, f"localhost:{server.server_address[1]}", [VOLTS], {}),
            lambda name, at, values: read[name].append((at, values["posts.v"])),
            lambda name, how, sentence: said[name].append((how, sentence)),
        )
        for (name, _), server in zip(odd, servers, strict=True)
    ]
    for poller in pollers:
        poller.start()
    try:
        yield read, said
    finally:
        for server in servers:
            server.shutdown()
            server.server_close()
        for poller in pollers:
            poller.close()


class Polled(TestCase):
    def test_odd_ones_are_said_by_name_and_cost_the_good_one_nothing(self) -> None:
        def slow(line: str) -> bytes:
            time.sleep(0.7)
            return b"13.1\n"

        def silent(line: str) -> bytes:
            time.sleep(30)
            return b"\n"

        odd: tuple[tuple[str, Answers], ...] = (
            ("good", lambda line: b"26.4\n"), ("slow", slow), ("silent", silent), ("half", lambda line: b"26."),
            ("nonsense", lambda line: b"-113,Undefined header\n"), ("other", lambda line: b"26400 mV\n"),
            ("wrong", lambda line: b"12 A\n"), ("hangs up", lambda line: None),
        )  # fmt: skip
        with polled(*odd) as (read, said):
            time.sleep(4.5)
            good = [at for at, _ in read["good"]]
        # One at a time in a line would have taken the good one a second and more for each reading.
        self.assertGreater(len(good), 25)
        self.assertLess(max(b - a for a, b in pairwise(good)), 1.5)
        self.assertLess(median(b - a for a, b in pairwise(good)), 0.2)
        hows = {name: {how for how, _ in told} for name, told in said.items()}
        self.assertLessEqual(hows["good"], {"found", "slow", "well"})  # of a machine that has much else to do
        for name, how in (
            ("slow", "slow"), ("silent", "silent"), ("half", "half a line"), ("nonsense", "no number"), ("other", "another unit"),
            ("wrong", "no number"),
        ):  # fmt: skip
            self.assertIn(how, hows[name], (name, said[name]))
        self.assertTrue(hows["hangs up"] & {"silent", "lost"}, said["hangs up"])
        self.assertEqual({round(v, 4) for _, v in read["other"]}, {26.4})
        self.assertEqual({name for name, got in read.items() if not got}, {"silent", "half", "nonsense", "wrong", "hangs up"})

    def test_one_that_was_lost_is_found_again_and_does_what_it_was_told_meanwhile(self) -> None:
        found, told, got = list[str](), list[str](), list[float]()

        class Load:
            def answer(self, line: str) -> str | None:
                if line.strip().endswith("?"):
                    return "13.2"
                told.append(line.strip())
                return None

        server = StandInServer(Load())  # type: ignore[arg-type]
        server.start()
        acts = instrument_types()["load"].acts
        poller = Poller(
            Instrument("load", server.address, [VOLTS], acts), lambda *a: got.append(a[1]), lambda n, how, s: found.append(how)
        )
        poller.start()
        self.until(lambda: len(got) > 3)
        poller.tell("load.power", 500.0)
        self.until(lambda: told == ["POW 500.0"])
        server.hang_up()
        self.until(lambda: "lost" in found)
        poller.tell("load.off")
        many = len(got)
        again = StandInServer(Load(), server.server_address[1])  # type: ignore[arg-type]
        again.start()
        self.until(lambda: told[-1] == "INP OFF" and len(got) > many)
        poller.close()
        again.hang_up()
        self.assertEqual((found[0], found[-1]), ("found", "well"))

    def until(self, holds: Callable[[], bool]) -> None:
        end = time.monotonic() + 15
        while not holds():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.02)

    @skipUnless(sys.platform != "win32", "pseudo-terminals")
    def test_a_serial_line_is_read_as_a_socket_is(self) -> None:
        import tty

        master, slave = os.openpty()
        tty.setraw(master)
        tty.setraw(slave)
        ended = threading.Event()

        def answer() -> None:
            line = b""
            while not ended.is_set():
                line += os.read(master, 100)
                if line.endswith(b"\n"):
                    asked, line = line.strip(), b""
                    os.write(master, {b"*IDN?": b"generic,DC meter,1,1\n", b"U?": b"13.25\n"}.get(asked, b"13."))

        threading.Thread(target=answer, daemon=True).start()
        address = os.ttyname(slave)
        self.assertEqual([(f.address, f.name) for f in find([address])], [(address, "generic,DC meter,1,1")])
        tried = try_out(address, [Ask("U?", ("posts.v",), "V"), Ask("I?", ("posts.a",), "A")])
        self.assertEqual((tried[0].values, tried[0].problem), ({"posts.v": 13.25}, ""))
        self.assertEqual((tried[1].answer, tried[1].problem), ("13.", "it answers half a line"))
        ended.set()

    def test_addresses_are_hosts_with_ports_or_serial_ports(self) -> None:
        for address, name in (
            ("localhost:5025", "TCPIP::localhost::5025::SOCKET"), ("10.0.0.7:99", "TCPIP::10.0.0.7::99::SOCKET"),
            ("/dev/ttyUSB0@115200", "ASRL/dev/ttyUSB0::INSTR"), ("COM3", "ASRL3::INSTR"),
        ):  # fmt: skip
            self.assertEqual(resource_name(address), name)
        for wrong in ("", "localhost", "a:b", "a:0", "a:70000", "[::1]:99", "file:///etc/passwd", "/etc/passwd", "x y:1"):
            with self.assertRaisesRegex(LineError, "is no address"):
                resource_name(wrong)
        self.assertEqual(find(["localhost:1"]), [])


class StandIns(TestCase):
    def test_each_kind_of_instrument_is_answered_all_that_it_asks(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            bench = StandInBench(judge(demo(name)), seed=3, speed=1.0)
            stand_ins = instruments_of(bench)
            read: dict[str, float] = {}
            for stand_in in stand_ins:
                kind = kind_named(stand_in.answer("*IDN?") or "")
                assert kind is not None
                for ask in kind.asks:
                    one = spelled_out(ask, bench.cells, bench.points)
                    read |= read_answer(stand_in.answer(one.text) or "", one)
                self.assertEqual(stand_in.answer("MEAS:RES?"), "-113,Undefined header")
                self.assertIsNone(stand_in.answer("POW a lot"))
            self.assertEqual(set(bench.shown()), set(read) - {CLOCK})
            self.assertEqual([kind_named(s.name) for s in stand_ins], list(instrument_types().values()))

    def test_load_supply_and_switches_obey(self) -> None:
        bench = StandInBench(judge(demo("lantern-lane")), seed=5, speed=600.0)
        by = {s.name: s for s in instruments_of(bench)}

        def tell(name: str, *lines: str) -> None:
            for line in lines:
                self.assertIsNone(by[name].answer(line))
            time.sleep(0.1)

        def ask(name: str, query: str) -> float:
            return float((by[name].answer(query) or "").split(",")[0])

        tell("electronic load", "POW 1000", "INP ON")
        self.assertLess(abs(ask("AC power meter", "MEAS:POW:AC?")), 5)
        tell("relay box", "ROUT:CLOS (@1)", "ROUT:CLOS (@2)")
        self.assertAlmostEqual(ask("AC power meter", "MEAS:POW:AC?"), 1000, delta=30)
        self.assertGreater(ask("DC meter with shunt", "MEAS:CURR:DC?"), 30)
        self.assertGreater(traced(bench.shown())["joint"], 0)
        tell("electronic load", "INP OFF")
        self.assertEqual(by["electronic load"].answer("INP?"), "0")
        self.assertLess(ask("DC meter with shunt", "MEAS:CURR:DC?"), 5)
        tell("power supply", "VOLT 28.4", "CURR 20", "OUTP ON")
        self.assertAlmostEqual(ask("power supply", "MEAS:CURR?"), 20, delta=1)
        tell("relay box", "ROUT:OPEN (@2)", "ROUT:OPEN (@1)")
        self.assertGreater(ask("DC meter with shunt", "SYST:TIME:ELAP?"), 60)

    def test_they_are_found_by_their_addresses(self) -> None:
        servers = serve(instruments_of(StandInBench(judge(demo("tidewater")), seed=1)))
        found = find([server.address for server in servers])
        self.assertEqual([kind_named(f.name) for f in found], list(instrument_types().values()))
        for server in servers:
            server.hang_up()
