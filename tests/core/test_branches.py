"""Branch fuses: which opens first, the short tap from the bar, one family in a block, the least cable to an outlet."""

from math import exp, log
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.electrical.protection import stays_closed_from
from kegcart.core.reference import families, wires
from kegcart.core.remedies import offered
from tests import tried
from tests.core.samples import demo, document, ids, judge, mended, put, window

LANE, TIDE = "lantern-lane", "tidewater"
NET = "/power/network"


def needs(upper: str, lower: str, rating: float, fault_a: float) -> float:
    return stays_closed_from(families()[upper], families()[lower], rating, fault_a)


class Selective(TestCase):
    def test_within_one_family_it_is_one_and_six_tenths(self) -> None:
        for family in ("blade", "class-t", "nh", "strip"):
            self.assertAlmostEqual(needs(family, family, 40, 900), 64)

    def test_a_fast_fuse_over_a_blade_by_what_the_blade_lets_through(self) -> None:
        """2 · (6 · 10 A)² · 20 ms = 144 A²s; a class T melts at 25 · 20 ms · I²: 0.5 · I². √288 = 16.97 A. Its curve stays above."""
        self.assertAlmostEqual(needs("class-t", "blade", 10, 1000), 288**0.5)

    def test_a_bolt_in_over_a_breaker_by_the_whole_fault(self) -> None:
        """(2 kA)² · 10 ms = 40 000 A²s against 25 · 0.1 s · I²."""
        self.assertAlmostEqual(needs("strip", "din-breaker", 16, 2000), (40_000 / 2.5) ** 0.5)

    def test_a_slow_fuse_behind_a_fast_one_by_its_curve(self) -> None:
        """The middle of a bolt-in at 5 × is √0.1 s = 0.316 s; a class T usually opens then at 3.52 ×: 5 / 3.52 of its rating."""
        # Between 2 × at √30 s and 5 × at √0.004 s, by straight lines on logarithmic paper.
        share = log(0.1**0.5 / 30**0.5) / log(0.004**0.5 / 30**0.5)
        multiple = exp(log(2) * (1 - share) + log(5) * share)
        needed = max(5 / multiple * 100, (2 * 2.5 * 100**2 / 0.5) ** 0.5)
        self.assertAlmostEqual(needs("class-t", "bolt-in-large", 100, 2000), needed)

    @tried(300)
    @given(
        st.sampled_from(sorted(set(families()) - {"ac-only"})),
        st.sampled_from(sorted(set(families()) - {"ac-only"})),
        st.floats(1, 400),
        st.floats(50, 20_000),
    )
    def test_a_larger_one_behind_never_needs_less(self, upper: str, lower: str, rating: float, fault_a: float) -> None:
        self.assertLessEqual(needs(upper, lower, rating, fault_a), needs(upper, lower, rating * 1.2, fault_a) + 1e-9)
        self.assertLessEqual(needs(upper, lower, rating, fault_a), needs(upper, lower, rating, fault_a * 1.2) + 1e-9)

    def test_it_takes_no_thicker_main_path(self) -> None:
        """5 kW at 48 V: the main fuse is what the inverter asks for, or what costs no copper."""
        saw = {"name": "Saw", "kind": "heater", "supply": "ac", "watts": 3900, "windows": window(9, 10)}
        pack = {"form": "cells", "series": 16, "cell": {"capacity_ah": 280}}
        data = document(loads={"items": {"saw": saw}}, pack=pack, brief={"site_max_c": 25})
        asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        data = mended(data, asked.remedies[0].patch)
        data = put(data, f"{NET}/spare-fuse", {"part": "protection", "name": "Spare fuse", "feed": "busbar"})
        main = judge(data).power.parts["main-fuse"]
        assert main.rating and main.run
        self.assertLessEqual(main.rating.number, 200)
        self.assertLessEqual(main.run.wire.area_mm2, 50)

    def test_one_that_may_open_with_another_is_a_note_and_one_that_opens_before_it_is_mended(self) -> None:
        for rating, severity in ((15, "note"), (3, "mend")):
            data = put(demo(LANE), f"{NET}/block-fuse/rating_a", rating)
            data = put(put(data, f"{NET}/block-fuse/family", "cartridge"), f"{NET}/sound-fuse/rating_a", 12)
            found = next(f for f in judge(data).findings if f.id == "power.selectivity")
            self.assertEqual(found.severity, severity)


class ShortTaps(TestCase):
    def stub(self, **run: Any) -> tuple[float, set[str]]:
        """The section of the cable to the fuse of the block behind a main fuse of 150 A, and what is found."""
        data = demo(LANE)
        data["power"]["network"]["block-fuse"]["run"] |= run
        found = judge(data)
        part = found.power.parts["block-fuse"]
        assert part.run
        return part.run.wire.area_mm2, {f.id for f in found.findings if f.place.startswith(f"{NET}/block-fuse")}

    def test_a_hand_from_the_bar_it_is_sized_for_its_own_fuse(self) -> None:
        for length in (0.05, 0.18):
            area, found = self.stub(length_m=length)
            self.assertLess(area, 4)
            self.assertEqual(found, set())

    def test_farther_off_or_bare_it_bears_the_main_fuse_and_that_is_said(self) -> None:
        for run in ({"length_m": 0.19}, {"length_m": 0.1, "sheathed": False}):
            area, found = self.stub(**run)
            self.assertGreaterEqual(area, 25)
            self.assertIn("power.long-stub", found)

    def test_set_at_the_bar_it_needs_no_more(self) -> None:
        data = put(demo(LANE), f"{NET}/block-fuse/run/length_m", 0.4)
        before = judge(data)
        finding = next(f for f in before.findings if f.id == "power.long-stub")
        after = offered(before, finding)[0].after
        run = after.power.parts["block-fuse"].run
        assert run
        self.assertLess(run.wire.area_mm2, 4)

    def test_a_tap_too_thin_for_its_own_fuse_is_stopped(self) -> None:
        data = put(put(demo(LANE), f"{NET}/block-fuse/rating_a", 30), f"{NET}/block-fuse/run/gauge", "0.75 mm²")
        places = {f.place for f in judge(data).findings if f.id == "power.wire-unprotected"}
        self.assertIn(f"{NET}/block-fuse/run", places)

    def test_a_run_behind_a_converter_is_no_tap(self) -> None:
        network = judge(demo(LANE)).power.network
        self.assertEqual(network.taps, {"block-fuse"})


class OneFamily(TestCase):
    def families_of(self, data: dict[str, Any]) -> set[str]:
        power = judge(data).power
        keys = power.network.children["fuse-block"]
        return {str(power.parts[k].family.key) for k in keys if power.parts[k].family}  # type: ignore[union-attr]

    def test_fuses_of_a_block_are_of_one_family(self) -> None:
        for name in (LANE, TIDE, "hollow-oak"):
            self.assertEqual(len(self.families_of(demo(name))), 1, name)

    def test_one_that_is_pinned_leads_the_others(self) -> None:
        self.assertEqual(self.families_of(put(demo(LANE), f"{NET}/usb-fuse/family", "din-breaker")), {"din-breaker"})

    def test_one_that_does_not_open_the_fault_leads_nobody(self) -> None:
        data = put(demo(LANE), f"{NET}/usb-fuse/family", "ac-only")
        self.assertIn("power.block-family", ids(data))
        self.assertNotIn("ac-only", {judge(data).power.parts["sound-fuse"].family.key})  # type: ignore[union-attr]

    def test_58_v_blades_stand_where_those_of_32_v_do_not(self) -> None:
        data = put(demo(TIDE), "/pack/battery/series", 12)
        data = put(data, "/pack/battery/resistance_mohm", 400)
        self.assertEqual(self.families_of(data), {"blade-58"})


class LeastCable(TestCase):
    def test_no_outlet_gets_a_thread(self) -> None:
        for system, least in (("mm2", "1 mm²"), ("awg", "16 AWG")):
            data = put(put(demo(TIDE), "/brief/gauge_system", system), f"{NET}/usb/run/length_m", 0.2)
            run = judge(data).power.parts["usb"].run
            assert run
            self.assertEqual(run.wire.key, least)

    def test_unless_it_is_asked_for(self) -> None:
        thin = next(key for key, wire in wires().items() if wire.system == "awg" and wire.area_mm2 < 1)
        found = judge(put(demo(TIDE), f"{NET}/usb/run/gauge", thin))
        self.assertEqual([f.id for f in found.findings if f.place.startswith(f"{NET}/usb/run")], [])


class NotSold(TestCase):
    def test_the_next_ones_that_are_made_are_offered(self) -> None:
        before = judge(put(demo(TIDE), f"{NET}/main-fuse/rating_a", 22))
        finding = next(f for f in before.findings if f.id == "power.not-sold")
        self.assertEqual({o.label for o in offered(before, finding)}, {"Take 20 A", "Take 25 A"})

    def test_what_is_sold_is_not_spoken_of(self) -> None:
        for rating in families()["cartridge"].ratings_a[4:]:
            data = put(put(demo(TIDE), f"{NET}/main-fuse/family", "cartridge"), f"{NET}/main-fuse/rating_a", rating)
            self.assertNotIn("power.not-sold", ids(data), f"{rating} A")

    def test_an_inverter_of_any_rating_is_taken_as_it_is(self) -> None:
        for watts in (350, 2200):
            found = judge(put(demo(LANE), f"{NET}/inverter/rating_w", watts))
            self.assertEqual(found.power.inverters["inverter"].rating.number, watts)
            self.assertNotIn("power.not-sold", {f.id for f in found.findings})

    def test_twenty_strings_of_twenty_modules(self) -> None:
        bank = {"form": "modules", "in_series": 20, "parallel": 20, "battery": {"series": 1, "capacity_ah": 10}}
        found = judge(put(demo(TIDE), "/pack", bank))
        self.assertEqual((found.pack.series.number, found.pack.parallel.number), (20, 20))
