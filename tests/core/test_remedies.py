"""Remedies on any design: each can be applied, says what it does, and mends what it is offered for."""

import re
from functools import cache
from typing import Any
from unittest import TestCase

from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import Design, patched, read_design, write_design
from kegcart.core.finding import Finding
from kegcart.core.forecast import forecast
from kegcart.core.remedies import kilograms, offered, stands_in_the_way
from tests import tried
from tests.core.samples import DEMO_NAMES, demo, designs, judge, mended, put, window
from tests.core.spoiled import spoiled_designs
from tests.core.test_findings import SPEAKS, judged
from tests.core.test_power import trees

several = tried(100, suppress_health_check=[HealthCheck.too_slow])


def at(finding: Finding) -> tuple[str, str]:
    return finding.id, finding.place


def stops(found: Assessment) -> set[tuple[str, str]]:
    return {at(f) for f in found.findings if f.severity == "stop"}


class AnyDesign(TestCase):
    def check(self, found: Assessment) -> None:
        document = write_design(found.design)
        for finding in found.findings:
            labels = [remedy.label for remedy in finding.remedies]
            self.assertEqual(len(labels), len(set(labels)), f"{finding.id} offers one thing twice: {labels}")
            for remedy in finding.remedies:
                self.assertTrue(remedy.patch, f"{finding.id}: “{remedy.label}” changes nothing")
                after = patched(document, remedy.patch)
                self.assertNotEqual(write_design(after), document, f"{finding.id}: “{remedy.label}” leaves all as it is")
                assess(after)

    @several
    @given(designs())
    def test_every_remedy_can_be_applied_and_changes_something(self, design: Design) -> None:
        self.check(assess(design))

    @several
    @given(trees(most=20))
    def test_also_on_any_tree(self, data: dict[str, Any]) -> None:
        self.check(judge(data))

    @several
    @given(designs(), st.randoms(use_true_random=False))
    def test_taking_what_is_offered_again_and_again_never_goes_round_in_circles(self, design: Design, chance: Any) -> None:
        data, seen = write_design(design), []
        for _ in range(12):
            found = judge(data)
            worst = (offers for f in found.findings if f.severity == "stop" and (offers := offered(found, f)))
            if (offers := next(worst, None)) is None:
                break
            seen.append(len(stops(found)))
            data = write_design(patched(data, chance.choice(offers).patch))
        self.assertEqual(seen, sorted(set(seen), reverse=True), "each that is taken leaves fewer stops")


class Offered(TestCase):
    """What is offered was tried out: it ends its finding, brings no new stop, the lightest first."""

    @tried(2000, daily=15, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
    @given(spoiled_designs())
    def test_each_ends_its_finding_and_brings_no_new_stop(self, data: dict[str, Any]) -> None:
        before = judge(data)
        weight = kilograms(before)
        for finding in before.findings:
            offers = offered(before, finding)
            labels = [offer.label for offer in offers]
            self.assertEqual(len(labels), len(set(labels)), finding.id)
            more = []
            for offer in offers:
                after = judge(mended(data, offer.patch))
                self.assertNotIn(at(finding), {at(f) for f in after.findings}, f"{offer.label} does not end {finding.text}")
                new = {at(f) for f in after.findings if stands_in_the_way(f, finding)} - stops(before)
                self.assertEqual(new, set(), f"{offer.label} for {finding.text}")
                more.append(round(max(0.0, kilograms(after) - weight), 1))
            self.assertEqual(more, sorted(more), labels)
            self.assertFalse(any(m <= 1 for m in more) and max(more, default=0) > 5, f"{finding.id}: {labels} add {more} kg")

    def test_no_larger_pack_is_offered_for_a_depth_of_discharge(self) -> None:
        data = put(demo("lantern-lane"), "/pack/depth", 1.0)
        before = judge(data)
        finding = next(f for f in before.findings if f.id == "pack.depth")
        self.assertTrue(offered(before, finding))
        for offer in offered(before, finding):
            self.assertLess(kilograms(offer.after) - kilograms(before), 1, offer.label)

    def test_an_energy_stop_of_any_build_has_a_remedy(self) -> None:
        for name in DEMO_NAMES:
            for hours in (24, 96):
                data = put(demo(name), "/brief/hours_away", hours)
                for load in data["loads"]["items"].values():
                    load["windows"] = window(0, 24)
                found = judge(data)
                short = next((f for f in found.findings if at(f) == ("loads.energy-short", "/loads")), None)
                with self.subTest(name, hours=hours):
                    self.assertTrue(short and offered(found, short))

    def test_more_sockets_are_no_remedy_for_one_load_that_is_too_much_for_a_socket(self) -> None:
        pump = {"name": "Pump", "kind": "brushed", "supply": "pack", "watts": 240, "windows": window(9, 10)}
        data = put(demo("tidewater"), "/loads/items/sample-pump", pump | {"outlet": "pump"})
        data = put(data, "/power/network/pump/connector", "accessory")
        before = judge(data)
        finding = next(f for f in before.findings if f.id == "loads.socket-rating")
        self.assertEqual([o.label for o in offered(before, finding)], ["Let a larger connector be chosen"])

    def test_two_causes_one_behind_the_other_are_ended_together(self) -> None:
        before = judge(demo("wobbly-stall"))
        finding = next(f for f in before.findings if f.id == "pack.high-current-small")
        self.assertTrue(offered(before, finding))

    def test_a_build_full_of_mistakes_is_mended_by_what_is_offered(self) -> None:
        """First by what is offered of the design, then of its days."""
        data = demo("wobbly-stall")
        for _ in range(40):
            found = judge(data)
            every = (o for f in found.findings if f.severity == "stop" for o in offered(found, f))
            offer: Any = next(every, None)
            if offer is None:
                of_days = [f for f in forecast(found).findings if f.severity == "stop"]
                offer = next((r for f in of_days for r in f.remedies), None)
            if offer is None:
                break
            data = mended(data, offer.patch)
        after = judge(data)
        self.assertEqual([f.text for f in (*after.findings, *forecast(after).findings) if f.severity == "stop"], [])


class Spoiled(TestCase):
    def test_releasing_a_pin_gives_the_choice_back_to_auto(self) -> None:
        for name in DEMO_NAMES:
            base = judge(demo(name))
            for path, figure in base.figures.items():
                if figure.choice != "auto" or not figure.pointer or path in ("pack/link", "pack/collector"):
                    continue
                value = figure.value
                pinned = put(demo(name), figure.pointer, figure.key or value)
                read_design(pinned)
                self.assertEqual(judge(pinned).figures[path].choice, "pinned", f"{name}: {path}")
                released = judge(put(pinned, figure.pointer, None))
                self.assertEqual(released.figures[path].choice, "auto", f"{name}: {path}")
                self.assertEqual(released.figures[path].value, value, f"{name}: {path}")

    def test_pinning_what_is_chosen_changes_no_finding(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            before = judge(demo(name))
            for key, part in before.power.parts.items():
                if part.run and not part.node.run.gauge:
                    data = put(demo(name), f"/power/network/{key}/run/gauge", part.run.gauge.value)
                    self.assertEqual({at(f) for f in judge(data).findings}, {at(f) for f in before.findings}, f"{name}: {key}")


@cache
def every() -> list[Finding]:
    """Each finding in a design in which it speaks, and those of the demo builds; their remedies are worked out once."""
    builds = [*map(judged, SPEAKS), *(judge(demo(name)) for name in DEMO_NAMES)]
    return [f for found in builds for f in found.findings]


class Sentences(TestCase):
    """What is said of a design is a sentence with its figures, in the trade's words."""

    takes_long = True

    def test_each_is_a_sentence_that_names_its_figures(self) -> None:
        for f in every():
            self.assertTrue(f.text[0].isupper() or f.text[0].isdigit(), f.text)
            self.assertTrue(f.text.endswith((".", "!")), f.text)
            self.assertNotIn("None", f.text)
            self.assertNotIn("  ", f.text)
            self.assertNotRegex(f.text, r"\d{7,}|\d\.\d{5,}", f.text)
            for name in re.findall(r"{(\w+)}", f.sentence):
                self.assertIn(name, f.figures, f.id)

    def test_each_reason_ends_as_a_sentence_and_no_remedy_shouts(self) -> None:
        for f in every():
            self.assertTrue(f.why.endswith("."), f.why)
            for remedy in f.remedies:
                self.assertFalse(remedy.label.endswith("."), remedy.label)
                self.assertLessEqual(len(remedy.label), 90, remedy.label)

    def test_what_a_label_promises_is_what_is_set(self) -> None:
        """A figure named in a label stands in the patch: “Fit 60 A” sets 60."""
        checked = 0
        for found in every():
            for remedy in found.remedies:
                named = re.match(r"(?:Fit|Run|A board of|A bank of|A battery of) ([\d.]+)", remedy.label)
                if not named:
                    continue
                values = [str(o.get("value")) for o in remedy.patch]
                number = float(named[1])
                self.assertTrue(
                    any(
                        value.startswith(named[1]) or (value.replace(".", "").isdigit() and float(value) == number)
                        for value in values
                    ),
                    f"{found.id}: “{remedy.label}” sets {values}",
                )
                checked += 1
        self.assertGreater(checked, 5)

    def test_ids_are_of_a_station_and_places_are_in_the_document(self) -> None:
        for f in every():
            self.assertRegex(f.id, r"^(loads|pack|charging|power|box)\.[a-z0-9-]+$")
            self.assertRegex(f.place, r"^/(brief|loads|pack|charging|power|box)(/|$)")
