"""The pack: strings that share a current, links, lead-acid, own curves, joining. A builder bolts together what these say."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.document import Cell, Link
from kegcart.core.pack.energy import peukert_hours
from kegcart.core.pack.links import pick_link, size_link
from kegcart.core.pack.strings import string_shares
from kegcart.core.reference import link_materials
from tests import tried
from tests.core.samples import LITHIUM, demo, document, ids, judge, put, simulated, window
from tests.core.test_findings import bank, groups, resting


def two_by_hand(r: float, link: float) -> tuple[float, float]:
    """Two equal strings, taken off at the first: the second has both links in its way. Currents divide inversely."""
    return (r + 2 * link) / (2 * r + 2 * link), r / (2 * r + 2 * link)


class StringShares(TestCase):
    def test_two_strings_from_one_side_by_hand(self) -> None:
        for r, link in ((10e-3, 1e-3), (5e-3, 0.2e-3), (1.0, 1.0)):
            for ours, hand in zip(string_shares([r, r], link, "same side"), two_by_hand(r, link), strict=True):
                self.assertAlmostEqual(ours, hand, places=12)

    def test_two_strings_at_opposite_corners_share_evenly(self) -> None:
        # Each string has exactly one link in its way.
        self.assertAlmostEqual(string_shares([0.01, 0.01], 0.001, "opposite corners")[0], 0.5, places=12)

    def test_three_strings_from_one_side_by_hand(self) -> None:
        # Seen from the far end: string 3 behind two links, in parallel with string 2, behind two links, with string 1.
        r, link = 10e-3, 1e-3
        third = r + 2 * link
        inner = r * third / (r + third) + 2 * link
        first = inner / (r + inner)
        second = (1 - first) * third / (r + third)
        for ours, hand in zip(string_shares([r] * 3, link, "same side"), (first, second, 1 - first - second), strict=True):
            self.assertAlmostEqual(ours, hand, places=12)

    def test_three_strings_at_opposite_corners_by_hand(self) -> None:
        # The outer strings each carry x and the inner one 1 - 2x. Round the loop of strings 1 and 2: the positive rail
        # between them carries 1 - x, the negative rail x, so r·x = r·(1-2x) + link·(1-x) - link·x.
        r, link = 10e-3, 1e-3
        x = (r + link) / (3 * r + 2 * link)
        for ours, hand in zip(string_shares([r] * 3, link, "opposite corners"), (x, 1 - 2 * x, x), strict=True):
            self.assertAlmostEqual(ours, hand, places=12)

    def test_four_strings_at_opposite_corners_by_hand(self) -> None:
        # By symmetry x, y, y, x with x + y = 1/2. Loop of strings 1 and 2 as above: r·x + link·x = r·y + link·(1-x).
        r, link = 8e-3, 0.5e-3
        x = (r / 2 + link) / (2 * r + 2 * link)
        y = 0.5 - x
        for ours, hand in zip(string_shares([r] * 4, link, "opposite corners"), (x, y, y, x), strict=True):
            self.assertAlmostEqual(ours, hand, places=12)

    def test_four_strings_from_one_side_by_hand(self) -> None:
        r, link = 8e-3, 0.5e-3
        hand, seen = [1.0], r  # currents relative to the far string's, the resistance seen from its node
        for _ in range(3):
            seen += 2 * link
            hand = [*hand, sum(hand) * seen / r]
            seen = r * seen / (r + seen)
        total = sum(hand)
        for ours, expected in zip(string_shares([r] * 4, link, "same side"), [h / total for h in reversed(hand)], strict=True):
            self.assertAlmostEqual(ours, expected, places=12)

    @given(
        st.lists(st.floats(1e-3, 1), min_size=1, max_size=8),
        st.floats(1e-6, 0.1),
        st.sampled_from(["same side", "opposite corners", "equal leads"]),
    )
    def test_shares_add_up_and_none_is_negative(self, ohms: list[float], link: float, takeoff: Any) -> None:
        shares = string_shares(ohms, link, takeoff)
        self.assertAlmostEqual(sum(shares), 1, places=6)
        self.assertTrue(all(share > 0 for share in shares))

    @given(st.integers(2, 8), st.floats(1e-3, 1), st.floats(1e-5, 0.05))
    def test_opposite_corners_share_better_than_one_side(self, n: int, r: float, link: float) -> None:
        one_side, corners = (max(string_shares([r] * n, link, t)) for t in ("same side", "opposite corners"))
        self.assertLess(corners, one_side)

    def test_equal_leads_share_by_resistance_alone(self) -> None:
        self.assertAlmostEqual(string_shares([1, 3], 0.5, "equal leads")[0], 0.75)


class Banks(TestCase):
    def figures(self, **changes: Any) -> dict[str, Figure]:
        return judge(put(demo("tidewater"), "/pack", bank(**changes))).figures

    def test_two_in_series_double_the_voltage_and_resistance(self) -> None:
        one, two = self.figures(parallel=1), self.figures(in_series=2, parallel=1)
        self.assertAlmostEqual(two["pack/v_nom"].number, 2 * one["pack/v_nom"].number)
        self.assertEqual(two["pack/capacity"].number, one["pack/capacity"].number)
        self.assertGreater(two["pack/resistance"].number, 1.9 * one["pack/resistance"].number)
        self.assertAlmostEqual(two["pack/mass"].number, 2 * one["pack/mass"].number)

    def test_two_in_parallel_double_capacity_and_fault_current(self) -> None:
        one, two = self.figures(parallel=1), self.figures(parallel=2)
        self.assertEqual(two["pack/capacity"].number, 2 * one["pack/capacity"].number)
        self.assertAlmostEqual(two["pack/fault"].number, 2 * one["pack/fault"].number)

    def test_the_hardest_worked_string_limits_the_bank(self) -> None:
        even, uneven = self.figures(parallel=4), self.figures(parallel=4, takeoff="same side")
        self.assertLess(uneven["pack/limit_strings"].number, even["pack/limit_strings"].number)
        self.assertLess(even["pack/limit_strings"].number, 4 * 60 + 1e-9)

    def test_string_fuse_opens_what_the_others_feed(self) -> None:
        figures = self.figures(parallel=3)
        self.assertAlmostEqual(figures["pack/string_fault"].number, 14.6 * 2 / ((0.014 - 0.08 / 60) / 1.8))
        self.assertGreaterEqual(figures["pack/string_fuse"].number, 60)

    def test_strings_follow_the_energy_when_left_to_choose(self) -> None:
        data = put(demo("tidewater"), "/pack", bank())
        few = judge(data).pack.parallel.number
        many = judge(put(data, "/loads/items/floodlight/count", 8)).pack.parallel.number
        self.assertGreater(many, few)

    def test_a_weak_unit_in_series_limits_its_string(self) -> None:
        weak = self.figures(in_series=2, parallel=1, strings={"s1": {"units": {"u2": {"capacity_ah": 41}}}})
        self.assertEqual(weak["pack/capacity"].number, 41)

    def test_unlike_in_series_is_a_stop_and_in_parallel_a_mend(self) -> None:
        for changes, severity in (
            ({"in_series": 2, "strings": {"s1": {"units": {"u2": {"capacity_ah": 41}}}}}, "stop"),
            ({"strings": {"s2": {"units": {"u1": {"year": 2015}}}, "s1": {"units": {"u1": {"year": 2024}}}}}, "mend"),
        ):
            found = judge(put(demo("tidewater"), "/pack", bank(parallel=2, **changes))).findings
            self.assertEqual([f.severity for f in found if f.id == "pack.mixed"], [severity])

    def test_joining_within_the_limit_is_silent_and_unmeasured_is_a_note(self) -> None:
        def severities(**changes: Any) -> list[str]:
            found = judge(put(demo("tidewater"), "/pack", bank(parallel=2, **changes))).findings
            return [f.severity for f in found if f.id == "pack.join-voltage"]

        self.assertEqual(severities(strings=resting(13.30, 13.28)), [])
        self.assertEqual(severities(), ["note"])
        self.assertEqual(severities(strings=resting(13.6, 12.9)), ["stop"])

    def test_two_strings_with_fuses_and_even_leads_raise_nothing(self) -> None:
        found = ids(put(demo("tidewater"), "/pack", bank(parallel=2, strings=resting(13.3, 13.3))))
        self.assertFalse(found & {"pack.parallel-fuse", "pack.parallel-takeoff", "pack.mixed", "pack.series-limit", "pack.wake"})


class LeadAcid(TestCase):
    def test_worked_example_of_peukert(self) -> None:
        hours = peukert_hours(100, 40, 1.12)
        self.assertAlmostEqual(hours, 1.95, places=2)
        self.assertAlmostEqual(hours * 40, 77.9, delta=0.1)

    def test_the_rate_takes_its_share_of_the_usable_energy(self) -> None:
        agm = {"form": "battery", "chemistry": "agm", "battery": {"series": 6, "capacity_ah": 100, "continuous_a": 20}}
        heater = {"name": "Heater", "kind": "heater", "supply": "pack", "watts": 480, "windows": window(8, 10)}
        figures = judge(document(pack=agm, loads={"items": {"heater": heater}})).figures
        self.assertAlmostEqual(figures["pack/peukert"].number, (100 / (40 * 20)) ** 0.12, places=6)
        self.assertAlmostEqual(figures["pack/depth"].number, 0.5)
        slow = put(document(pack=agm, loads={"items": {"heater": heater}}), "/loads/items/heater/watts", 50)
        self.assertEqual(judge(slow).figures["pack/peukert"].number, 1)

    def starting(self, name: str, engine: bool) -> set[str]:
        pack = {"form": "battery", "chemistry": "starting", "battery": {"series": 6, "capacity_ah": 70, "continuous_a": 20}}
        load = {"name": name, "supply": "pack", "watts": 60, "windows": window(8, 9), "engine_runs": engine}
        return ids(document(pack=pack, loads={"items": {"load": load}}))

    def test_a_starting_battery_for_a_fridge_is_refused(self) -> None:
        self.assertIn("pack.starting-battery", self.starting("Fridge", engine=False))

    def test_a_starting_battery_for_a_tyre_pump_with_the_engine_running_is_not(self) -> None:
        self.assertNotIn("pack.starting-battery", self.starting("Tyre pump", engine=True))


class Links(TestCase):
    def test_nickel_strip_of_its_usual_size_carries_about_seven_amps(self) -> None:
        sizing = size_link(Cell(shape="cylindrical"), Link(material="nickel", layers=1), Figure.of("I", 5, "A"), Sheet())
        self.assertAlmostEqual(sizing.rating.number, 6.6)

    def test_plated_strip_carries_a_third_and_drops_six_times_as_much(self) -> None:
        pure, plated = (
            size_link(Cell(shape="cylindrical"), Link(material=m, layers=1), Figure.of("I", 2, "A"), Sheet())
            for m in ("nickel", "plated")
        )
        self.assertAlmostEqual(plated.rating.number / pure.rating.number, 1 / 3, delta=0.02)
        joint = pure.resistance.inputs["R_jl"].number
        self.assertAlmostEqual((plated.resistance.number - joint) / (pure.resistance.number - joint), 6, delta=0.01)

    @given(st.floats(0.1, 150), st.sampled_from(sorted(link_materials())))
    def test_the_picked_section_carries_what_it_must_and_no_smaller_one_would(self, amps: float, key: str) -> None:
        material = link_materials()[key]
        width, thickness, layers = pick_link(material, amps)
        most = max(w * t for w, t in material.sections) * material.limit_a_mm2 * (1 if key == "copper" else 3)
        if amps <= most:
            self.assertGreaterEqual(width * thickness * layers * material.limit_a_mm2, amps - 1e-9)

    def test_links_left_to_choose_are_never_what_limits_the_pack(self) -> None:
        for chemistry in LITHIUM:
            for shape in ("prismatic", "cylindrical", "pouch"):
                cell = {"shape": shape, "capacity_ah": 5 if shape == "cylindrical" else 60}
                pack = judge(
                    document(pack={"form": "cells", "chemistry": chemistry, "cell": cell, "series": 8, "parallel": 4})
                ).pack
                limits = {name: limit[0].number for name, limit in pack.build.limits.items()}
                self.assertGreaterEqual(limits["links"], min(limits["cells"], limits["board"]) - 1e-6, f"{chemistry} {shape}")


class Groups(TestCase):
    def sorted_pack(self, capacities: list[float]) -> dict[str, Any]:
        return put(demo("lantern-lane"), "/pack/groups", groups(capacities))

    def test_the_weakest_group_sets_the_capacity(self) -> None:
        self.assertEqual(judge(self.sorted_pack([230, 221, 230, 230, 229, 230, 230, 230])).pack.capacity.number, 221)

    def test_equal_groups_simulate_as_the_lumped_pack(self) -> None:
        lumped = simulated(judge(demo("lantern-lane")))
        same = simulated(judge(self.sorted_pack([230] * 8)))
        self.assertAlmostEqual(same.delivered_wh / lumped.delivered_wh, 1, delta=0.001)
        self.assertAlmostEqual(same.banks[0].lowest_charge, lumped.banks[0].lowest_charge, delta=0.001)
        self.assertAlmostEqual(same.banks[0].lowest_v / lumped.banks[0].lowest_v, 1, delta=0.001)

    def test_a_weak_group_ends_the_run_though_the_pack_voltage_still_stands(self) -> None:
        data = self.sorted_pack([230, 120, 230, 230, 230, 230, 230, 230])
        data = put(data, "/power/network/inverter/cutoff_v", 21)
        run = simulated(judge(put(data, "/loads/items/fog-machine/windows", window(9, 23))))
        cut = next(event for event in run.events if event.kind == "cutoff")
        self.assertIn("group 2", cut.text)
        at = run.hour.index(next(hour for hour in run.hour if hour >= cut.hour))
        self.assertGreater(run.banks[0].volts[at - 1], 8 * 2.5)

    def test_resistance_by_a_dc_step_is_not_multiplied_again(self) -> None:
        ohms = [0.36] * 8
        by_1khz = judge(put(demo("lantern-lane"), "/pack/groups", groups([230] * 8, [0.2] * 8)))
        by_dc = judge(put(put(demo("lantern-lane"), "/pack/groups", groups([230] * 8, ohms)), "/pack/cell/resistance_by", "dc"))
        self.assertAlmostEqual(by_dc.pack.resistance.number, by_1khz.pack.resistance.number, places=9)


class LoadsWhoseCurrentStays(TestCase):
    def test_the_board_carries_them_at_the_voltage_of_the_pack(self) -> None:
        # 15 A typed at 12 V on four motors: 60 A whatever the pack has, though 60 A · 12 V is a quarter of that at 51 V.
        motors = {"name": "Pump", "kind": "air-compressor", "count": 4, "supply": "pack", "windows": window(0, 1)}
        motors["measured"] = {"by": "volts_amps", "volts": 12, "amps": 15}
        found = judge(document(loads={"items": {"pump": motors}}, pack={"form": "cells", "series": 16}))
        board = found.pack.build.board
        assert board is not None
        self.assertEqual(found.figures["loads/pump/watts"].number, 180)
        self.assertGreaterEqual(board.continuous.number, 1.25 * 60)
        self.assertEqual(board.continuous.inputs["I_est"].formula, "P_est / V_low + I_more")  # type: ignore[index]
        power = judge(put(found.design.model_dump(mode="json"), "/loads/items/pump/measured/law", "power"))
        self.assertLess(power.pack.build.board.continuous.number, 60)  # type: ignore[union-attr]


class OwnCurve(TestCase):
    def test_it_replaces_the_typical_one(self) -> None:
        points = [{"soc": s, "v": v} for s, v in ((0, 2.5), (0.1, 3.0), (0.5, 3.2), (1, 3.4))]
        pack = judge(put(demo("lantern-lane"), "/pack/curve", {"points": points})).pack
        self.assertAlmostEqual(pack.open_circuit(0.3), 8 * 3.1)

    def test_a_curve_taken_under_load_has_its_drop_added_back(self) -> None:
        points = [{"soc": s, "v": v} for s, v in ((0, 2.5), (0.5, 3.2), (1, 3.4))]
        pack = judge(put(demo("lantern-lane"), "/pack/curve", {"current_a": 46, "points": points})).pack
        self.assertAlmostEqual(pack.open_circuit(0.5), 8 * (3.2 + 46 * 0.2e-3 * 1.8))


class ChemistriesTest(TestCase):
    @tried(150)
    @given(st.sampled_from(LITHIUM), st.floats(20, 3000))
    def test_the_chosen_count_stays_within_touchable_voltage(self, chemistry: str, watts: float) -> None:
        load = {"name": "Lamp", "kind": "heater", "supply": "pack", "watts": watts, "windows": window(8, 10)}
        data = document(pack={"form": "cells", "chemistry": chemistry}, loads={"items": {"lamp": load}})
        self.assertNotIn("pack.voltage-over-60", ids(data))
