"""A layout proposed: all rules hold in it, judged a second time by other code; the same every time; why nothing fits."""

from dataclasses import replace
from random import Random
from typing import Any
from unittest import TestCase

from kegcart.core.box.document import Enclosure, Inside, OnFace
from kegcart.core.box.layout import BoxLayout, lay_out
from kegcart.core.box.proposal import NOT_FOUND, STOPPED, Proposal, Task, propose
from kegcart.core.box.rules.runs import RunSeen, as_laid_out
from kegcart.core.box.runs import Link, apart, run_lengths, terminals
from kegcart.core.box.space import Solid
from kegcart.core.check import Verdict
from kegcart.core.figure import Figure
from kegcart.core.forecast import forecast
from tests import PROVING
from tests.core.box_judge import broken
from tests.core.planted import planted, shaken
from tests.core.samples import demo, judge, put


def task_of(data: dict[str, Any]) -> Task:
    found = judge(data)
    assert found.box is not None
    return Task.of(found.box, found.power, found.design.brief)


def laid(task: Task, found: Proposal) -> BoxLayout:
    """The layout that a proposal in its own box makes."""
    assert found.patch is not None
    places = Enclosure.model_validate({"places": found.patch[-1]["value"]}).places
    box = task.layout.box.model_copy(update={"places": places})
    return lay_out(box, task.layout.case, task.layout.things)


class Proposed(TestCase):
    takes_long = True

    def test_planted_boxes_are_laid_out_with_every_rule_held(self) -> None:
        """In whatever order their parts stand in the design."""
        for seed in range(100) if PROVING else (4,):
            planned, plant = planted(Random(seed))
            task = planned if seed % 2 else shaken(planned, Random(seed))
            with self.subTest(seed):
                self.assertEqual(broken(plant, {**task.masses, "": 4.5}, False), [])
                found = propose(task, smallest=False)
                self.assertEqual(found.reasons, [])
                self.assertEqual(broken(laid(task, found), {**task.masses, "": 4.5}, False), [])

    def test_what_is_pinned_stays_and_all_else_keeps_clear_of_it(self) -> None:
        """A quarter of a plant is pinned. Where it stands as tight as a fraction of a mm, nothing may be found: places are whole mm."""
        found = 0
        for seed in range(30) if PROVING else (11, 14):
            chance = Random(seed)
            task, plant = planted(chance)
            pins = chance.sample(sorted(plant.box.places), max(1, len(plant.box.places) // 4))
            pinned = {key: plant.box.places[key].model_copy(update={"pinned": True}) for key in pins}
            box = plant.box.model_copy(update={"places": pinned})
            proposal = propose(replace(task, layout=lay_out(box, plant.case, task.layout.things)), smallest=False)
            if proposal.patch is None:
                self.assertEqual(proposal.reasons, [NOT_FOUND])
                continue
            after = laid(task, proposal)
            self.assertEqual({key: after.box.places[key] for key in pins}, pinned, seed)
            self.assertEqual(broken(after, {**task.masses, "": 4.5}, False), [], seed)
            found += 1
        self.assertGreaterEqual(found, 25 if PROVING else 1)

    def test_demo_builds_from_nothing(self) -> None:
        """Laid out without any place before: no rule of the box is broken, but that some runs are longer than was guessed."""
        for name in ("lantern-lane", "hollow-oak", "tidewater") if PROVING else ("tidewater",):
            data = put(demo(name), "/box/places", {})
            found = propose(task_of(data), smallest=False)
            assert found.patch is not None
            after = judge(put(data, "/box/places", found.patch[0]["value"]))
            broke = [f.text for f in after.findings if f.id.startswith("box.") and f.severity.value != "note"]
            self.assertEqual(broke, [], name)

    def test_it_is_the_same_every_time_and_begins_from_what_stands(self) -> None:
        task = task_of(demo("tidewater"))
        first, again = propose(task, smallest=False), propose(task, smallest=False)
        self.assertEqual(first, again)
        assert first.before_m is not None
        self.assertLessEqual(first.cables_m, first.before_m + 0.01)

    def test_what_is_pinned_stays(self) -> None:
        data = put(put(demo("tidewater"), "/box/places/pack/pinned", True), "/box/places/part:usb/pinned", True)
        found = propose(task_of(data), smallest=False)
        assert found.patch is not None
        for key in ("pack", "part:usb"):
            before = data["box"]["places"][key]
            self.assertEqual(found.patch[0]["value"][key], before, key)

    def test_the_smallest_box_of_the_list(self) -> None:
        data = demo("tidewater")
        found = propose(task_of(data), smallest=True)
        assert found.patch is not None
        self.assertTrue(found.case)
        after = data
        for operation in found.patch:
            after = put(after, operation["path"], operation["value"])
        built = judge(after)
        assert built.box is not None
        self.assertEqual(
            [f.text for f in built.findings if f.id in ("box.fit", "box.lid", "box.latch", "box.bend", "box.depth")], []
        )
        self.assertEqual(after["box"]["fittings"].keys(), data["box"]["fittings"].keys())
        hollow, before = built.box.layout.hollow, task_of(data).layout.hollow
        self.assertLessEqual(hollow.length * hollow.width * hollow.height, before.length * before.width * before.height)

    def test_why_nothing_fits(self) -> None:
        case = "/box/case/"
        for changes, said in (
            ({"length_mm": 150, "width_mm": 150}, "Pack measures"),
            ({"height_mm": 160}, "the lid shuts at"),
            ({"rated_kg": 5}, "the box is rated for"),
            ({"length_mm": 168, "width_mm": 168, "height_mm": 190}, "can be filled"),
        ):
            data = demo("tidewater")
            for name, value in changes.items():
                data = put(data, case + name, value)
            found = propose(task_of(data), smallest=False)
            self.assertIsNone(found.patch, said)
            self.assertIn(said, " ".join(found.reasons))

    def test_where_each_fits_and_all_do_not_that_is_said(self) -> None:
        data = put(put(demo("tidewater"), "/box/case/length_mm", 240), "/box/case/width_mm", 205)
        found = propose(task_of(data), smallest=False)
        self.assertEqual((found.patch, found.reasons), (None, [NOT_FOUND]))

    def test_it_ends_when_it_is_stopped(self) -> None:
        told: list[float] = []
        task = task_of(demo("lantern-lane"))
        bare = replace(
            task, layout=lay_out(task.layout.box.model_copy(update={"places": {}}), task.layout.case, task.layout.things)
        )
        found = propose(bare, smallest=False, told=lambda done: not told.append(done) and done < 0.3)  # type: ignore[func-returns-value]
        self.assertIsNotNone(found.patch)
        self.assertEqual(told, sorted(told))
        self.assertLess(told[-1], 0.9)
        nothing = propose(bare, smallest=True, told=lambda done: False)
        self.assertEqual((nothing.patch, nothing.reasons), (None, [STOPPED]))

    def test_cables_are_made_shorter(self) -> None:
        """What is bolted together by a thick cable stands nearer than at first: no longer in all than the greedy plant."""
        task, plant = planted(Random(10))
        after = sum(f.number for f in run_lengths(task.links, laid(task, propose(task, smallest=False))).values())
        self.assertLess(after, sum(f.number for f in run_lengths(task.links, plant).values()))


class RunLengths(TestCase):
    def test_from_terminal_to_terminal_along_the_walls(self) -> None:
        self.assertEqual(apart(Solid(0, 0, 0, 0, 0, 0), Solid(30, 40, 50, 30, 40, 50)), 120)
        self.assertEqual(apart(Solid(0, 0, 10, 100, 20, 10), Solid(50, 30, 10, 50, 30, 10)), 10)

    def test_where_cables_end(self) -> None:
        task, plant = planted(Random(3))
        for standing in plant.standing.values():
            ends = terminals(standing)
            self.assertTrue(ends)
            if standing.thing.key == "pack":
                top = standing.solid.z1 + standing.thing.post_mm
                self.assertEqual({end.z0 for end in ends}, {top})
        self.assertTrue(task.links)

    def test_by_hand(self) -> None:
        """The main fuse of the skiff, on a side, to the nearer end of its pack: each way along an axis, a tenth more, 30 mm for both ends."""
        found = judge(demo("tidewater"))
        assert found.box is not None
        layout = found.box.layout
        pack, fuse = layout.standing["pack"].solid, layout.standing["part:main-fuse"]
        along_x = pack.x1 - pack.x0 >= pack.y1 - pack.y0
        (x, y, _), z = pack.middle, pack.z1 + layout.standing["pack"].thing.post_mm
        ends = [(pack.x0, y), (pack.x1, y)] if along_x else [(x, pack.y0), (x, pack.y1)]
        ways = [
            sum(max(0.0, low - at, at - high) for low, high, at in zip(a[:3], a[3:], (x, y, z), strict=True))
            for a in terminals(fuse)
            for x, y in ends
        ]
        lengths = run_lengths([Link("main-fuse", "part:main-fuse", "pack", 2.5, 1.0)], layout)
        self.assertAlmostEqual(lengths["main-fuse"].number, 1.1 * min(ways) / 1000 + 0.03, places=4)

    def test_against_what_was_taken(self) -> None:
        def said(*changes: tuple[str, Any]) -> tuple[str, str, list[str]]:
            data = demo("tidewater")
            for pointer, value in changes:
                data = put(data, pointer, value)
            found = next((f for f in forecast(judge(data)).findings if f.id == "box.run-length"), None)
            return (found.severity.value, found.text, [r.label for r in found.remedies]) if found else ("", "", [])

        run = "/power/network/main-fuse/run/length_m"
        self.assertEqual(said()[0], "note")
        severity, text, remedies = said(
            (run, 0.02), ("/box/places/part:main-fuse", Inside(at="inside", x_mm=12, y_mm=12).model_dump(mode="json"))
        )
        self.assertIn(severity, ("mend", "stop"))
        self.assertIn("longer than taken", text)
        self.assertIn("The run to Main fuse is", text)
        if severity == "mend":
            self.assertEqual(remedies, ["Put in the lengths of the box"])
        switch = OnFace(at="face", face="left", x_mm=140, y_mm=60, sealing="splash").model_dump(mode="json")
        self.assertIn(
            "longer than taken",
            said(("/box/places/part:main-switch", switch), ("/power/network/main-switch/run/length_m", 0.03))[1],
        )

    def test_where_a_check_fails_at_it_that_is_a_stop(self) -> None:
        worse = [f for f in judge(demo("wobbly-stall")).findings if f.severity.value == "stop"][:2]
        lengths = [Figure.of("l", m, "m", "of a run") for m in (0.6, 0.2)]
        longer, shorter = RunSeen("Main fuse", *lengths), RunSeen("USB", *reversed(lengths))
        check = as_laid_out([shorter, longer], worse, ())
        assert check.finding is not None
        self.assertEqual(check.finding.severity.value, "stop")
        self.assertIn(f"What fails at that: {worse[0].text} And 1 more.", check.finding.text)
        self.assertIn("The run to Main fuse is 0.6 m in the box; 0.2 m was taken: longer", check.finding.text)
        self.assertEqual(as_laid_out([replace(longer, in_box=lengths[1])], [], ()).verdict, Verdict.HOLDS)
