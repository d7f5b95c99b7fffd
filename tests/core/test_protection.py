"""Choosing fuses and breakers, AC branches, idle drain: each rule alone, over what a builder might have."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.design import read_design, write_design
from kegcart.core.electrical.protection import (
    NEAR,
    SoldProtection,
    catalogue,
    fastest_melting,
    interrupt_rating,
    list_for,
    lists_by_voltage,
    pick,
    rides_through,
)
from kegcart.core.power.path.catalogue import generic_parts, own_figures
from kegcart.core.reference import families
from kegcart.core.units import SHOWN, duration, read_quantity, significant, write_quantity
from tests.core.samples import DEMO_NAMES, demo, document, ids, judge, mains, mended, put, window

amps = st.floats(0.5, 400)
surges = st.lists(st.tuples(st.floats(1, 800), st.floats(0.01, 5)), max_size=3)


def sold() -> list[SoldProtection]:
    """What is chosen from for the path: all but what sits in thin leads."""
    return [p for p in catalogue() if p.family.mount != "lead"]


class Picking(TestCase):
    @given(
        amps,
        surges,
        st.sampled_from([14.6, 29.2, 58.4]),
        st.floats(100, 20_000),
        amps,
        st.booleans(),
        st.sampled_from([25.0, 60.0]),
    )
    def test_what_is_picked_is_never_beyond_the_wire_where_something_smaller_is_sold(
        self, least: float, starts: list[tuple[float, float]], volts: float, fault: float, most: float, block: bool, air_c: float
    ) -> None:
        picked = pick(least, starts, volts, fault, most, in_block=block, air_c=air_c)
        able = [p for p in sold() if p.family.v_dc >= volts and interrupt_rating(p.family, volts) >= fault]
        if any(p.rating_a <= most for p in able):
            self.assertLessEqual(picked.rating_a, most)
        self.assertGreaterEqual(picked.family.v_dc, volts)
        self.assertGreaterEqual(interrupt_rating(picked.family, volts), fault)

    @given(amps, st.sampled_from([14.6, 29.2, 58.4]), st.floats(100, 18_000))
    def test_without_a_bound_it_carries_its_current_and_is_hardly_larger_than_it_must_be(
        self, least: float, volts: float, fault: float
    ) -> None:
        picked = pick(least, [], volts, fault)
        able = [
            p.rating_a
            for p in sold()
            if p.family.v_dc >= volts and interrupt_rating(p.family, volts) >= fault and p.rating_a >= least
        ]
        if able:
            self.assertGreaterEqual(picked.rating_a, least - 1e-9)
            self.assertLessEqual(picked.rating_a, NEAR * min(able) + 1e-9)

    @given(amps, surges, st.sampled_from([14.6, 29.2]))
    def test_it_rides_through_the_surges_where_any_does(
        self, least: float, starts: list[tuple[float, float]], volts: float
    ) -> None:
        picked = pick(least, starts, volts, 500)
        able = [p for p in sold() if p.family.v_dc >= volts and interrupt_rating(p.family, volts) >= 500 and p.rating_a >= least]
        if any(rides_through(p.family, p.rating_a, starts) for p in able):
            self.assertTrue(rides_through(picked.family, picked.rating_a, starts))

    def test_an_ac_breaker_is_never_chosen_but_judged_where_it_is_pinned(self) -> None:
        self.assertTrue(all(pick(a, [], 14.6, 500).family.key != "ac-only" for a in (6, 16, 40, 63)))
        self.assertEqual(pick(10, [], 14.6, 500, family="ac-only").family.key, "ac-only")

    def test_a_large_prismatic_pack_gets_a_fuse_that_opens_its_fault(self) -> None:
        fuse = judge(demo("lantern-lane")).power.parts["main-fuse"]
        assert fuse.family
        self.assertEqual(fuse.family.value, "class T fuse")

    @given(st.sampled_from(sorted(families())), st.floats(1.4, 10), st.floats(1.01, 2))
    def test_more_current_melts_sooner(self, key: str, multiple: float, factor: float) -> None:
        family = families()[key]
        self.assertLessEqual(fastest_melting(family, multiple * factor), fastest_melting(family, multiple) + 1e-12)

    def test_windows_of_a_blade_fuse(self) -> None:
        blade = families()["blade"]
        for multiple, seconds in ((1.35, 0.75), (2.0, 0.15), (3.5, 0.04), (6.0, 0.02)):
            self.assertAlmostEqual(fastest_melting(blade, multiple), seconds)
        self.assertEqual(fastest_melting(blade, 1.0), float("inf"))


class AcBranches(TestCase):
    def branch(self, **changes: Any) -> Any:
        data = demo("lantern-lane")
        for pointer, value in changes.pop("put", {}).items():
            data = put(data, pointer, value)
        data = put(data, "/power/network/ac-2/run", {"length_m": 3, **changes})
        return judge(data)

    def test_a_cable_gets_a_breaker_that_protects_it_and_its_socket(self) -> None:
        a = self.branch()
        part = a.power.parts["ac-2"]
        breaker, able = part.extra["breaker"].number, part.extra["ac_ampacity"].number
        self.assertLessEqual(breaker, min(able, part.rating.number))  # type: ignore[union-attr]
        self.assertGreaterEqual(breaker, 1.25 * part.extra["asked"].number)
        self.assertNotIn("power.ac-breaker", {f.id for f in a.findings})

    def test_no_cable_on_the_inverters_face_and_none_thinner_than_in_walls(self) -> None:
        self.assertNotIn("power/ac-1/ac_breaker", judge(demo("lantern-lane")).figures)
        self.assertEqual(self.branch().figures["power/ac-2/run/gauge"].value, "1.5 mm²")
        self.assertEqual(self.branch(put={"/brief/gauge_system": "awg"}).figures["power/ac-2/run/gauge"].value, "14 AWG")

    def test_each_disagreement_is_a_stop_that_names_it(self) -> None:
        at = "/power/network/ac-2"
        for changes, id, words in (
            ({"put": {f"{at}/breaker_a": 32, f"{at}/connector": "ac-10"}}, "power.socket-breaker", "its socket carries 10 A"),
            ({"gauge": "0.75 mm²"}, "power.ac-breaker", "its cable of 0.75 mm² carries"),
            ({"put": {f"{at}/breaker_a": 1}}, "power.socket-breaker", "runs on its circuit"),
        ):
            found = [f for f in self.branch(**changes).findings if f.id == id]  # type: ignore[arg-type]
            self.assertTrue(found, changes)
            self.assertIn(words, found[0].text)

    def four_heaters(self, **outlet: Any) -> dict[str, Any]:
        items = {f"h{n}": {"name": f"Plate {n}", "kind": "heater", "watts": 800, "windows": window(9, 10)} for n in range(4)}
        network = {
            "fuse": {"part": "protection", "name": "Fuse", "feed": "pack"},
            "inverter": {"part": "inverter", "name": "Inverter", "feed": "fuse", "rating_w": 5000},
            "row": {"part": "outlet", "name": "Row", "feed": "inverter", "ways": 4, "run": {"length_m": 2}, **outlet},
        }
        return document(
            loads={"items": items},
            power={"network": network},
            pack={"form": "cells", "series": 16, "parallel": 2},
            brief={"mains": "230 V 50 Hz", "gauge_system": "mm2"},
        )

    def test_a_breaker_carries_the_sum_on_its_circuit(self) -> None:
        figures = judge(self.four_heaters(connector="ac-16")).figures
        self.assertAlmostEqual(figures["power/row/circuit"].number, 3200 / 230)
        self.assertEqual(figures["power/row/ac_breaker"].value, 16)
        small = self.four_heaters(connector="ac-10")
        found = next(f for f in judge(small).findings if f.id == "power.socket-breaker")
        self.assertIn("13.9 A runs on its circuit; its breaker is 10 A", found.text)
        self.assertNotIn("power.socket-breaker", ids(mended(small, found.remedies[0].patch)))

    def test_a_socket_on_the_face_of_a_large_inverter_gets_a_breaker(self) -> None:
        for watts, breaker in ((2000, None), (5000, 6)):
            data = put(self.four_heaters(run={"length_m": 0}), "/power/network/inverter/rating_w", watts)
            for n in range(1, 4):
                del data["loads"]["items"][f"h{n}"]
            figure = judge(data).figures.get("power/row/ac_breaker")
            self.assertEqual(figure and figure.value, breaker)

    def test_breakers_are_those_of_the_country(self) -> None:
        for voltage, sold in (("120 V 60 Hz", {15, 20, 25, 30, 40, 50}), ("230 V 50 Hz", {6, 10, 16, 20, 25, 32, 40})):
            for watts in range(100, 1500, 200):
                data = put(put(self.four_heaters(), "/brief/mains", voltage), "/loads/items/h0/watts", watts)
                self.assertIn(judge(data).figures["power/row/ac_breaker"].value, sold)

    def test_one_breaker_before_several_outlets_protects_them_all(self) -> None:
        data = self.four_heaters(ways=1, connector="ac-16")
        data["power"]["network"]["row"]["feed"] = "row-breaker"
        data["power"]["network"]["row-breaker"] = {
            "part": "ac_breaker",
            "name": "Row breaker",
            "feed": "inverter",
            "run": {"length_m": 1},
        }
        data["power"]["network"]["other"] = {
            "part": "outlet",
            "name": "Other",
            "feed": "row-breaker",
            "connector": "ac-16",
            "run": {"length_m": 3},
        }
        a = judge(write_design(read_design(data)))
        self.assertEqual(a.figures["power/row-breaker/rating"].value, 20)
        self.assertAlmostEqual(a.figures["power/row-breaker/circuit"].number, 3200 / 230)
        # 20 A is more than a socket of 16 A carries: each gets one of its own; its cable carries that.
        self.assertEqual(a.figures["power/other/ac_breaker"].value, 10)
        self.assertEqual({f.id for f in a.findings if f.id.startswith("power.ac")}, set())
        wide = judge(put(write_design(read_design(data)), "/power/network/row-breaker/rating_a", 16))
        self.assertNotIn("power/other/ac_breaker", wide.figures)
        self.assertGreaterEqual(wide.power.parts["other"].extra["ac_ampacity"].number, 16)

    def test_outdoors_and_wet_sites_get_residual_current_protection_unless_it_is_refused(self) -> None:
        dry = put(demo("lantern-lane"), "/brief/outdoors", False)
        for field, value in (("exposure", "wet"), ("outdoors", True)):
            wet = put(dry, f"/brief/{field}", value)
            self.assertNotIn("power.rcd", ids(wet))
            self.assertIn("power.rcd", ids(put(wet, "/power/network/inverter/rcd", False)))
        self.assertNotIn("power.rcd", ids(put(dry, "/power/network/inverter/rcd", False)))
        asked = next(f for f in judge(put(dry, "/brief/outdoors", None)).findings if f.id == "power.rcd")
        self.assertEqual((asked.severity.value, len(asked.remedies)), ("note", 2))

    def test_residual_current_protection_needs_the_bond(self) -> None:
        for outdoors, rcd, bond, severity in (
            (True, None, "none", "stop"), (False, True, "none", "mend"), (False, None, "none", None), (True, None, "bonded", None),
            (True, None, "as its manual says", None),
        ):  # fmt: skip
            data = put(put(demo("lantern-lane"), "/brief/outdoors", outdoors), "/power/network/inverter/rcd", rcd)
            found = [f for f in judge(put(data, "/power/network/inverter/bond", bond)).findings if f.id == "power.rcd-bond"]
            self.assertEqual([f.severity.value for f in found], [severity] if severity else [])

    def test_a_load_that_refuses_a_floating_output_is_fed_from_a_bonded_one(self) -> None:
        data = put(put(demo("lantern-lane"), "/brief/outdoors", False), "/loads/items/projector/needs_bond", True)
        verdicts = {}
        for bond in ("none", "not known", "bonded"):
            checks = judge(put(data, "/power/network/inverter/bond", bond)).checks
            verdicts[bond] = [c.verdict.value for c in checks if c.id == "power.rcd-bond"]
        self.assertEqual(verdicts, {"none": ["fails"], "not known": ["open"], "bonded": ["holds"]})


class Idle(TestCase):
    def watts(self, data: dict[str, Any]) -> dict[str, float]:
        return {i.name: i.watts.number for i in judge(data).power.idle}

    def test_each_part_draws_its_own(self) -> None:
        drains = self.watts(demo("lantern-lane"))
        self.assertAlmostEqual(drains["Protection board"], 0.0015 * 25.6)
        self.assertAlmostEqual(drains["Meter"], 0.01 * 25.6)
        self.assertEqual(drains["Converter 12 V"], 1)

    def test_an_inverter_left_on_and_a_relay_show(self) -> None:
        data = put(put(demo("lantern-lane"), "/power/network/inverter/left_on", True), "/power/network/main-switch/relay", True)
        drains = self.watts(data)
        self.assertEqual(drains["Inverter"], 16)
        self.assertEqual(drains["Main switch"], 6)

    def test_what_stands_behind_no_switch_goes_on_drawing(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/busbar/feed", "main-fuse")
        data["power"]["network"].pop("main-switch")
        a = judge(data)
        self.assertFalse(any(i.switched for i in a.power.idle))
        self.assertEqual(a.figures["power/shelf_off"].number, a.figures["power/shelf_on"].number)
        self.assertIn("power.switch-reach", {f.id for f in a.findings})

    def test_self_discharge_alone_empties_it_in_its_time(self) -> None:
        battery = {"form": "battery", "chemistry": "agm", "battery": {"series": 6, "capacity_ah": 100, "continuous_a": 20}}
        data = document(pack=battery, power={"network": {"f": {"part": "protection", "name": "F", "feed": "pack"}}})
        self.assertAlmostEqual(
            judge(data).figures["power/shelf_off"].number, judge(data).power.available.number / (1200 * 0.03) * 30.4, places=3
        )


class OwnParts(TestCase):
    def test_generic_parts_read_as_the_design_writes_them(self) -> None:
        for part in judge(demo("lantern-lane")).power.parts.values():
            for sold in generic_parts(part):
                self.assertEqual(own_figures(part.node.part, sold.figures), sold.figures, sold.label)

    def test_parts_are_offered_for_the_voltage_where_they_stand(self) -> None:
        parts = judge(demo("hollow-oak")).power.parts  # up to 58.8 V
        self.assertTrue(all("48 V" in p.label for p in generic_parts(parts["inverter"])))
        fuse = next(part for part in parts.values() if part.node.part == "protection")
        self.assertTrue(all(families()[p.figures["family"]].v_dc >= 58.8 for p in generic_parts(fuse)))
        self.assertEqual(list_for(58.8), "family:60")
        self.assertTrue(all(f.v_dc >= 60 for f in lists_by_voltage()[60]))

    def test_a_pinned_rating_keeps_the_family(self) -> None:
        data = demo("lantern-lane")
        part = judge(data).power.parts["main-fuse"]
        assert part.family is not None
        ratings = families()[part.family.key].ratings_a
        for amps in (ratings[0], 1.03 * ratings[1], ratings[-1]):
            pinned = judge(put(data, "/power/network/main-fuse/rating_a", amps)).power.parts["main-fuse"]
            self.assertEqual(pinned.family.key, part.family.key)  # type: ignore[union-attr]

    def test_a_rating_pinned_as_it_was_changes_no_family(self) -> None:
        for name in DEMO_NAMES:
            data = demo(name)
            for key, part in judge(data).power.parts.items():
                if part.node.part == "protection" and part.family and part.rating and part.rating.choice == "auto":
                    again = judge(put(data, f"/power/network/{key}/rating_a", part.rating.number)).power.parts[key]
                    self.assertEqual(again.family.key, part.family.key, f"{name}: {key}")  # type: ignore[union-attr]

    def test_bad_figures_are_refused_with_the_field(self) -> None:
        for kind, figures, words in (
            ("inverter", {"rating_w": -1}, "rating_w"), ("anchor", {}, "no part"), ("switch", {"section": "20×3"}, "no figure"),
            ("protection", {"family": "glass"}, "family"),
        ):  # fmt: skip
            with self.assertRaises(ValueError) as caught:
                own_figures(kind, figures)
            self.assertIn(words, str(caught.exception))


class Words(TestCase):
    def test_times_are_said_as_people_say_them(self) -> None:
        for hours, said in (
            (50 / 3.6e6, "50 ms"),
            (1.2 / 3600, "1.2 s"),
            (5 / 60, "5 min"),
            (4.7, "4 h 42 min"),
            (2.0, "2 h"),
            (14.26, "14.3 h"),
        ):
            self.assertEqual(duration(hours), said)

    @given(st.floats(1e-3, 1e6), st.sampled_from(["W", "V", "A", "Ah", "kg", "m"]))
    def test_what_is_written_reads_back_to_three_digits(self, value: float, unit: str) -> None:
        shown = read_quantity(write_quantity(value, unit), unit)
        self.assertAlmostEqual(shown, value, delta=max(0.006 * value, SHOWN[unit] * 0.51))

    def test_no_more_is_said_than_a_meter_shows(self) -> None:
        for value, unit, said in (
            (0.0409, "V", "41 mV"), (0.000158, "W", "0 W"), (0.0000223, "share", "0 %"), (0.0495, "W", "0.05 W"), (0.0008, "A", "0.8 mA"),
            (12.345, "V", "12.3 V"), (-0.02, "°C", "0 °C"), (0.0137, "mm²", "0.01 mm²"),
        ):  # fmt: skip
            self.assertEqual(write_quantity(value, unit), said)

    @given(st.floats(1e-6, 1e9))
    def test_significant_digits_never_lose_the_size(self, value: float) -> None:
        self.assertAlmostEqual(float(significant(value)) / value, 1, delta=0.006)


class Cooperation(TestCase):
    def test_a_sheathed_run_may_be_a_metre_long(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/main-fuse/run/length_m", 0.8)
        self.assertIn("power.fuse-place", ids(data))
        self.assertNotIn("power.fuse-place", ids(put(data, "/power/network/main-fuse/run/sheathed", True)))

    def test_lugs_that_fit_are_silent_and_a_full_bar_is_not(self) -> None:
        stud = judge(demo("lantern-lane")).figures["power/inverter/stud"].value
        self.assertNotIn("power.lug-stud", ids(put(demo("lantern-lane"), "/power/network/inverter/run/lug", stud)))
        self.assertNotIn("power.lug-stud", ids(put(demo("lantern-lane"), "/power/network/busbar/studs", 2)))
        network = {
            "m": {"part": "protection", "name": "M", "feed": "pack"},
            "b": {"part": "busbar", "name": "B", "feed": "m", "studs": 1},
        }
        network |= {f"f{n}": {"part": "protection", "name": f"F{n}", "feed": "b"} for n in range(4)}
        self.assertIn("power.lug-stud", ids(document(power={"network": network})))

    def test_charging_through_an_outlet_made_for_it_is_silent(self) -> None:
        data = document(
            loads={"items": {"a": {"name": "A", "supply": "pack", "watts": 200, "windows": window(9, 10)}}},
            power={
                "network": {
                    "f": {"part": "protection", "name": "F", "feed": "pack", "rating_a": 40},
                    "o": {"part": "outlet", "name": "O", "feed": "f", "source": "in"},
                }
            },
            charging={"sources": {"in": mains(10)}},
        )
        self.assertNotIn("power.backfeed", ids(data))
        self.assertIn("power.backfeed", ids(put(data, "/charging/sources/in/current_a", 35)))

    def test_motors_and_what_the_builder_says_want_a_pure_sine(self) -> None:
        data = put(demo("hollow-oak"), "/power/network/inverter/waveform", "modified")
        self.assertIn("power.waveform", ids(data))
        self.assertNotIn("power.waveform", ids(put(data, "/loads/items/extractor/pure_sine", False)))

    def test_small_inverters_need_no_precharge(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/precharge", False)
        self.assertIn("power.precharge", ids(data))
        self.assertNotIn("power.precharge", ids(put(data, "/power/network/inverter/rating_w", 500)))
        self.assertAlmostEqual(judge(demo("lantern-lane")).figures["power/inverter/precharge"].number, 8 * 3.65 / 2)

    def test_a_shunt_or_a_steep_curve_makes_the_voltage_no_matter(self) -> None:
        self.assertNotIn("power.meter-voltage", ids(put(demo("hollow-oak"), "/power/shunt", None)))
        self.assertIn("power.meter-voltage", ids(put(demo("tidewater"), "/power/shunt", None)))
