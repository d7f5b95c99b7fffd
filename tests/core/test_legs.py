"""Split phase: 240 V loads between both legs, 120 V loads on one, each leg with its limit."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.remedies import offered
from tests import tried
from tests.core.samples import document, ids, judge, mended, put, window

SPLIT = "120/240 V split-phase"


def load(watts: float, mains: str | None = None, **more: Any) -> dict[str, Any]:
    return {"name": "Load", "kind": "heater", "supply": "ac", "watts": watts, "windows": window(9, 10), "mains": mains, **more}


def station(loads: dict[str, Any], outlets: dict[str, Any], **inverter: Any) -> dict[str, Any]:
    """A 48 V pack with one inverter of two legs and these outlets at its face."""
    network = {
        "f": {"part": "protection", "name": "F", "feed": "pack", "run": {"length_m": 0.12}},
        "i": {"part": "inverter", "name": "I", "feed": "f", **inverter},
        **{key: {"part": "outlet", "name": key, "feed": "i", "run": {"length_m": 0.0}, **more} for key, more in outlets.items()},
    }
    pack = {"form": "cells", "series": 16, "cell": {"capacity_ah": 280}}
    return document(brief={"mains": SPLIT, "site_max_c": 25}, loads={"items": loads}, power={"network": network}, pack=pack)


class TwoLegs(TestCase):
    def test_a_240_v_load_draws_at_240_v(self) -> None:
        found = judge(station({"dryer": load(2400, "240 V 60 Hz")}, {"big": {"leg": "both"}}))
        self.assertEqual(found.power.parts["big"].extra["circuit"].number, 10)
        self.assertEqual(found.figures["power/big/asked"].number, 10)
        self.assertEqual(found.figures["power/big/connector"].key, "ac-240-15")
        self.assertEqual(found.power.without_outlet, [])

    def test_a_120_v_load_beside_it_draws_at_120_v(self) -> None:
        loads = {"dryer": load(2400, "240 V 60 Hz"), "kettle": load(1200, "120 V 60 Hz")}
        found = judge(station(loads, {"big": {"leg": "both"}, "small": {}}))
        self.assertEqual([d.key for d in found.power.plugged["big"]], ["dryer"])
        self.assertEqual(found.power.parts["small"].extra["circuit"].number, 10)
        self.assertEqual(found.figures["power/small/connector"].key, "ac-15")

    def test_a_240_v_load_finds_no_ordinary_outlet_and_is_offered_one_on_both_legs(self) -> None:
        data = station({"dryer": load(2400, "240 V 60 Hz")}, {"small": {}})
        found = judge(data)
        asked = next(f for f in found.findings if f.id == "loads.no-outlet")
        self.assertIn("both legs", asked.text)
        after = judge(mended(data, offered(found, asked)[0].patch))
        self.assertEqual([n.leg for n in after.power.network.nodes.values() if n.part == "outlet"], [None, "both"])
        self.assertNotIn("loads.no-outlet", {f.id for f in after.findings})

    def test_one_plugged_into_an_ordinary_outlet_is_told_so(self) -> None:
        for mains, outlet, fits in (
            ("240 V 60 Hz", "small", False),
            ("240 V 60 Hz", "big", True),
            ("120 V 60 Hz", "big", False),
            ("any", "big", True),
            ("any", "small", True),
        ):
            data = station({"it": load(500, mains, outlet=outlet)}, {"small": {}, "big": {"leg": "both"}})
            self.assertEqual("loads.no-outlet" not in ids(data), fits, f"{mains} into {outlet}")
            for found in judge(data).findings:
                if found.id == "loads.no-outlet":
                    self.assertIn(
                        "240 V, from an outlet on both" if mains == "240 V 60 Hz" else "120 V, from an outlet on one", found.text
                    )
                    self.assertIn("another voltage", found.text)

    def test_ordinary_outlets_are_shared_out_to_the_legs(self) -> None:
        loads = {f"l{n}": load(watts, outlet=f"o{n}") for n, watts in enumerate((1200, 800, 500))}
        found = judge(station(loads, {f"o{n}": {} for n in range(3)}))
        self.assertEqual(found.power.ctx.wired.legs, {"o0": "1", "o1": "2", "o2": "2"})
        need = found.power.inverters["i"].on_legs
        self.assertEqual((need["1"].apparent.number, need["2"].apparent.number), (1200, 1300))

    def test_a_leg_gives_half_of_the_rating(self) -> None:
        """2 kW of a 3 kW inverter on one leg is beyond its 1.5 kW."""
        loads = {"a": load(1000, outlet="a"), "b": load(1000, outlet="b")}
        data = station(loads, {"a": {"leg": "1"}, "b": {"leg": "1"}}, rating_w=3000)
        found = judge(data)
        stop = next(f for f in found.findings if f.id == "loads.leg")
        self.assertEqual((stop.figures["S_leg"].number, stop.figures["S_most"].number), (2000, 1500))
        self.assertTrue(offered(found, stop))
        self.assertNotIn("loads.leg", ids(put(data, "/power/network/b/leg", "2")))

    def test_a_load_between_both_bears_on_each_with_half(self) -> None:
        loads = {"dryer": load(2000, "240 V 60 Hz", outlet="big"), "kettle": load(600, outlet="small")}
        data = station(loads, {"big": {"leg": "both"}, "small": {"leg": "1"}}, rating_w=3000)
        need = judge(data).power.inverters["i"].on_legs
        self.assertEqual((need["1"].apparent.number, need["2"].apparent.number), (1600, 1000))
        self.assertIn("loads.leg", ids(data))

    def test_a_hard_start_on_one_leg(self) -> None:
        saw = load(900, kind="induction", surge=4, surge_s=1, outlet="a")
        data = station({"saw": saw}, {"a": {}}, rating_w=3000, surge_w=6000)
        stop = next(f for f in judge(data).findings if f.id == "loads.leg")
        self.assertEqual((stop.figures["P_leg"].number, stop.figures["P_most"].number), (3600, 3000))

    def test_the_inverter_is_chosen_by_the_fuller_leg(self) -> None:
        """One load of 1.2 kW on a leg asks for twice that, and is no more than 80 % of it."""
        found = judge(station({"kettle": load(1200)}, {"a": {}}))
        self.assertEqual(found.power.inverters["i"].rating.number, 3000)

    def test_a_breaker_before_outlets_of_both_legs_bears_the_fuller_one(self) -> None:
        data = station({"a": load(1200, outlet="a"), "b": load(600, outlet="b")}, {"a": {"leg": "1"}, "b": {"leg": "2"}})
        data["power"]["network"]["cb"] = {"part": "ac_breaker", "name": "CB", "feed": "i"}
        for outlet in ("a", "b"):
            data["power"]["network"][outlet]["feed"] = "cb"
        self.assertEqual(judge(data).power.parts["cb"].extra["circuit"].number, 10)

    def test_other_mains_know_no_legs(self) -> None:
        data = put(station({"kettle": load(1200)}, {"a": {"leg": "both"}}), "/brief/mains", "120 V 60 Hz")
        found = judge(data)
        self.assertEqual((found.power.ctx.wired.legs, found.power.parts["a"].extra["circuit"].number), ({}, 10))
        self.assertNotIn("loads.leg", {c.id for c in found.checks})

    @tried(200)
    @given(
        st.lists(st.tuples(st.floats(50, 1500), st.booleans(), st.integers(0, 20)), min_size=1, max_size=6),
        st.sampled_from([None, "1", "2"]),
    )
    def test_both_legs_together_bear_what_runs(self, rows: list[tuple[float, bool, int]], leg: str | None) -> None:
        """By a second calculation, hour by hour."""
        loads, outlets = {}, {}
        for n, (watts, double, begin) in enumerate(rows):
            plate = "240 V 60 Hz" if double else "120 V 60 Hz"
            loads[f"l{n}"] = load(watts, plate, outlet=f"o{n}") | {"windows": window(begin, begin + 2)}
            outlets[f"o{n}"] = {"leg": "both" if double else leg if n == 0 else None}
        found = judge(station(loads, outlets))
        worst = {"1": 0.0, "2": 0.0}
        for hour in range(24):
            for each in worst:
                at_once = 0.0
                for n, (watts, double, begin) in enumerate(rows):
                    if begin <= hour < begin + 2:
                        at_once += watts / 2 if double else watts * (found.power.ctx.wired.legs[f"o{n}"] == each)
                worst[each] = max(worst[each], at_once)
        for each, va in worst.items():
            self.assertAlmostEqual(found.power.inverters["i"].on_legs[each].apparent.number, va)
        self.assertNotIn("loads.leg", {f.id for f in found.findings if 2 * max(worst.values()) <= 8000})
