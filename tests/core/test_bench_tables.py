"""Readings as tables: written out and read back the same, and read as loggers call their columns; which step each belongs to."""

import io
import json
from contextlib import redirect_stderr, redirect_stdout
from functools import cache
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np

from kegcart.core.__main__ import main
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.result import write_result
from kegcart.core.bench.station import BenchStation, station_of
from kegcart.core.bench.tables import read_readings, told_spans, write_readings_csv
from kegcart.core.bench.test_plan import TestPlanner
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, drawn
from kegcart.core.table import TableError
from tests import PROVING
from tests.core.samples import DEMO, demo, judge


@cache
def tested(name: str) -> tuple[BenchStation, Readings]:
    station = station_of(judge(demo(name)))
    true = TrueStation(station, drawn(station, Random(3)))
    return station, run_trial(true, Meters(true.read(), np.random.default_rng(3)), steps_of(station))


def rounded(spans: list[Span]) -> list[tuple[str, int, int]]:
    return [(s.step, round(s.begin_s), round(s.end_s)) for s in spans]


class Tables(TestCase):
    def test_readings_come_back_the_same(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            station, readings = tested(name)
            back = read_readings(write_readings_csv(readings), station)
            self.assertEqual(set(back.channels), set(readings.channels))
            for channel, values in readings.channels.items():
                np.testing.assert_allclose(back.channels[channel], values, atol=1e-9)
            self.assertEqual(rounded(list(back.spans)), rounded(list(readings.spans)))

    def test_a_loggers_own_names_units_and_clock_are_read(self) -> None:
        station, _ = tested("lantern-lane")
        text = "Time;Pack voltage (mV);Current [A];Clamp;Cell 3 (mV);Main fuse °C;remark\n" + "".join(
            f"23:59:{40 + 5 * n:02d};{26400 - 10 * n};{20 + n},5;;3301;24,5;x\n"
            if n < 4
            else f"00:00:{5 * (n - 4):02d};26360;24;;3301;;\n"
            for n in range(8)
        )
        found = read_readings(text, station)
        self.assertEqual(found.seconds.tolist(), [5.0 * n for n in range(8)])
        self.assertAlmostEqual(found.channels["posts.v"][1], 26.39)
        self.assertAlmostEqual(found.channels["posts.a"][0], 20.5)
        self.assertAlmostEqual(found.channels["cell.3.v"][7], 3.301)
        self.assertTrue(np.isnan(found.channels["clamp.a"]).all())
        self.assertFalse(found.has("clamp.a"))
        fuse = next(n for n, point in enumerate(station.points, 1) if point.name == "Main fuse")
        self.assertAlmostEqual(found.channels[f"part.{fuse}.c"][0], 24.5)

    def test_what_cannot_be_read_is_named_by_line_and_column(self) -> None:
        station, _ = tested("lantern-lane")
        good = "time (s);voltage (V);current (A)\n" + "".join(f"{n};26;{n}\n" for n in range(1, 9))
        for text, said in (
            (good.replace("4;26;4", "4;26;four"), "line 5, column 3"),
            (good.replace("4;26;4", "3;26;4"), "line 5, column 1: this moment is not after"),
            (good.replace("voltage (V)", "remark"), "a column is missing: voltage"),
            ("\n".join(good.split("\n")[:4]), "3 readings are no test"),
            (good.replace("5;26", "5;26 Ah"), "'Ah' is not a unit for this column"),
        ):
            with self.subTest(said), self.assertRaises(TableError) as caught:
                read_readings(text, station)
            self.assertIn(said, str(caught.exception))

    def test_steps_are_told_by_their_loads(self) -> None:
        """As they were run, but that switch open and all off are one, and what is read while something is switched belongs to none."""
        for name in ("lantern-lane", "hollow-oak", "tidewater"):
            station, readings = tested(name)
            told = {s.step: s for s in told_spans(readings.seconds, dict(readings.channels), station)}
            for span in readings.spans:
                if span.step in ("zero", "standing"):
                    continue
                with self.subTest(name, step=span.step):
                    self.assertAlmostEqual(told[span.step].end_s, span.end_s, delta=200)
                    self.assertGreater(told[span.step].end_s - told[span.step].begin_s, 0.75 * (span.end_s - span.begin_s))

    def test_the_command_learns_from_a_file(self) -> None:
        _, readings = tested("tidewater")
        with TemporaryDirectory() as folder:
            table = Path(folder) / "readings.csv"
            table.write_text(write_readings_csv(readings), encoding="utf-8")
            said = io.StringIO()
            with redirect_stdout(said):
                self.assertEqual(main(["learn", str(DEMO / "tidewater.json"), "--readings", str(table)]), 0)
            out = json.loads(said.getvalue())
            found = {item["key"]: item for item in out["learned"]}
            self.assertEqual(found["resistance"]["refused"], "")
            combined = found["resistance"]["figures"]["combined"]
            self.assertEqual(set(combined["inputs"]), {"x_1", "σ_1", "x_2", "σ_2"})
            self.assertTrue(found["walls"]["refused"])
            self.assertEqual(out["diagnosis"]["causes"], [])
            table.write_text("time;voltage;current\n1;2;x\n", encoding="utf-8")
            with redirect_stderr(io.StringIO()) as error:
                self.assertEqual(main(["learn", str(DEMO / "tidewater.json"), "--readings", str(table)]), 2)
            self.assertIn("line 2, column 3", error.getvalue())

    def test_readings_with_gaps_and_nonsense_are_refused_in_words_and_never_break_it(self) -> None:
        station, readings = tested("tidewater")
        lines = dict(TestPlanner(judge(demo("tidewater"))).stop_lines())
        for seed in range(240 if PROVING else 12):
            chance, dice = Random(seed), np.random.default_rng(seed)
            channels = dict(readings.channels)
            for name, values in readings.channels.items():
                match chance.randrange(16):
                    case 0 | 1:
                        del channels[name]
                    case 2:
                        channels[name] = np.where(dice.random(len(values)) < 0.4, np.nan, values)
                    case 3:
                        channels[name] = np.full(len(values), chance.choice((0.0, 1e6, np.nan)))
                    case 4:
                        channels[name] = -values
            spans = [span for span in readings.spans if chance.random() > 0.25]
            spoiled = Readings(readings.seconds, channels, spans)
            if seed % 3 == 0:
                spoiled = spoiled.within(0, chance.uniform(60, 9000))
            out = write_result(station, lines, spoiled)
            self.assertEqual([item["key"] for item in out["learned"]], list(station.unknowns), seed)
            for item in out["learned"]:
                self.assertTrue(item["refused"] or np.isfinite(item["figures"]["combined"]["value"]), (seed, item))
            if not {"posts.v", "posts.a"} <= set(channels):
                self.assertIn("were not read", out["diagnosis"]["missing"])
