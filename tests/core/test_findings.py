"""The catalogue of findings: each speaks where it should, is silent where it should be, and its remedies mend."""

from functools import cache
from typing import Any
from unittest import TestCase

from kegcart.core.assess import Assessment, assess
from kegcart.core.catalogue import CATALOGUE
from kegcart.core.design import read_design, write_design
from kegcart.core.electrical.conductors import gauges
from kegcart.core.finding import Finding, Severity
from kegcart.core.power.drawing.wire_table import rows
from tests.core.samples import BUILT, DEMO_NAMES, RECORDED, SIMULATED, demo, document, ids, judge, mains, mended, put, window

LANE = "lantern-lane"
TIDE = "tidewater"


def bank(**changes: Any) -> dict[str, Any]:
    """Two or more of the Tidewater battery, with what a test changes."""
    battery = {"series": 4, "capacity_ah": 60, "continuous_a": 60, "charge_a": 30, "resistance_mohm": 14, "cold_lock": True}
    return {"form": "batteries", "chemistry": "lfp", **changes, "battery": battery | changes.get("battery", {})}


def resting(*volts: float) -> dict[str, Any]:
    return {f"s{i}": {"units": {"u1": {"resting_v": v}}} for i, v in enumerate(volts, 1)}


def groups(capacities: list[float], ohms: list[float] | None = None, rejects: dict[int, str] | None = None) -> dict[str, Any]:
    """Groups of one cell each, of these capacities in Ah and resistances in mΩ."""
    out = {}
    for i, ah in enumerate(capacities, 1):
        cell = {"label": f"C{i}", "capacity_ah": ah, "resistance_mohm": (ohms or [0.2] * len(capacities))[i - 1]}
        out[f"g{i}"] = {"cells": [cell | {"reject": (rejects or {}).get(i, "")}]}
    return out


LANE_SOURCE = "/charging/sources/mains"


def source(kind: str, **more: Any) -> tuple[str, Any]:
    """A further source of the lane, called `more`."""
    return ("/charging/sources/more", {"kind": kind, "name": "Another source", **more})


#: finding -> (sound demo build, changes that make it speak)
SPEAKS: dict[str, tuple[str, list[tuple[str, Any]]]] = {
    "charging.setpoint": (LANE, [(f"{LANE_SOURCE}/set_v", 29.5)]),
    "charging.chemistry": (LANE, [(f"{LANE_SOURCE}/profile", "agm")]),
    "charging.lead-profile": (LANE, [(f"{LANE_SOURCE}/compensated", True)]),
    "charging.board-ends": (LANE, [(f"{LANE_SOURCE}/set_v", 29.1)]),
    "charging.no-supervision": (LANE, [(f"{LANE_SOURCE}/ends", "never")]),
    "charging.current": (LANE, [(f"{LANE_SOURCE}/current_a", 120)]),
    "charging.sum": (LANE, [source("mains", current_a=45), ("/charging/sources/third", mains(40))]),
    "charging.wall-circuit": (LANE, [(f"{LANE_SOURCE}/circuit_other_w", 2400)]),
    "charging.mains-mismatch": (LANE, [(f"{LANE_SOURCE}/input", "120 V")]),
    "charging.module-chargers": (LANE, [(f"{LANE_SOURCE}/each", "series"), (f"{LANE_SOURCE}/count", 2)]),
    "charging.inside-heat": (LANE, [(f"{LANE_SOURCE}/inside", True)]),
    "charging.input-window": (LANE, [source("step_down", supply_v=24, ends="time")]),
    "charging.vehicle-direct": (LANE, [source("vehicle", by="straight", system="24 V")]),
    "charging.alternator": (LANE, [source("vehicle", current_a=30)]),
    "charging.vehicle-start": (LANE, [source("vehicle", starts="by hand")]),
    "charging.solar-voc": (LANE, [source("solar", panels=4, in_series=4, controller="mppt-75-15")]),
    "charging.solar-vmp": (LANE, [source("solar", panels=2, in_series=1)]),
    "charging.solar-current": (LANE, [source("solar", panels=6, panel="p200", controller="mppt-75-10")]),
    "charging.over-60": (LANE, [source("solar", panels=3, in_series=3)]),
    "charging.order": (LANE, [source("solar", panels=2)]),
    "charging.string-fuse": (LANE, [source("solar", panels=6, in_series=2, sheet={"isc_a": 13})]),
    "charging.panel-over": (LANE, [source("solar", panels=5, in_series=2)]),
    "charging.solar-short": (LANE, [source("solar", panels=4, panel="p370"), ("/charging/sun/climate", "summer-dry")]),
    "charging.sun-table": (LANE, [source("solar", panels=2), ("/charging/sun/sun_hours", [9] * 12)]),
    "charging.warming": (LANE, [("/brief/site_min_c", -8), ("/charging/pad/watts", 5)]),
    "charging.pad": (LANE, [("/charging/pad/watts", 60)]),
    "charging.isolation": (LANE, [source("vehicle"), ("/power/network/inverter/bond", "bonded")]),
    "charging.not-connected": (LANE, [("/power/network/charge-inlet/source", None)]),
    "charging.loop": (LANE, [(f"{LANE_SOURCE}/plugged_into", "own inverter")]),
    "loads.none": (TIDE, [("/loads/items", {}), ("/power/network", {})]),
    "loads.no-hours": (LANE, [("/loads/items/mixer/windows", {})]),
    "loads.no-outlet": (TIDE, [("/loads/items/tablet/supply", "ac")]),
    "loads.straight": (
        TIDE,
        [
            ("/power/network/steady", {"part": "converter", "name": "Converter", "feed": "light-fuse"}),
            ("/power/network/steady-outlet", {"part": "outlet", "name": "Steady outlet", "feed": "steady"}),
            ("/loads/items/sample-pump/supply", "dc_12v"),
            ("/loads/items/sample-pump/outlet", None),
        ],
    ),
    "loads.surge-unknown": (LANE, [("/loads/items/cooler/surge", None)]),
    "loads.socket-rating": (TIDE, [("/power/network/usb/connector", "usb-a"), ("/loads/items/tablet/count", 3)]),
    "loads.energy-short": (LANE, [("/loads/items/fog-machine/windows", window(9, 23))]),
    "loads.reserve-thin": (LANE, [("/brief/reserve", 0.3)]),
    "pack.current": (TIDE, [("/pack/battery/continuous_a", 10), ("/pack/battery/burst_a", 20)]),
    "pack.high-current-small": (LANE, [("/pack/board/continuous_a", 80)]),
    "pack.c-rate": (LANE, [("/pack/cell/capacity_ah", 50), ("/pack/cell/continuous_a", 200)]),
    "pack.sag": (LANE, [("/pack/cell/resistance_mohm", 6)]),
    "loads.mains-mismatch": (LANE, [("/loads/items/projector/mains", "120 V 60 Hz")]),
    "loads.double-conversion": (LANE, [("/loads/items/projector/direct", "dc_12v")]),
    "loads.heater-share": (LANE, [("/loads/items/fog-machine/windows", window(14, 19))]),
    "loads.va": (LANE, [("/loads/items/fog-machine/power_factor", 0.3), ("/power/network/inverter/rating_w", 2000)]),
    "loads.growth": (LANE, [("/brief/growth", 0.4)]),
    "pack.board-series": (LANE, [("/pack/board/series", 7)]),
    "pack.board-chemistry": (LANE, [("/pack/board/chemistry", "nmc")]),
    "pack.board-margin": (LANE, [("/pack/board/continuous_a", 70), ("/power/network/inverter/rating_w", 1500)]),
    "pack.cold-charge": (LANE, [("/brief/site_min_c", -8), ("/pack/board/cold_lock", False)]),
    "pack.links": (LANE, [("/pack/link/material", "nickel"), ("/pack/link/layers", 1), ("/pack/link/width_mm", 8)]),
    "pack.starting-battery": (TIDE, [("/pack/chemistry", "starting"), ("/pack/battery/series", 6)]),
    "pack.series-limit": (TIDE, [("/pack", bank(in_series=2, battery={"series": 2, "series_limit": 1}))]),
    "pack.parallel-fuse": (TIDE, [("/pack", bank(parallel=3, strings={"s2": {"protected": False}}))]),
    "pack.parallel-takeoff": (TIDE, [("/pack", bank(parallel=3, takeoff="same side"))]),
    "pack.join-voltage": (TIDE, [("/pack", bank(parallel=2, strings=resting(13.6, 12.4)))]),
    "pack.mixed": (TIDE, [("/pack", bank(parallel=2, strings={"s2": {"units": {"u1": {"capacity_ah": 40}}}}))]),
    "pack.board-threshold": (LANE, [("/pack/board/cell_max_v", 3.4)]),
    "pack.freeze": (TIDE, [("/pack/chemistry", "flooded"), ("/pack/battery/series", 6), ("/brief/site_min_c", -21)]),
    "pack.unlike-series": (
        TIDE,
        [
            (
                "/pack",
                bank(
                    in_series=2,
                    battery={"series": 2},
                    strings={"s1": {"units": {"u1": {"resting_v": 6.6}, "u2": {"resting_v": 6.5}}}},
                ),
            )
        ],
    ),
    "pack.too-many-strings": (TIDE, [("/pack", bank(parallel=5))]),
    "pack.string-lead": (TIDE, [("/pack", bank(parallel=2, lead={"gauge": "14 AWG"}, strings=resting(13.2, 13.2)))]),
    "pack.collector": (
        "hollow-oak",
        [
            ("/pack/collector/material", "nickel"),
            ("/pack/collector/width_mm", 8),
            ("/pack/collector/thickness_mm", 0.15),
            ("/pack/collector/layers", 1),
        ],
    ),
    "pack.cell-fuse": ("hollow-oak", []),
    "pack.sense-lead": (LANE, [("/pack/board/sense_fused", False)]),
    "pack.wake": (TIDE, [("/pack", bank(parallel=2, battery={"sleeps": True}))]),
    "pack.group-spread": (LANE, [("/pack/groups", groups([230, 226, 230, 230, 230, 230, 230, 230]))]),
    "pack.group-resistance": (LANE, [("/pack/groups", groups([230] * 8, [0.2] * 7 + [0.3]))]),
    "pack.cell-reject": (LANE, [("/pack/groups", groups([230] * 8, rejects={3: "swollen"}))]),
    "pack.groups-stale": (LANE, [("/pack/groups", groups([230] * 7))]),
    "pack.balance": (LANE, [("/pack/groups", groups([230.6, *[230] * 7])), ("/pack/board/balance_ma", 50)]),
    "pack.depth": (LANE, [("/pack/depth", 0.98)]),
    "pack.cold-capacity": (TIDE, []),
    "pack.voltage-over-60": (LANE, [("/pack/series", 17)]),
    "pack.voltage-class": (LANE, [("/pack/series", 4), ("/pack/parallel", 2), ("/power/network/inverter/rating_w", None)]),
    "power.wire-unprotected": (
        LANE,
        [("/power/network/inverter/run/gauge", "10 mm²"), ("/power/network/main-fuse/rating_a", 150)],
    ),
    "power.fuse-nuisance": (LANE, [("/power/network/main-fuse/rating_a", 60)]),
    "power.fuse-interrupt": (LANE, [("/power/network/main-fuse/family", "bolt-in-large")]),
    "power.fuse-voltage": (LANE, [("/pack/series", 16), ("/power/network/sound-fuse/family", "blade")]),
    "power.drop": (LANE, [("/power/network/sound/run/length_m", 15), ("/power/network/sound/run/gauge", "0.75 mm²")]),
    "power.connector": (LANE, [("/power/network/sound/connector", "bullet-30"), ("/power/network/sound-fuse/rating_a", 25)]),
    "power.busbar": (LANE, [("/power/network/busbar/section", "12×2")]),
    "power.switch-rating": (LANE, [("/power/network/main-switch/rating_a", 50)]),
    "power.shunt-bypass": (LANE, [("/power/network/inverter/negative", "post")]),
    "power.shunt-rating": (LANE, [("/power/shunt/rating_a", 50)]),
    "power.converter-idle": (
        LANE,
        [("/power/network/converter-2", {"part": "converter", "name": "Spare converter", "feed": "converter-fuse"})],
    ),
    "power.converter": (LANE, [("/power/network/converter/rating_a", 3)]),
    "power.inverter-continuous": (LANE, [("/power/network/inverter/rating_w", 1000)]),
    "power.inverter-surge": (LANE, [("/power/network/inverter/surge_w", 1000)]),
    "power.inverter-window": (LANE, [("/pack/series", 6)]),
    "power.inverter-oversize": (
        LANE,
        [
            ("/power/network/inverter/rating_w", 5000),
            ("/power/network/inverter/left_on", True),
            ("/pack/board/continuous_a", None),
        ],
    ),
}
SPEAKS |= {
    "power.breaker-dc": (LANE, [("/power/network/main-fuse/family", "ac-only")]),
    "power.fuse-place": (LANE, [("/power/network/main-fuse/run/length_m", 2)]),
    "power.selectivity": (LANE, [("/power/network/block-fuse/rating_a", 10), ("/power/network/sound-fuse/rating_a", 10)]),
    "power.switch-reach": (LANE, [("/power/network/main-switch/reach", "inside")]),
    "power.lug-stud": (LANE, [("/power/network/inverter/run/lug", "M5")]),
    "power.precharge": (LANE, [("/power/network/inverter/precharge", False)]),
    "power.waveform": (LANE, [("/power/network/inverter/waveform", "modified"), ("/loads/items/projector/pure_sine", True)]),
    "power.cutoff-order": (LANE, [("/power/network/inverter/cutoff_v", 19)]),
    "power.idle-drain": (LANE, [("/power/shunt/own_draw_ma", 200)]),
    "power.live-pins": (LANE, [("/power/network/sound/pins", "exposed")]),
    "power.backfeed": (LANE, [("/charging/sources/in", mains(20)), ("/power/network/sound/source", "in")]),
    "power.two-sources": (LANE, [("/power/network/inverter/transfer", "not interlocked")]),
    "power.ac-breaker": (LANE, [("/power/network/ac-2/run/length_m", 3), ("/power/network/ac-2/run/gauge", "0.75 mm²")]),
    "power.socket-breaker": (
        LANE,
        [
            ("/power/network/ac-2/run/length_m", 3),
            ("/power/network/ac-2/breaker_a", 32),
            ("/power/network/ac-2/connector", "ac-10"),
        ],
    ),
    "power.rcd-bond": (LANE, [("/power/network/inverter/bond", "none")]),
    "power.device-voltage": (LANE, [("/power/network/main-switch/voltage_v", 24)]),
    "power.other-feed": (
        LANE,
        [
            ("/power/banks/spare", {"name": "Spare bank", "series": 8}),
            ("/power/network/choice", {"part": "selector", "name": "Choice", "feed": "busbar", "other": "spare"}),
        ],
    ),
    "pack.block": (TIDE, [("/pack", {"form": "battery", "chemistry": "agm", "battery": {"series": 5}})]),
    "box.gas": (TIDE, [("/pack", {"form": "battery", "chemistry": "flooded", "battery": {"capacity_ah": 110}})]),
    "box.fit": (LANE, [("/box/places/shunt/x_mm", 370)]),
    "box.lid": (LANE, [("/box/case/height_mm", 220)]),
    "box.latch": (LANE, [("/box/places/part:ac-2/x_mm", 510), ("/box/places/part:ac-2/y_mm", 270)]),
    "box.depth": (LANE, [("/box/places/part:ac-2/face", "back"), ("/box/places/part:ac-2/y_mm", 120)]),
    "box.bend": (LANE, [("/box/places/part:inverter/x_mm", 60)]),
    "box.wall": (LANE, [("/box/case/wall_mm", 12)]),
    "box.load": (LANE, [("/box/case/rated_kg", 20)]),
    "box.carry": (LANE, [("/brief/carriage", "two hands")]),
    "box.balance": (LANE, [("/box/bodies/pack", {"width_mm": 100, "mass_kg": 80})]),
    "box.holddown": (LANE, [("/box/places/pack/held", ["hook-and-loop"])]),
    "box.airflow": (LANE, [("/box/fittings/vent/face", "back")]),
    "box.fan-setting": (LANE, [("/box/fittings/fan/off_c", 20)]),
    "box.water": (LANE, [("/brief/exposure", "wet")]),
    "box.access": (LANE, [("/box/places/part:main-switch", {"at": "inside", "x_mm": 560, "y_mm": 40, "held": ["screw"]})]),
    "box.install-order": (LANE, [("/box/places/part:ac-2/face", "back"), ("/box/places/part:ac-2/y_mm", 120)]),
    "box.vent": (TIDE, [("/pack", {"form": "battery", "chemistry": "agm", "battery": {"series": 6}})]),
    "box.relief": (LANE, [("/box/fittings", {})]),
    "power.cutoff-high": (TIDE, [("/power/network/main-switch/cutoff_v", 14)]),
    "power.load-dump": (
        LANE,
        [
            ("/power/network/sun-fuse", {"part": "protection", "name": "Sun fuse", "feed": "busbar"}),
            ("/power/network/sun", {"part": "input", "name": "Sun", "feed": "sun-fuse"}),
        ],
    ),
    "power.rcd": (LANE, [("/brief/exposure", "wet"), ("/power/network/inverter/rcd", False)]),
    "power.neutral-bond": (LANE, [("/power/network/inverter/bond", "not known")]),
    "power.meter-voltage": (LANE, [("/power/shunt", None)]),
    "power.withstand": (
        LANE,
        [("/power/network/block-fuse/family", "din-breaker"), ("/power/network/fuse-block/run/gauge", "1 mm²")],
    ),
    "power.parallel-wires": (
        LANE,
        [("/power/network/inverter/run/parallel", 2), ("/power/network/inverter/run/gauge", "16 mm²")],
    ),
    "power.no-fuse-opens": (LANE, [("/pack/parallel", 4)]),
    "pack.string-fuse": (TIDE, [("/pack", bank(parallel=4, battery={"resistance_mohm": 1}))]),
    "power.post-lugs": (LANE, [("/power/network/inverter/feed", "pack"), ("/power/network/block-fuse/feed", "pack")]),
    "loads.leg": (
        LANE,
        [
            ("/brief/mains", "120/240 V split-phase"),
            ("/power/network/inverter/rating_w", 1500),
            *((f"/power/network/{outlet}/leg", "1") for outlet in ("ac-1", "ac-2")),
        ],
    ),
    "power.not-sold": (TIDE, [("/power/network/main-fuse/rating_a", 37)]),
    "power.path-drop": (TIDE, [("/power/network/pump/run/length_m", 6), ("/power/network/pump/run/gauge", "16 AWG")]),
    "power.long-stub": (LANE, [("/power/network/block-fuse/run/sheathed", False)]),
    "power.block-family": (LANE, [("/power/network/usb-fuse/family", "din-breaker"), ("/power/network/sound-fuse/family", "nh")]),
    "power.chafe": (LANE, [("/power/network/sound/run/wall", "bare")]),
}

#: findings that no patch can mend
WITHOUT_REMEDY = {"box.install-order", "loads.none", "pack.cold-capacity", "loads.heater-share"}


def spoiled(finding: str) -> dict[str, Any]:
    name, changes = SPEAKS[finding]
    data = demo(name)
    for pointer, value in changes:
        data = put(data, pointer, value)
    return write_design(read_design(data))


@cache
def judged(finding: str) -> Assessment:
    """What is found of that, worked out once for all tests."""
    return judge(spoiled(finding))


def stops(data: dict[str, Any]) -> list[Finding]:
    return [f for f in judge(data).findings if f.severity == "stop"]


class CatalogueTest(TestCase):
    def test_each_entry_of_the_catalogue_has_a_design_in_which_it_speaks(self) -> None:
        """A rule taken out, or one without a test, is named here."""
        self.assertEqual(
            {id for id in CATALOGUE if not id.startswith("bench.")} - {"charging.window", *SIMULATED, *BUILT, *RECORDED},
            set(SPEAKS) | {"pack.cell-elsewhere"},
        )

    def test_each_finding_speaks_when_it_should(self) -> None:
        for finding in SPEAKS:
            with self.subTest(finding):
                self.assertIn(finding, {f.id for f in judged(finding).findings})

    def test_sound_builds_have_neither_stop_nor_mend(self) -> None:
        for name in (LANE, TIDE):
            self.assertEqual([f.text for f in judge(demo(name)).findings if f.severity != "note"], [])

    def test_each_finding_is_silent_in_a_sound_build(self) -> None:
        warm = put(demo(LANE), "/brief/site_min_c", 20)
        others = {
            "pack.cold-capacity": put(document(), "/brief/site_min_c", 20),
            "power.neutral-bond": put(warm, "/power/network/inverter/bond", "bonded"),
        }
        found = ids(warm)
        for finding in SPEAKS:
            with self.subTest(finding):
                self.assertNotIn(finding, ids(others[finding]) if finding in others else found)

    def test_each_finding_names_its_place_and_its_figures(self) -> None:
        for finding in SPEAKS:
            for found in judged(finding).findings:
                with self.subTest(found.id):
                    self.assertTrue(found.place.startswith("/"))
                    self.assertNotIn("{", found.text)
                    self.assertGreater(len(found.why), 20)

    def test_remedies_mend_what_they_are_offered_for(self) -> None:
        for finding in SPEAKS:
            data = spoiled(finding)
            found = next(f for f in judged(finding).findings if f.id == finding)
            with self.subTest(finding):
                self.assertEqual(bool(found.remedies), finding not in WITHOUT_REMEDY)
                cured = [
                    remedy.label
                    for remedy in found.remedies
                    if (finding, found.place) not in {(f.id, f.place) for f in judge(mended(data, remedy.patch)).findings}
                ]
                if found.remedies:
                    self.assertTrue(cured, f"none of {[r.label for r in found.remedies]} mends {finding}")

    def test_main_fuse_missing_altogether_is_a_stop_that_one_click_mends(self) -> None:
        lamp = {"name": "Lamp", "watts": 50, "supply": "pack", "windows": window(18, 22)}
        outlet = {"part": "outlet", "name": "Lamp outlet", "feed": "pack"}
        data = document(loads={"items": {"lamp": lamp}}, power={"network": {"lamp-outlet": outlet}})
        found = next(f for f in judge(data).findings if f.id == "power.wire-unprotected")
        after = judge(mended(data, found.remedies[0].patch))
        self.assertNotIn("power.wire-unprotected", {f.id for f in after.findings})

    def test_an_empty_design_gets_a_whole_path_by_the_remedy(self) -> None:
        items = {
            s.replace("_", "-"): {"name": s, "watts": 40, "supply": s, "windows": window(9, 12)}
            for s in ("ac", "dc_12v", "usb", "pack")
        }
        data = document(loads={"items": items})
        found = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        after = judge(mended(data, found.remedies[0].patch))
        self.assertEqual([f.text for f in after.findings if f.severity == "stop"], [])
        self.assertEqual(after.power.without_outlet, [])
        self.assertIsNotNone(after.power.shunt)

    def test_offers_add_what_they_say(self) -> None:
        for name in DEMO_NAMES:
            for offer in judge(demo(name)).offers:
                after = judge(mended(demo(name), offer.patch))
                self.assertEqual(len(after.power.network.outlets()), len(judge(demo(name)).power.network.outlets()) + 1)


class EveryRun(TestCase):
    """What was no run before: each unprotected, thin, or of another voltage is caught at its place."""

    def places(self, data: dict[str, Any], finding: str) -> set[str]:
        return {f.place for f in judge(data).findings if f.id == finding}

    def with_other_way(self, **changes: Any) -> dict[str, Any]:
        data = spoiled("power.other-feed")
        fuse = {"part": "protection", "name": "Spare fuse", "feed": "spare", "run": {"length_m": 0.1}, "rating_a": 60}
        data = put(data, "/power/network/spare-fuse", fuse)
        data = put(data, "/power/network/choice/other", "spare-fuse")
        for pointer, value in changes.items():
            data = put(data, pointer.replace("__", "/"), value)
        return write_design(read_design(data))

    def test_the_other_way_of_a_selector(self) -> None:
        run, way = "/power/network/choice/other_run", "/power/network/choice/other"
        self.assertEqual(self.places(spoiled("power.other-feed"), "power.other-feed"), {run})
        self.assertEqual(self.places(self.with_other_way(), "power.other-feed"), set())
        thin = put(self.with_other_way(), f"{run}/gauge", "4 mm²")
        self.assertEqual(self.places(thin, "power.other-feed"), {run})
        self.assertEqual(self.places(put(self.with_other_way(), "/power/banks/spare/series", 4), "power.other-feed"), {way})

    def test_what_stands_behind_a_selector_carries_the_larger_fuse_of_both_ways(self) -> None:
        lamp = {"part": "outlet", "name": "Lamp", "feed": "choice", "run": {"length_m": 1}}
        data = put(put(self.with_other_way(), "/power/network/choice/feed", "house-fuse"), "/power/network/lamp", lamp)
        data = put(
            data, "/power/network/house-fuse", {"part": "protection", "name": "House fuse", "feed": "busbar", "rating_a": 16}
        )
        a = judge(write_design(read_design(data)))
        run = a.power.parts["lamp"].run
        assert run and a.power.parts["lamp"].fault and a.power.parts["choice"].fault
        self.assertGreaterEqual(run.ampacity.number, 60)
        pinned = write_design(read_design(put(data, "/power/network/lamp/run/gauge", "1.5 mm²")))
        self.assertIn("/power/network/lamp/run", self.places(pinned, "power.wire-unprotected"))

    def test_a_charger_that_joins_before_the_main_switch_leaves_it_the_main_switch(self) -> None:
        data = spoiled("power.load-dump")
        found = next(f for f in judge(data).findings if f.id == "power.load-dump")
        after = {f.id for f in judge(mended(data, found.remedies[0].patch)).findings}
        self.assertEqual(after & {"power.load-dump", "power.switch-reach"}, set())

    def test_the_main_negative_is_as_thick_as_its_fuse_asks(self) -> None:
        data = put(demo(LANE), "/power/negative", {"length_m": 0.6})
        self.assertEqual(judge(data).power.ctx.negative.gauge.value, judge(demo(LANE)).power.ctx.negative.gauge.value)  # type: ignore[union-attr]
        thin = write_design(read_design(put(demo(LANE), "/power/negative", {"length_m": 0.6, "gauge": "10 mm²"})))
        self.assertIn("/power/negative", self.places(thin, "power.wire-unprotected"))
        short = write_design(read_design(put(demo(LANE), "/power/negative", {"length_m": 0.05})))
        self.assertGreater(
            judge(short).figures["power/inverter/fault"].number, judge(demo(LANE)).figures["power/inverter/fault"].number
        )

    def test_meter_and_sense_leads_have_their_fuses(self) -> None:
        bare = put(demo(LANE), "/power/shunt/lead_fused", False)
        self.assertEqual(self.places(bare, "power.wire-unprotected"), {"/power/shunt/lead_fused"})
        self.assertEqual(self.places(spoiled("pack.sense-lead"), "pack.sense-lead"), {"/pack/board/sense_fused"})
        for name in (LANE, "hollow-oak", TIDE):
            figures = judge(demo(name)).figures
            self.assertLessEqual(figures["power/shunt/run/fuse"].number, 2, name)

    def test_strings_have_leads_that_carry_their_fuse_and_survive_the_others(self) -> None:
        two = put(demo(TIDE), "/pack", bank(parallel=2, battery={"continuous_a": 100}, strings=resting(13.2, 13.2)))
        a = judge(two)
        strings = a.pack.build.strings
        assert strings and strings.fuse and strings.link
        self.assertGreaterEqual(min(lead.ampacity.number for lead in strings.leads), strings.fuse.number)
        self.assertGreaterEqual(strings.link.ampacity.number, 200)
        thin = write_design(read_design(put(two, "/pack/lead/gauge", "18 AWG")))
        self.assertEqual(self.places(thin, "pack.string-lead"), {"/pack/strings/s1", "/pack/strings/s2"})
        link = put(put(two, "/pack/link/gauge", "8 AWG"), "/power/network/main-fuse/rating_a", 150)
        link = write_design(read_design(link))
        self.assertEqual(self.places(link, "pack.string-lead"), {"/pack/link"})


class WobblyStall(TestCase):
    def test_it_shows_at_least_ten_findings_of_the_list(self) -> None:
        self.assertGreaterEqual(len(ids(demo("wobbly-stall")) & set(SPEAKS)), 10)

    def test_offered_remedies_one_after_another_leave_no_stop(self) -> None:
        data = demo("wobbly-stall")
        for _ in range(60):
            left = stops(data)
            if not left:
                break
            first = next((f for f in left if f.remedies), None)
            assert first is not None, f"no remedy for {[f.text for f in left]}"
            data = mended(data, first.remedies[0].patch)
        self.assertEqual([f.text for f in stops(data)], [])

    def test_any_order_of_remedies_leaves_no_stop(self) -> None:
        for pick in (-1, 1):  # the first each time is tried above
            data = demo("wobbly-stall")
            for _ in range(80):
                left = [f for f in stops(data) if f.remedies]
                if not left:
                    break
                found = left[pick % len(left)]
                data = mended(data, found.remedies[pick % len(found.remedies)].patch)
            self.assertEqual([f.text for f in stops(data)], [], f"picking {pick}")


class SoundBuildsSpoiled(TestCase):
    """One unsafe change at a time in a sound build is caught at the right place."""

    def test_a_fuse_beyond_its_wire(self) -> None:
        for name in (LANE, TIDE):
            base = judge(demo(name))
            for key, part in base.power.parts.items():
                if part.node.part != "protection" or part.rating is None or part.family is None:
                    continue
                first = [key] if part.guard is None else []
                guarded = [c for c in (*first, *base.power.network.segment(key)) if base.power.parts[c].run]
                for child in guarded:
                    run = base.power.parts[child].run
                    assert run is not None
                    data = put(demo(name), f"/power/network/{child}/run/gauge", run.gauge.value)
                    data = put(data, f"/power/network/{key}/rating_a", float(run.ampacity.number) + 1)
                    places = {f.place for f in judge(data).findings if f.id == "power.wire-unprotected"}
                    self.assertIn(f"/power/network/{child}/run", places, f"{name}: {key} over {child}")

    def test_the_thinnest_cable_that_is_sold_behind_fuses_as_they_were(self) -> None:
        ac = put(demo(LANE), "/power/network/ac-1/run", {"length_m": 8.0})
        strings = put(demo(TIDE), "/pack", bank(parallel=3, strings=resting(13.2, 13.2, 13.2)))
        judged = 0
        for data in (ac, strings, demo("hollow-oak")):
            for key, part in judge(data).power.parts.items():
                breaker = part.extra.get("breaker")
                if part.node.part == "protection" and part.rating is not None:
                    data = put(data, f"/power/network/{key}/rating_a", part.rating.number)
                elif breaker is not None:
                    data = put(data, f"/power/network/{key}/breaker_a", breaker.number)
            base = judge(data)
            thinnest = gauges(base.design.brief.gauge_system)[0].key
            for row in rows(base.power):
                if not row.at:
                    continue
                after = judge(put(data, f"{row.at}/gauge", thinnest))
                thin = next(r for r in rows(after.power) if r.key == row.key)
                up_to = f"power/{row.key}/rating" if row.fuse in ("up to the fuse", "short tap, sheathed") else row.fuse_figure
                fuse_a = base.figures[up_to].number if up_to else float("inf")
                stops = [
                    f.place
                    for f in after.findings
                    if f.severity is Severity.STOP and f"{f.place}/".startswith(f"{row.judged_at}/")
                ]
                if fuse_a > thin.ampacity_a:
                    judged += 1
                    self.assertTrue(stops, f"{base.design.name}: {thinnest} to {row.to} behind {row.fuse}")
        self.assertGreater(judged, 14)

    def test_a_first_fuse_that_its_own_cable_does_not_carry_is_mended_either_way(self) -> None:
        data = put(put(demo(TIDE), "/power/network/main-fuse/rating_a", 100), "/power/network/main-fuse/run/gauge", "14 AWG")
        found = next(f for f in judge(data).findings if f.place == "/power/network/main-fuse/run" and "overheat" in f.text)
        self.assertIn("before it overheat", found.text)
        for remedy in found.remedies:
            left = {(f.id, f.place) for f in judge(mended(data, remedy.patch)).findings}
            self.assertNotIn((found.id, found.place), left, remedy.label)

    def test_a_first_fuse_that_is_not_pinned_is_no_larger_than_its_own_pinned_cable_carries(self) -> None:
        thick = judge(demo("hollow-oak")).figures["power/main-fuse/rating"].number
        after = judge(put(demo("hollow-oak"), "/power/network/main-fuse/run/gauge", "0.75 mm²")).figures
        self.assertGreater(thick, after["power/main-fuse/run/ampacity"].number)
        self.assertLessEqual(after["power/main-fuse/rating"].number, after["power/main-fuse/run/ampacity"].number)

    def test_the_cable_up_to_a_first_breaker_survives_what_it_lets_through(self) -> None:
        for gauge, fails in (("18 AWG", True), ("14 AWG", False)):
            data = put(demo(TIDE), "/power/network/main-fuse/family", "din-breaker")
            data = put(data, "/power/network/main-fuse/run/gauge", gauge)
            found = [f for f in judge(data).findings if (f.id, f.place) == ("power.withstand", "/power/network/main-fuse/run")]
            self.assertEqual(bool(found), fails, gauge)
            for remedy in [r for f in found for r in f.remedies]:
                left = judge(mended(data, remedy.patch)).findings
                self.assertNotIn((found[0].id, found[0].place), {(f.id, f.place) for f in left}, remedy.label)

    def test_a_negative_round_the_shunt(self) -> None:
        for key in ("inverter", "sound", "usb", "converter", "fuse-block"):
            found = judge(put(demo(LANE), f"/power/network/{key}/negative", "post")).findings
            self.assertIn(f"/power/network/{key}/negative", {f.place for f in found if f.id == "power.shunt-bypass"})

    def test_building_practice_caps_the_fuse_of_thin_wire(self) -> None:
        data = put(demo(TIDE), "/brief/wire_school", "building")
        data = put(data, "/power/network/pump/run/gauge", "14 AWG")
        data = put(data, "/power/network/pump-fuse/rating_a", 20)
        self.assertIn("power.wire-unprotected", {f.id for f in assess(read_design(data)).findings})
