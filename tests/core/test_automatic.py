"""Automatic choices never contradict one another: what the app chose, the app does not find fault with."""

from typing import Any
from unittest import TestCase

from hypothesis import HealthCheck, given

from tests import tried
from tests.core.automatic import automatic, incurable, one_pinned
from tests.core.samples import document, judge, mended, put, window

many = tried(2000, daily=120, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])


class AutomaticChoices(TestCase):
    def contradictions(self, data: dict[str, Any]) -> list[str]:
        found = judge(data)
        return [f"{f.id}: {f.text}" for f in found.findings if f.severity != "note" and not incurable(f, found)]

    @many
    @given(automatic())
    def test_never_contradict_one_another(self, data: dict[str, Any]) -> None:
        self.assertEqual(self.contradictions(data), [])

    @many
    @given(one_pinned())
    def test_nor_what_is_pinned_as_it_was_or_more_generous(self, pinned: tuple[dict[str, Any], str]) -> None:
        data, at = pinned
        self.assertEqual(self.contradictions(data), [], f"{at} pinned")

    def test_a_hundred_watts_of_ac_with_everything_left_to_choice(self) -> None:
        """The board gives what the smallest inverter sold draws at its rating."""
        load = {"name": "Lamp", "kind": "heater", "supply": "ac", "watts": 100, "windows": window(18, 20)}
        data = document(loads={"items": {"lamp": load}}, pack={"form": "cells"})
        asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        data = mended(data, asked.remedies[0].patch)
        self.assertEqual(self.contradictions(data), [])
        found = judge(data)
        inverter = found.power.inverters["inverter"]
        self.assertGreaterEqual(found.pack.continuous.number, inverter.rated_current.number)

    def test_a_socket_in_the_heat_stands_a_breaker_that_carries_its_circuit(self) -> None:
        """At 45 °C a 10 A socket carries 9.35 A: the next breaker below that is 6 A, too small for a kettle."""
        load = {"name": "Kettle", "kind": "heater", "supply": "ac", "watts": 1450, "windows": window(18, 19)}
        data = document(loads={"items": {"kettle": load}}, pack={"form": "cells"})
        asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        data = mended(data, asked.remedies[0].patch)
        for hottest_c, breaker_a in ((20, None), (41, None), (45, None), (41, 16), (20, 16)):
            case = put(put(data, "/brief/site_max_c", hottest_c), "/power/network/ac-outlet/breaker_a", breaker_a)
            self.assertEqual(self.contradictions(case), [], f"{hottest_c} °C, {breaker_a} A")

    def test_a_pinned_rating_leaves_its_family_where_that_does_not_serve(self) -> None:
        """16 A is no rating of a blade fuse, which would open at the start; without the pin, blade fuses serve behind it."""
        loads = {
            "screen": {"name": "Screen", "kind": "brushed", "supply": "usb", "watts": 55, "windows": window(0, 0.5)},
            "pump": {"name": "Pump", "kind": "air-compressor", "supply": "pack", "watts": 25, "windows": window(0, 0.5)},
        }
        battery = {"series": 6, "capacity_ah": 67, "continuous_a": 60}
        pack = {"form": "battery", "chemistry": "agm", "gas_opening_cm2": 500, "battery": battery}
        data = document(loads={"items": loads}, pack=pack)
        asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        data = mended(data, asked.remedies[0].patch)
        for rating in (12, 15, 16, 20, 25):
            self.assertEqual(self.contradictions(put(data, "/power/network/block-fuse/rating_a", rating)), [], f"{rating} A")

    def test_a_pinned_circuit_fuse_is_no_larger_than_the_automatic_one_before_it(self) -> None:
        load = {"name": "Radio", "kind": "electronics", "supply": "pack", "watts": 20, "windows": window(18, 20)}
        data = document(loads={"items": {"radio": load}}, pack={"form": "cells"})
        asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        data = mended(data, asked.remedies[0].patch)
        for rating in (5, 10, 20, 30):
            pinned = put(data, "/power/network/outlet-fuse/rating_a", rating)
            self.assertEqual(self.contradictions(pinned), [], f"{rating} A")
            ratings = judge(pinned).figures
            self.assertGreaterEqual(ratings["power/main-fuse/rating"].number, rating)
