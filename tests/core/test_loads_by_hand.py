"""Loads worked out a second time: the days walked through minute by minute, as one would with a clock and a sheet of paper.

The program works in steps between switchings. Here the pattern of days is sampled, every load asked in every quarter of an
hour whether it runs, and the sums taken: what both ways agree on does not hang on how the steps were cut.
"""

from typing import Any
from unittest import TestCase

from hypothesis import given

from kegcart.core.assess import Assessment
from kegcart.core.design import Design, write_design
from kegcart.core.reference import load_kinds
from tests import tried
from tests.core.samples import demo, designs, document, judge, simulated, window

QUARTER = 0.25
USB_ETA, CONVERTER_ETA, WIRING = 0.9, 0.92, 1.03


def into_inverter(watts: float, rated_w: float) -> float:
    """What a typical inverter takes: 0.8 % of its rating idle, 92 % at 35 % of it, 88 % at full load."""
    third, full = 0.35 * (1 / 0.92 - 1) - 0.008, 1 / 0.88 - 1 - 0.008
    b = (third - 0.35 * full) / (0.35**2 - 0.35)
    x = watts / rated_w
    return watts + rated_w * (0.008 + (full - b) * x + b * x * x)


class Paper:
    """One pattern of days, sampled in the middle of every quarter of an hour."""

    def __init__(self, data: dict[str, Any]) -> None:
        self.brief = data["brief"]
        self.items: dict[str, Any] = data["loads"]["items"]
        self.days = data["loads"]["days"]
        self.moments = [QUARTER / 2 + QUARTER * n for n in range(int(self.days * 24 / QUARTER))]
        self.on = {key: {t for t in self.moments if self.runs_at(key, t)} for key in self.items}
        self.each = {key: self.watts(key) for key in self.items}

    def is_on(self, key: str, at_h: float) -> bool:
        return at_h in self.on[key]

    def runs_at(self, key: str, at_h: float) -> bool:
        """Whether a load runs at an hour of the pattern; a window that passes midnight belongs to the day it begins on."""
        load = self.items[key]
        for day in range(self.days):
            if load["days"] is not None and day + 1 not in load["days"]:
                continue
            for w in load["windows"].values():
                begin = 24 * day + w["from_h"]
                end = 24 * day + w["to_h"] + (24 if w["to_h"] <= w["from_h"] else 0)
                if begin <= at_h < end or begin <= at_h + 24 * self.days < end:
                    return True
        return False

    def hours_on(self, key: str) -> float:
        """Of a mean day."""
        return len(self.on[key]) * QUARTER / self.days

    def duty(self, key: str) -> float:
        cycle = self.items[key]["cycle"]
        return cycle["on_min"] / (cycle["on_min"] + cycle["off_min"]) if cycle else 1.0

    def factor(self, key: str) -> float:
        load = self.items[key]
        return load["power_factor"] or load_kinds()[load["kind"]].power_factor

    def watts(self, key: str) -> float:
        """Running power of one unit, as typed or as measured."""
        load, measured = self.items[key], self.items[key]["measured"]
        if measured is None:
            return float(load["watts"] or 0)
        if measured["by"] == "volts_amps":
            return measured["volts"] * measured["amps"] * (self.factor(key) if load["supply"] == "ac" else 1)
        if measured["by"] == "meter":
            return measured["wh"] / measured["hours"] / self.duty(key)
        days_on = self.days if load["days"] is None else len({d for d in load["days"] if d <= self.days})
        hours = self.hours_on(key) * self.days / days_on if days_on else 0.0
        if hours == 0:
            return 0.0
        eta = measured["efficiency"] or 0.85
        return measured["battery_wh"] * measured["charges"] / eta / hours / self.duty(key)

    def running(self, key: str) -> float:
        return self.each[key] * self.items[key]["count"]

    def start(self, key: str) -> float:
        """What a start adds."""
        load = self.items[key]
        multiple = load["surge"] or load_kinds()[load["kind"]].surge
        return (load["count"] if load["start_together"] else 1) * self.each[key] * (multiple - 1)

    def energy(self, supply: str | None = None) -> float:
        """Of a mean day, at the sockets."""
        return sum(
            self.running(k) * self.duty(k) * self.hours_on(k) for k, v in self.items.items() if supply in (None, v["supply"])
        )

    def peak(self) -> float:
        return max((sum(self.running(k) for k in self.items if self.is_on(k, t)) for t in self.moments), default=0.0)

    def surge(self) -> float:
        """The worst start on top of what runs then; what is of one group starts at one moment."""
        worst = self.peak()
        groups: dict[str, list[str]] = {}
        for key, load in self.items.items():
            groups.setdefault(load["start_group"] or f"alone {key}", []).append(key)
        for t in self.moments:
            runs = sum(self.running(k) for k in self.items if self.is_on(k, t))
            for members in groups.values():
                there = [k for k in members if self.is_on(k, t)]
                if there:
                    worst = max(worst, runs + sum(self.start(k) for k in there))
        return worst

    def apparent(self) -> float:
        """Greatest volt-amperes of what is on AC."""
        on_ac = [k for k, v in self.items.items() if v["supply"] == "ac"]
        return max((sum(self.running(k) / self.factor(k) for k in on_ac if self.is_on(k, t)) for t in self.moments), default=0.0)


class LoadsByHand(TestCase):
    def alike(self, ours: float, theirs: float, what: str) -> None:
        self.assertAlmostEqual(ours, theirs, delta=1e-6 * max(1.0, abs(theirs)), msg=what)

    def check(self, data: dict[str, Any]) -> None:
        paper, found = Paper(data), judge(data)
        figures = found.figures
        for key in paper.items:
            self.alike(figures[f"loads/{key}/hours"].number, paper.hours_on(key), f"{key}: hours")
            self.alike(figures[f"loads/{key}/duty"].number, paper.duty(key), f"{key}: duty")
            self.alike(figures[f"loads/{key}/watts"].number, paper.watts(key), f"{key}: watts")
            self.alike(figures[f"loads/{key}/surge_extra"].number, paper.start(key), f"{key}: start")
        for supply in ("ac", "dc_12v", "usb", "pack"):
            self.alike(figures[f"loads/energy_{supply}"].number, paper.energy(supply), f"energy, {supply}")
        self.alike(figures["loads/energy_day"].number, paper.energy(), "energy of the day")
        self.alike(figures["loads/peak"].number, paper.peak(), "running peak")
        self.alike(figures["loads/surge"].number, paper.surge(), "worst surge")
        self.alike(figures["loads/ac_apparent"].number, paper.apparent(), "volt-amperes")

    @tried(150)
    @given(designs())
    def test_any_loads_on_any_days(self, design: Design) -> None:
        self.check(write_design(design))

    def test_the_demo_builds_whose_hours_are_quarters(self) -> None:
        for name in ("tidewater", "hollow-oak", "wobbly-stall"):
            data = demo(name)
            ends = [h for load in data["loads"]["items"].values() for w in load["windows"].values() for h in w.values()]
            self.assertTrue(all(4 * h == int(4 * h) for h in ends), name)
            self.check(data)


class TimeAway(TestCase):
    """What is taken between two charges, by when it is ready and how long it is away."""

    def taken(self, ready_h: float, hours_away: float, pattern: int = 1, **load: Any) -> float:
        heater = {"name": "Heater", "kind": "heater", "supply": "pack", "watts": 100, "windows": window(10, 12)} | load
        brief = {"ready_h": ready_h, "hours_away": hours_away}
        data = document(brief=brief, loads={"items": {"h": heater}, "days": pattern})
        return judge(data).figures["loads/drawn_away_estimate"].number

    def test_only_what_falls_into_the_hours_counts(self) -> None:
        for ready_h, hours, wh in (
            (8, 16, 200),  # the whole window
            (8, 3, 100),  # unplugged an hour into it
            (11, 13, 100),  # ready when half of it is over
            (13, 10, 0),  # away after it
            (13, 22, 100),  # and into the next morning's
            (8, 26, 200),
            (8, 27, 300),  # an hour of the next day's too
            (8, 50, 400),
            (8, 51, 500),
        ):
            self.assertAlmostEqual(self.taken(ready_h, hours), wh, msg=f"ready at {ready_h}, away {hours} h")

    def test_past_midnight(self) -> None:
        night = {"windows": window(22, 2)}
        for ready_h, hours, wh in ((20, 4, 200), (20, 6, 400), (23, 2, 200), (0, 2, 200), (3, 19, 0), (3, 20, 100)):
            self.assertAlmostEqual(self.taken(ready_h, hours, **night), wh, msg=f"ready at {ready_h}, away {hours} h")

    def test_of_days_that_differ_the_fullest_counts(self) -> None:
        self.assertAlmostEqual(self.taken(8, 16, pattern=3), 200)
        lone = {"days": [2]}
        self.assertAlmostEqual(self.taken(8, 16, pattern=3, **lone), 200)
        self.assertAlmostEqual(self.taken(8, 40, pattern=3, **lone), 200)
        self.assertAlmostEqual(self.taken(8, 40, pattern=3), 400)
        self.assertAlmostEqual(self.taken(8, 64, pattern=3), 600)


class WhatThePackIsAskedFor(TestCase):
    """The estimate until the path is known: loads through typical converters, the inverter that would serve at its rating."""

    def estimate(self, items: dict[str, Any], **brief: Any) -> tuple[float, float, float]:
        figures = judge(
            document(brief={"site_max_c": 25, "ready_h": 0, "hours_away": 24} | brief, loads={"items": items})
        ).figures
        return tuple(figures[f"loads/drawn_{name}_estimate"].number for name in ("away", "peak", "surge"))  # type: ignore[return-value]

    def load(self, supply: str, watts: float, **more: Any) -> dict[str, Any]:
        return {"name": supply, "kind": "heater", "supply": supply, "watts": watts, "windows": window(10, 12)} | more

    def test_each_way_takes_its_share(self) -> None:
        for supply, eta in (("pack", 1), ("dc_12v", CONVERTER_ETA), ("usb", USB_ETA)):
            away, peak, surge = self.estimate({"a": self.load(supply, 46)})
            self.assertAlmostEqual(away, 2 * 46 / eta, msg=supply)
            self.assertAlmostEqual(peak, 46 / eta, msg=supply)
            self.assertAlmostEqual(surge, 46 / eta, msg=supply)

    def test_an_inverter_counts_at_its_rating(self) -> None:
        # 200 W at four fifths ask for 250 W; the smallest sold from there is 300 W.
        away, peak, _ = self.estimate({"a": self.load("ac", 200)})
        self.assertAlmostEqual(away, 2 * into_inverter(200, 300))
        self.assertAlmostEqual(peak, 300 / 0.88)

    def test_a_start_goes_through_the_inverter_on_top_of_what_runs_there(self) -> None:
        # 300 W at four fifths ask for 375 W; the smallest sold from there is 500 W.
        pump = self.load("ac", 100, kind="pump", surge=4, power_factor=1)
        _, peak, surge = self.estimate({"a": self.load("ac", 200), "b": pump, "c": self.load("dc_12v", 46)})
        self.assertAlmostEqual(peak, 500 / 0.88 + 46 / CONVERTER_ETA)
        self.assertAlmostEqual(surge, into_inverter(200 + 400, 500) + 46 / CONVERTER_ETA)

    def test_growth_counts_in_the_peak_and_the_surge(self) -> None:
        items = {"a": self.load("pack", 100, kind="pump", surge=4)}
        _, peak, surge = self.estimate(items)
        _, grown_peak, grown_surge = self.estimate(items, growth=0.2)
        self.assertAlmostEqual(peak, 100)
        self.assertAlmostEqual(surge, 400)
        self.assertAlmostEqual(grown_peak, 120)
        self.assertAlmostEqual(grown_surge, 480)

    def test_cells_in_parallel_cover_the_energy_with_its_margins(self) -> None:
        items = {"a": self.load("pack", 300)}
        for reserve, growth in ((0, 0), (0.2, 0), (0.2, 0.3)):
            data = document(
                brief={"site_min_c": 25, "site_max_c": 25, "ready_h": 0, "hours_away": 24, "reserve": reserve, "growth": growth},
                loads={"items": items},
                pack={"form": "cells", "chemistry": "lfp", "series": 4, "cell": {"capacity_ah": 10, "shape": "prismatic"}},
            )
            wanted = 600 * (1 + growth) / (1 - reserve) * WIRING
            by_energy = -(-wanted // (10 * 4 * 3.3008824 * 0.85 * 0.9))
            by_current = -(-(1.25 * 300 * (1 + growth) / (4 * 2.8)) // 10)
            self.assertEqual(judge(data).pack.parallel.number, max(by_energy, by_current), f"reserve {reserve}, growth {growth}")


class VoltsAndAmps(TestCase):
    """Volts and amps of a load straight on the pack: what stays the same when the pack is low or full."""

    def found(self, kind: str, law: str | None = None) -> Assessment:
        load = {
            "name": "Load",
            "kind": kind,
            "supply": "pack",
            "measured": {"by": "volts_amps", "volts": 12, "amps": 20, "law": law},
            "surge": 1,
            "windows": window(10, 12),
        }
        network = {
            "f": {"part": "protection", "name": "F", "feed": "pack"},
            "o": {"part": "outlet", "name": "O", "feed": "f", "connector": "post-m6"},
        }
        pack = {"form": "battery", "chemistry": "lfp", "battery": {"series": 4}}
        return judge(document(loads={"items": {"l": load}}, power={"network": network}, pack=pack))

    def test_each_law_at_the_voltage_where_it_takes_most(self) -> None:
        low, full = 4 * 2.8, 4 * 3.65
        for kind, law, amps in (
            ("electronics", None, 240 / low),
            ("electronics", "current", 20),
            ("brushed", None, 20),
            ("heater", None, 20 * full / 12),
            ("heater", "power", 240 / low),
        ):
            power = self.found(kind, law).power
            self.assertAlmostEqual(power.parts["o"].current.number, amps, msg=f"{kind}, {law}")
            self.assertAlmostEqual(power.current.number, amps)

    def test_the_day_counts_what_it_takes_at_the_nominal_voltage(self) -> None:
        nominal = 4 * 3.2
        for kind, watts in (("brushed", 20 * nominal), ("heater", 20 * nominal**2 / 12), ("electronics", 240)):
            figures = self.found(kind).figures
            standing = 24 * figures["power/standing"].number
            taken = figures["power/drawn_day"].number - figures["power/wiring_day"].number - standing
            self.assertAlmostEqual(taken, 2 * watts, msg=kind)

    def test_the_simulation_follows_the_law(self) -> None:
        for kind in ("brushed", "heater"):
            run = simulated(self.found(kind), 1)
            hours = [i for i, h in enumerate(run.hour) if 10.1 < h < 11.9]
            for i in hours:
                volts, amps = run.banks[0].volts[i], run.banks[0].amps[i]
                expected = 20 if kind == "brushed" else 20 * volts / 12
                self.assertAlmostEqual(amps, expected, delta=0.03 * expected, msg=kind)
