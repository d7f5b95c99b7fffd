"""The sun: worked yields, a direct run over the year, properties, and what follows from it for the months."""

import subprocess
import sys
from itertools import pairwise
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np
import pandas as pd
from pvlib import irradiance, solarposition

from kegcart.core.charging import sun
from kegcart.core.charging.yields import gets_through
from kegcart.core.check import Verdict
from kegcart.core.design import DesignError, read_design
from kegcart.core.finding import Severity
from kegcart.core.forecast import course_of, forecast
from kegcart.core.reference import climates, constant
from tests import PROVING
from tests.core.samples import demo, document, judge, mended, put, window

OAK = demo("hollow-oak")
WIDE: dict[str, Any] = {
    "form": "battery",
    "chemistry": "lfp",
    "battery": {"series": 4, "capacity_ah": 500, "continuous_a": 250, "charge_a": 250},
}
"""A pack that takes whatever the panels give."""


def array(sunshine: dict[str, Any] | None = None, **more: Any) -> dict[str, Any]:
    """A 4S pack with panels, called `in`."""
    source = {"kind": "solar", "name": "Panels", **more}
    return document(pack=WIDE, charging={"sources": {"in": source}, "sun": sunshine or {}})


def brought(data: dict[str, Any], month: int) -> float:
    """Wh that the array brings on a day of a month."""
    return judge(data).figures[f"charging/in/yield/{month}"].number


def directly(latitude: float, clearness: tuple[float, ...], tilt: float, facing: float) -> list[float]:
    """Hours of full sun on a plane, a mean day of each month: every ten minutes of 365 days, the sun by the algorithm of the almanac."""
    times = pd.date_range("2023-01-01 00:05", periods=365 * 144, freq="10min", tz="UTC")
    there = solarposition.get_solarposition(times, latitude, 0.0, method="nrel_numpy")
    zenith, azimuth = there["zenith"].to_numpy(), there["azimuth"].to_numpy()
    above = irradiance.get_extra_radiation(times).to_numpy()
    month = times.month.to_numpy()
    mean = np.array(clearness)[month - 1]
    whole = np.zeros(len(times))
    days = sun.clearnesses(mean)
    for i in range(days.shape[1]):
        level = days[:, i] * above * np.maximum(np.cos(np.radians(zenith)), 0)
        parts = irradiance.erbs(level, zenith, times.day_of_year.to_numpy())
        plane = irradiance.get_total_irradiance(
            tilt, facing, zenith, azimuth, parts["dni"], level, parts["dhi"], above, albedo=constant("albedo"), model="haydavies"
        )
        whole += np.nan_to_num(plane["poa_global"]) / days.shape[1]
    return [float(whole[month == m].sum() / 6000 / int((month == m).sum() / 144)) for m in range(1, 13)]


class Examples(TestCase):
    """To three digits, as the reference says them."""

    def test_a_days_yield_is_power_times_hours_of_full_sun_times_what_arrives(self) -> None:
        # 400 W at 4.2 h: 1.26 kWh; at 1.1 h, in December at 50° N: 330 Wh.
        hours = [1.2, 1.8, 2.7, 4.2, 5.0, 5.4, 5.4, 4.6, 3.3, 2.0, 1.2, 1.1]
        level = array({"latitude_deg": 50, "sun_hours": hours}, panels=4, tilt_deg=0)
        self.assertAlmostEqual(brought(level, 4), 1260, delta=1)
        self.assertAlmostEqual(brought(level, 12), 330, delta=0.5)

    def test_december_in_the_middle_latitudes(self) -> None:
        # About one hour of full sun on a plane that faces it; lying level less than two thirds of that.
        place = sun.Place(50.0, (0.3,) * 12)
        steep, level = (sum(sun.mean_days(place, tilt, 180.0)[11]) / 1000 for tilt in (60.0, 0.0))
        self.assertAlmostEqual(steep, 1.0, delta=0.12)
        self.assertLess(level, steep * 2 / 3)

    def test_a_shadow_costs_the_third_behind_a_bypass_diode(self) -> None:
        self.assertAlmostEqual(gets_through(1, 2, 1, 20.0, 25.0, tracks=True), 5 / 6)
        # A string that falls below what the controller needs gives nothing at all.
        self.assertEqual(gets_through(1, 1, 1, 18.4, 13.2, tracks=False), 0.0)
        self.assertEqual(gets_through(1, 2, 1, 20.0, 34.0, tracks=True), 0.0)
        # Two panels side by side: both at two thirds of the voltage give more than the one in the sun alone.
        self.assertAlmostEqual(gets_through(1, 1, 2, 20.0, 10.0, tracks=True), 2 / 3)
        self.assertAlmostEqual(gets_through(1, 1, 2, 20.0, 15.0, tracks=True), 1 / 2)
        self.assertAlmostEqual(gets_through(1, 1, 2, 20.0, 15.0, tracks=False), 1 / 2)

    def test_a_pwm_controller_brings_its_current_at_the_packs_voltage(self) -> None:
        pwm, mppt = (array(type=kind, panels=1) for kind in ("pwm", "mppt"))
        volts = judge(pwm).charging.sources["in"].charged.half_full().number
        self.assertAlmostEqual(brought(pwm, 6) / brought(mppt, 6), 5.43 * volts / 100, delta=0.001)

    def test_flat_on_a_roof_the_cells_are_hotter(self) -> None:
        roof, free = (array(tilt_deg=20, on_roof=on, panels=2) for on in (True, False))
        self.assertTrue(0.94 < brought(roof, 7) / brought(free, 7) < 0.99)
        hot = [judge(data).figures["charging/in/vmp_hot"].number for data in (roof, free)]
        # γ −0.38 %/K · 15 K of the voltage at 25 °C.
        self.assertAlmostEqual((hot[1] - hot[0]) / judge(free).figures["charging/in/vmp"].number, 0.0038 * 15, delta=1e-4)

    def test_what_the_controller_does_not_let_through_is_taken_off(self) -> None:
        free, held = array(panels=4), array(panels=4, current_a=8)
        self.assertAlmostEqual(brought(free, 12), brought(held, 12), delta=20)
        self.assertLess(brought(held, 6), 0.9 * brought(free, 6))
        self.assertIn("clipped", judge(held).figures["charging/in/yield/6"].inputs["E_clip"].label)  # type: ignore[index]


class AgainstTheWholeYear(TestCase):
    def test_days_that_stand_for_a_month_agree_with_every_hour_of_the_year(self) -> None:
        chance = Random(3)
        rows = [c for c in climates().values() if abs(c.latitude) <= 60]
        for row in rows if PROVING else chance.sample(rows, 3):
            for _ in range(4 if PROVING else 2):
                tilt, facing = chance.uniform(0, 90), chance.uniform(0, 360)
                place = sun.Place(row.latitude, row.clearness)
                ours = [sum(day) / 1000 for day in sun.mean_days(place, tilt, facing)]
                for month, (have, want) in enumerate(
                    zip(ours, directly(row.latitude, row.clearness, tilt, facing), strict=True), 1
                ):
                    with self.subTest(row.key, tilt=tilt, facing=facing, month=month):
                        self.assertAlmostEqual(have, want, delta=max(0.03 * want, 0.01))

    def test_beyond_the_polar_circle_the_night_has_no_sun(self) -> None:
        row = climates()["far-north"]
        ours = [sum(day) / 1000 for day in sun.mean_days(sun.Place(row.latitude, row.clearness), 60.0, 180.0)]
        theirs = directly(row.latitude, row.clearness, 60.0, 180.0)
        self.assertLess(ours[11], 0.01)
        for have, want in zip(ours, theirs, strict=True):
            self.assertAlmostEqual(have, want, delta=max(0.05 * want, 0.02))

    def test_days_with_clouds_have_together_the_sun_of_their_month(self) -> None:
        for key in ("temperate-inland", "desert", "monsoon"):
            place = sun.Place(climates()[key].latitude, climates()[key].clearness)
            for month in (1, 7):
                days = sun.on_plane(sun.clouded_days(place, month), 30.0, 180.0).sum(axis=1) / 1000
                mean = sum(sun.mean_days(place, 30.0, 180.0)[month - 1]) / 1000
                self.assertAlmostEqual(float(days.mean()) / mean, 1, delta=0.06)
                self.assertGreater(float(days.std()), 0.05 * mean, "one day is not like another")


class Properties(TestCase):
    def test_more_panels_never_lower_the_yield(self) -> None:
        chance = Random(5)
        for _ in range(40 if PROVING else 6):
            panel, kind = chance.choice(["p50", "p100", "p200", "p340", "p450"]), chance.choice(["mppt", "pwm"])
            pinned = chance.choice([None, 1, 2])
            series = chance.choice([4, 8, 14])
            before = 0.0
            for count in range(max(1, pinned or 1), 10):
                data = array(panel=panel, panels=count, type=kind, in_series=pinned, shaded_thirds=chance.choice([0, 0, 1]))
                data["charging"]["sources"]["in"]["shaded_thirds"] = 0
                after = brought(put(data, "/pack/battery/series", series), 5)
                self.assertGreaterEqual(after, before - 1e-6, (panel, kind, pinned, series, count))
                before = after

    def test_more_shadow_a_smaller_share_fewer_hours_never_bring_more(self) -> None:
        for field, values in {
            "shaded_thirds": [0, 1, 2, 3, 6, 9, 99],
            "share": [0.95, 0.75, 0.5],
            "windows": [{}, window(8, 18), window(10, 14)],
        }.items():
            wh = [brought(array(panels=4, **{field: value}), 8) for value in values]
            self.assertEqual(wh, sorted(wh, reverse=True), field)
            self.assertLess(wh[-1], wh[0], field)

    def test_no_tilt_brings_more_in_the_poorest_month_than_the_one_chosen(self) -> None:
        for climate in ("northern", "desert", "equatorial", "southern-temperate"):
            least = [
                min(brought(array({"climate": climate}, tilt_deg=t), m) for m in range(1, 13))
                for t in (None, 0, 15, 30, 50, 70, 90)
            ]
            self.assertGreaterEqual(least[0], max(least[1:]) * 0.985, climate)

    def test_a_longer_night_never_leaves_it_emptier(self) -> None:
        ends = []
        for hour in (23, 23.5, 0.5, 1, 2, 4):
            night = put(demo("lantern-lane"), "/charging/sources/mains/windows", window(22.5, hour))
            ends.append(course_of(judge(night), "coldest", 1).banks[0].last_charge)
        for short, long in pairwise(ends):
            self.assertGreaterEqual(long, short - 1e-6)
        self.assertGreater(ends[2], ends[0] + 0.1)

    def test_the_south_has_its_months_half_a_year_later(self) -> None:
        north, south = array({"climate": "temperate-inland"}), array({"climate": "temperate-inland", "latitude_deg": -50})
        for month in range(1, 13):
            other = (month + 5) % 12 + 1
            self.assertAlmostEqual(brought(south, other) / brought(north, month), 1, delta=0.09)
        facing = judge(south).figures["charging/in/facing"].number
        self.assertEqual((facing, judge(south).charging.sun.month("coldest")), (0, 7))  # type: ignore[union-attr]


class TheYear(TestCase):
    def finding(self, data: dict[str, Any]) -> Any:
        return next(f for f in judge(data).findings if f.id == "charging.solar-short")

    def test_months_in_which_the_barn_does_not_suffice(self) -> None:
        found = self.finding(OAK)
        self.assertEqual(found.severity, Severity.NOTE)
        self.assertIn("From November to January", found.text)
        judged = judge(OAK)
        need = judged.figures["power/drawn_day"].number / judged.pack.chemistry.coulombic
        self.assertAlmostEqual(judged.figures["charging/year/pack/needed"].number, need)
        for month in range(1, 13):
            left = need - judged.figures[f"charging/barn/yield/{month}"].number
            rest = judged.figures.get(f"charging/year/pack/{month}/rest")
            self.assertEqual(rest is not None, left > 0, "said only where something is left")
            self.assertAlmostEqual(rest.number if rest else 0.0, max(0.0, left))
        # What the panels would have to be is what brings the day, and a hair less does not.
        watts = judged.figures["charging/year/pack/12/watts"].number
        enough = put(put(OAK, "/charging/sources/barn/sheet/watts", watts / 4 + 0.01), "/charging/sources/barn/current_a", 60)
        self.assertNotIn("charging.solar-short", {f.id for f in judge(enough).findings})

    def test_with_the_sun_alone_it_is_to_be_mended_and_no_day_is_said_to_fill_it(self) -> None:
        alone = mended(
            OAK,
            [
                {"op": "replace", "path": "/power/network/charge-inlet/source", "value": None},
                {"op": "remove", "path": "/charging/sources/house"},
            ],
        )
        self.assertEqual(self.finding(alone).severity, Severity.MEND)
        for remedy in self.finding(alone).remedies:
            self.assertNotIn("charging.solar-short", {f.id for f in judge(mended(alone, remedy.patch)).findings})
        checks = {c.place: c for c in forecast(judge(alone)).checks if c.id == "charging.window"}
        self.assertEqual(checks["/brief/site_min_c"].verdict, Verdict.OPEN)
        self.assertIn("January", checks["/brief/site_min_c"].missing)
        # In July the sun fills it at noon; that it stands lower in the morning, when it leaves, is as it should be.
        self.assertEqual(checks["/brief/site_max_c"].verdict, Verdict.HOLDS)

    def test_a_bank_of_its_own_has_a_year_of_its_own(self) -> None:
        network = {"fuse": {"part": "protection", "name": "Fuse", "feed": "starter"}}
        network |= {"sun": {"part": "input", "name": "Sun", "feed": "fuse", "source": "in"}}  # type: ignore[dict-item]
        network |= {"lamp": {"part": "outlet", "name": "Lamp", "feed": "fuse"}}
        bank = {"name": "Starter bank", "chemistry": "agm", "series": 6, "capacity_ah": 80}
        data = put(array(panel="p50"), "/power", {"banks": {"starter": bank}, "network": network})
        data = put(
            data,
            "/loads/items",
            {"l": {"name": "Lamp", "supply": "pack", "watts": 10, "windows": window(18, 22), "outlet": "lamp"}},
        )
        figures = judge(document(**{k: v for k, v in data.items() if k not in ("format", "version", "name")})).figures
        self.assertNotIn("charging/year/pack/needed", figures)
        self.assertAlmostEqual(figures["charging/year/starter/needed"].number, 40 / 0.95, delta=3)

    def test_where_no_sun_ever_shines_nothing_is_brought_and_nothing_breaks(self) -> None:
        dark = array({"sun_hours": [0] * 12})
        self.assertEqual([brought(dark, month) for month in (1, 7)], [0, 0])
        self.assertNotIn("charging/year/pack/7/watts", judge(dark).figures)
        self.assertEqual(course_of(judge(dark), "hottest", 1).given_wh, [0.0])

    def test_more_sun_than_there_is_above_the_air_is_told(self) -> None:
        typed = array({"latitude_deg": 50, "sun_hours": [2.5, 2, 3, 4, 5, 5.5, 5.5, 4.5, 3.5, 2, 2.5, 2.5]}, tilt_deg=0)
        found = next(f for f in judge(typed).findings if f.id == "charging.sun-table")
        self.assertIn("from November to January", found.text)
        # Of December counts what the clearest sky lets through: 0.8 of the hours above the air.
        self.assertAlmostEqual(brought(typed, 12), 100 * 0.8 * sun.above_the_air(50.0)[11] * 0.75, delta=0.5)
        # 24/π · 1411 W/m² · (cos φ cos δ sin ω + ω sin φ sin δ) = 2.10 kWh/m² at δ = −23.3°, the middle of the month.
        self.assertAlmostEqual(sun.above_the_air(50.0)[11], 2.1, delta=0.06)


class WhatIsTyped(TestCase):
    def sunshine(self, text: object) -> list[float] | None:
        return read_design(array({"sun_hours": text})).charging.sun.sun_hours

    def test_twelve_figures_are_read_as_they_are_pasted(self) -> None:
        want = [0.8, 1.6, 2.7, 4.1, 5, 5.5, 5.6, 4.8, 3.5, 2.1, 1, 0.6]
        for between in (" ", "\n", "\t", "; ", ", "):
            self.assertEqual(self.sunshine(between.join(str(v) for v in want)), want)
        self.assertEqual(self.sunshine(" ".join(str(v).replace(".", ",") for v in want)), want)
        self.assertEqual(self.sunshine(",".join(str(v) for v in want)), want)
        for wrong in ("1 2 3", "one two", "1 " * 13, [1] * 11, "99 " * 12):
            with self.assertRaises(DesignError) as caught:
                self.sunshine(wrong)
            self.assertTrue(all(pointer.startswith("/charging/sun/sun_hours") for pointer, _ in caught.exception.problems))

    def test_a_direction_is_read_in_degrees_or_by_the_compass(self) -> None:
        for typed, degrees in {"S": 180, "sw": 225, "NNE": 22.5, "90": 90, "45 °": 45, 270: 270}.items():
            self.assertEqual(judge(array(facing_deg=typed)).figures["charging/in/facing"].number, degrees)
        with self.assertRaises(DesignError):
            judge(array(facing_deg="sunwards"))

    def test_a_source_by_the_hour_is_pasted_too(self) -> None:
        data = document(
            pack=WIDE, charging={"sources": {"in": {"kind": "by_hour", "name": "Mill", "hourly_w": "20 " * 23 + "0.05 kW"}}}
        )
        self.assertEqual(data["charging"]["sources"]["in"]["hourly_w"], [20.0] * 23 + [50.0])


class OnlyWhereThereIsSun(TestCase):
    def test_nothing_is_loaded_where_no_sun_is(self) -> None:
        lines = (
            "import sys",
            "from tests.core.samples import document, judge, mains",
            "from kegcart.core.forecast import forecast",
            f"data = document(pack={WIDE!r}, charging={{'sources': {{'m': mains(5)}}}})",
            "forecast(judge(data))",
            "assert not {'pvlib', 'pandas'} & set(sys.modules), sorted(sys.modules)",
            "data['charging']['sources']['s'] = {'kind': 'solar', 'name': 'Panels'}",
            "judge(data)",
            "assert 'pvlib' in sys.modules",
        )
        done = subprocess.run([sys.executable, "-c", "\n".join(lines)], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
