"""What was begun, and what is the next thing to do, from nothing to the rehearsal."""

from typing import Any
from unittest import TestCase

from kegcart.core.design import begun
from kegcart.core.next_step import next_step
from tests.core.samples import demo, document, judge, mains, mended, put, window


class NextSteps(TestCase):
    def station(self, data: dict[str, Any]) -> str:
        return next_step(judge(data)).station

    def test_from_nothing_to_the_bench(self) -> None:
        data = document()
        self.assertEqual((begun(judge(data).design), self.station(data)), ([], "loads"))
        lamp = {"name": "Lamp", "kind": "led", "supply": "pack", "watts": 20, "windows": window(18, 22)}
        data = put(data, "/loads/items/lamp", lamp)
        self.assertEqual(self.station(data), "pack")
        data = put(data, "/pack", {"form": "battery", "chemistry": "lfp", "battery": {"series": 4, "capacity_ah": 60}})
        self.assertEqual(self.station(data), "power")
        laid_out = next(o for o in judge(data).offers if o.source == "")
        data = mended(data, laid_out.patch)
        self.assertEqual((begun(judge(data).design), self.station(data)), (["loads", "pack", "power", "bench"], "charging"))
        data = put(data, "/charging/sources/shore", mains())
        joined = next(f for f in judge(data).findings if f.id == "charging.not-connected").remedies[0]
        self.assertEqual(self.station(mended(data, joined.patch)), "bench")
        self.assertEqual([o for o in judge(data).offers if o.source == ""], [])

    def test_what_is_worst_comes_before_the_rehearsal(self) -> None:
        step, worst = next_step(judge(demo("wobbly-stall"))), judge(demo("wobbly-stall")).findings[0]
        self.assertEqual((step.text, step.station, step.place), (worst.text, worst.station, worst.place))
