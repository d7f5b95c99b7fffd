"""Lead-acid as it is: no board anywhere, its own resistance, six cells, gas, and a starting battery's one job."""

from typing import Any
from unittest import TestCase

from hypothesis import HealthCheck, given

from kegcart.core.assess import Assessment
from kegcart.core.bench.rehearse import rehearse
from kegcart.core.design import Design, write_design
from kegcart.core.forecast import forecast
from tests import tried
from tests.core.samples import designs, document, ids, judge, put, window

FAMILIES = ("agm", "flooded", "starting")


def battery(chemistry: str, **more: Any) -> dict[str, Any]:
    return {"form": "battery", "chemistry": chemistry, "battery": more}


def said(found: Assessment) -> list[str]:
    """Every word that the screen says of a design."""
    days = forecast(found)
    out = [word for f in (*found.findings, *days.findings) for word in (f.text, f.why, *(r.label for r in f.remedies))]
    out += [
        word for f in (*found.figures.values(), *days.figures.values()) for part in f.walk() for word in (part.label, part.how)
    ]
    out += [event.text for course in days.courses.values() for event in course.events]
    out += [word for step in rehearse(found) for word in (step.name, step.do, step.ends)]
    return out + [step.name for step in found.power.cutoffs]


class Lead(TestCase):
    def test_a_block_of_100_ah_has_some_milliohms(self) -> None:
        for key in ("agm", "flooded"):
            ohm = judge(document(pack=battery(key, capacity_ah=100))).pack.resistance.number
            self.assertGreater(ohm, 0.004)
            self.assertLess(ohm, 0.006)

    def test_it_has_six_cells_where_nothing_is_said(self) -> None:
        for key in FAMILIES:
            self.assertEqual(judge(document(pack=battery(key))).pack.v_nom.number, 12)
            bank = {"name": "Winch", "chemistry": key}
            self.assertEqual(judge(document(power={"banks": {"w": bank}})).power.sources["w"].v_nom.number, 12)
        self.assertEqual(judge(document(pack={"form": "battery"})).pack.series.number, 4)

    def test_another_count_is_never_silent(self) -> None:
        for cells, severity in ((4, "note"), (5, "mend"), (7, "mend")):
            found = judge(document(pack=battery("agm", series=cells)))
            told = next(f for f in found.findings if f.id == "pack.block")
            self.assertEqual(told.severity, severity)
            self.assertIn(f"{2 * cells} V", told.text)
        for cells in (1, 3, 6, 12):
            self.assertNotIn("pack.block", ids(document(pack=battery("agm", series=cells))))
        bank = {"name": "Winch", "chemistry": "starting", "series": 4}
        self.assertIn("/power/banks/w/series", {f.place for f in judge(document(power={"banks": {"w": bank}})).findings})

    def test_hydrogen_asks_for_its_opening(self) -> None:
        # 6 cells, 110 Ah at boost: flooded 0.660 m³/h and 18.5 cm², AGM 0.264 m³/h.
        for key, air, opening in (("flooded", 0.660, 18.5), ("agm", 0.264, 7.39)):
            data = document(pack=battery(key, capacity_ah=110))
            told = next(f for f in judge(data).findings if f.id == "box.gas")
            self.assertAlmostEqual(told.figures["Q"].number, air, places=3)
            self.assertAlmostEqual(told.figures["A"].number, opening, delta=0.03)
            self.assertNotIn("box.gas", ids(put(data, "/pack/gas_opening_cm2", opening + 0.1)))
            self.assertIn("box.gas", ids(put(data, "/pack/gas_opening_cm2", opening - 0.1)))
        self.assertNotIn("box.gas", ids(document()))

    def test_a_starting_battery_that_an_engine_feeds_has_no_finding_of_energy_or_rate(self) -> None:
        winch = {"name": "Winch", "kind": "brushed", "supply": "pack", "watts": 2400, "windows": window(10, 10.5)}
        network = {
            "f": {"part": "protection", "name": "F", "feed": "pack"},
            "o": {"part": "outlet", "name": "O", "feed": "f", "connector": "post-m8"},
        }
        unfit = {"loads.energy-short", "loads.reserve-thin", "pack.c-rate", "pack.depth"}
        pack = battery("starting", capacity_ah=70, continuous_a=400, burst_a=700)
        data = document(loads={"items": {"w": winch | {"engine_runs": True}}}, power={"network": network}, pack=pack)
        self.assertEqual(ids(data) & unfit, set())
        self.assertNotIn("bench.dark", {f.id for f in forecast(judge(data)).findings})
        alone = judge(put(data, "/loads/items/w/engine_runs", False))
        self.assertIn("loads.energy-short", {f.id for f in alone.findings})
        self.assertIn("bench.dark", {f.id for f in forecast(alone).findings})
        fed = {"name": "Starter", "chemistry": "starting", "capacity_ah": 70, "continuous_a": 400, "burst_a": 700}
        second = document(
            loads={"items": {"w": winch | {"engine_runs": True}}},
            power={"network": put(network, "/f/feed", "s"), "banks": {"s": fed}},
        )
        self.assertEqual(ids(second) & unfit, set())

    @tried(60, suppress_health_check=[HealthCheck.too_slow])
    @given(designs())
    def test_no_word_speaks_of_a_board(self, design: Design) -> None:
        data = write_design(design)
        for key in ("agm", "flooded"):
            of = put(put(data, "/pack", {"form": "batteries", "chemistry": key}), "/power/banks", {})
            of["power"]["network"] = {k: n for k, n in of["power"]["network"].items() if n["feed"] != "spare"}
            try:
                found = judge(of)
            except ValueError:  # a part that hung on the bank that was taken out
                continue
            told = [
                word for word in said(found) if "board" in word.lower() or "protection opens" in word or "protection of" in word
            ]
            self.assertEqual(told, [])
