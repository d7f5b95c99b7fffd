"""The drill: what is dealt shows, is kept until it is guessed, is the same each time, and can be found by measuring."""

from collections import Counter
from functools import cache
from unittest import TestCase

from kegcart.core.bench.comparing import compare
from kegcart.core.bench.dealt import DEALT
from kegcart.core.bench.drill import Drill, drill_of, name_of, write_drill
from tests.core.samples import demo, document, judge


@cache
def dealt(name: str, seed: int) -> Drill:
    return Drill(judge(demo(name)), seed)


class DrillTest(TestCase):
    takes_long = True

    def test_what_is_dealt_shows_and_is_the_same_each_time(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            kinds = Counter[str]()
            for seed in range(4):
                drill = dealt(name, seed)
                kinds[drill.kind] += 1
                steps = compare(drill.station, drill.readings, drill.expected)
                off = [r for step in steps for r in step.readings if r.off]
                self.assertGreater(len(off), 0, (name, seed, drill.answer))
                self.assertIn(drill.answer, drill.faults)
            self.assertGreater(len(kinds), 2, kinds)
        again = Drill(judge(demo(name)), seed)
        self.assertEqual(again.answer, drill.answer)
        probe = next(iter(drill.probes))
        self.assertEqual(again.measure(probe), drill.measure(probe))

    def test_it_is_told_only_once_it_is_guessed(self) -> None:
        drill = dealt("tidewater", 2)
        probe = next(iter(drill.probes))
        before = write_drill(drill, [probe], "")
        self.assertIsNone(before["answer"])
        self.assertEqual((before["at_first"], before["made"][0]["causes"]), ([], []))
        wrong = next(key for key in drill.faults if key != drill.answer)
        self.assertFalse(write_drill(drill, [], wrong)["answer"]["right"])
        after = write_drill(drill, [probe], drill.answer)
        self.assertTrue(after["answer"]["right"])
        self.assertTrue(after["at_first"] and after["made"][0]["causes"])
        with self.assertRaises(KeyError):
            write_drill(drill, ["a guess"], "")

    def test_the_measurement_of_what_was_dealt_is_off_and_others_are_not(self) -> None:
        """What a hand finds agrees with what is hidden: nine in ten of the others are as the design has them."""
        moved = {
            "loose": "terminals:{}",
            "thin": "run:{}",
            "wrong": "cell:{}",
            "weak": "held:{}",
            "thermometer": "thermometer:{}",
        }
        seen = 0
        for seed in range(6):
            drill = dealt("lantern-lane", seed)
            made = {key: drill.measure(key) for key in drill.probes}
            which = moved.get(drill.kind, drill.kind if drill.kind.startswith("meter:") else "").format(drill.ill.which)
            others = [m.off for key, m in made.items() if key != which]
            self.assertLess(sum(others), 0.1 * len(others), (seed, drill.answer))
            if which:
                self.assertTrue(made[which].off, (seed, drill.answer, made[which]))
                seen += 1
        self.assertGreater(seen, 2)

    def test_following_what_is_proposed_finds_it(self) -> None:
        """By the measurement that tells the first two apart, again and again."""
        hit = 0
        for seed in (0, 1, 3, 5):
            drill = dealt("lantern-lane", seed)
            probes: list[str] = []
            for _ in range(4):
                _, told = drill.told(probes)
                proposed = told[-1].next
                if len(told[-1].alike) < 2 or proposed is None:
                    break
                probes.append(proposed.key)
            hit += bool(told[-1].causes) and name_of(told[-1].causes[0].fault) == drill.answer
        self.assertGreaterEqual(hit, 3)

    def test_where_nothing_runs_nothing_is_dealt(self) -> None:
        self.assertIsNone(drill_of(judge(document()), 1))

    def test_every_kind_can_be_named_by_a_diagnosis(self) -> None:
        drill = dealt("lantern-lane", 1)
        self.assertEqual({fault.kind for fault in drill.faults.values()}, set(DEALT))
