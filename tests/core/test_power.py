"""The power path: trees of any shape settle, balance and are drawn; one unsafe change is always caught."""

import statistics
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.design import read_design, write_design
from kegcart.core.power.drawing.layout import Conductor, Place, lay_out
from kegcart.core.power.kinds import KINDS
from kegcart.core.power.path.cutoffs import scale
from kegcart.core.power.path.network import Network
from kegcart.core.reference import busbars, constant, families, wires
from kegcart.core.remedies import offered, stands_in_the_way
from tests import PROVING, tried
from tests.core.samples import DEMO_NAMES, demo, document, ids, judge, mains, mended, put, simulated, two_banks, window

SOUND = ("lantern-lane", "hollow-oak", "tidewater")


@st.composite
def trees(draw: st.DrawFn, most: int = 24) -> dict[str, Any]:
    """Any tree of parts that the document allows, with loads on its outlets, and now and then a second bank."""
    count = draw(st.integers(1, most))
    banks = {"b1": {"name": "House bank", "series": 4, "capacity_ah": 80}} if draw(st.integers(0, 4)) == 0 else {}
    kinds: dict[str, str] = {"pack": "pack", **dict.fromkeys(banks, "pack")}
    behind: dict[str, bool] = dict.fromkeys(kinds, False)
    network: dict[str, Any] = {}
    for n in range(count):
        part = draw(
            st.sampled_from(
                [
                    "protection",
                    "switch",
                    "busbar",
                    "fuse_block",
                    "inverter",
                    "converter",
                    "outlet",
                    "outlet",
                    "plug",
                    "input",
                    "protection",
                    "outlet",
                ]
            )
        )
        feeders = [
            k for k, kind in kinds.items() if kind in KINDS[part].facts.fed_by and (not behind[k] or KINDS[part].facts.regulated)
        ]
        if not feeders:
            continue
        feed = draw(st.sampled_from(feeders))
        key = f"p{n}"
        network[key] = {"part": part, "name": f"{part} {n}", "feed": feed, "run": {"length_m": draw(st.floats(0.05, 3))}}
        kinds[key] = part
        behind[key] = behind[feed] or kinds[feed] == "converter"
    loads, sources = {}, {}
    for key, node in network.items():
        if node["part"] == "input" and len(sources) < 12 and draw(st.booleans()):
            sources[key], node["source"] = mains(draw(st.integers(1, 60))), key
        if node["part"] == "outlet":
            ups, here = set(), node["feed"]
            while here in network:
                ups.add(network[here]["part"])
                here = network[here]["feed"]
            supply = "ac" if "inverter" in ups else "dc_12v" if "converter" in ups else "pack"
            loads[key] = {
                "name": f"load {key}",
                "supply": supply,
                "watts": draw(st.floats(1, 60)),
                "outlet": key,
                "windows": window(8, draw(st.integers(9, 20))),
            }
    pack = {"form": "cells", "chemistry": "lfp", "series": draw(st.sampled_from([4, 8, 16]))}
    return document(loads={"items": loads}, pack=pack, power={"network": network, "banks": banks, "shunt": draw(st.sampled_from([None, {}]))}, charging={"sources": sources})  # fmt: skip


def crossing(a: tuple[Any, Any], b: tuple[Any, Any]) -> bool:
    """Whether two straight pieces, upright or level, cross inside both."""
    (ax0, ay0), (ax1, ay1) = a
    (bx0, by0), (bx1, _) = b
    upright_a, upright_b = ax0 == ax1, bx0 == bx1
    if upright_a == upright_b:
        return False
    if not upright_a:
        return crossing(b, a)
    low, high = sorted((ay0, ay1))
    left, right = sorted((bx0, bx1))
    return left + 0.5 < ax0 < right - 0.5 and low + 0.5 < by0 < high - 0.5


class Diagrams(TestCase):
    def check(self, boxes: list[Place], lines: list[Conductor]) -> None:
        drawn = [b for b in boxes if b.part != "negative" or b.what == "symbol"]
        for i, a in enumerate(drawn):
            for b in drawn[i + 1 :]:
                self.assertFalse(a.overlaps(b), f"{a} over {b}")
        straight = [(n, piece) for n in lines if not n.bypass for piece in zip(n.points, n.points[1:], strict=False)]
        for i, (n, a) in enumerate(straight):
            for m, b in straight[i + 1 :]:
                self.assertFalse(crossing(a, b), f"{n} crosses {m}")

    def test_demo_builds_are_drawn_without_overlap_or_crossing(self) -> None:
        for name in DEMO_NAMES:
            drawn = lay_out(judge(demo(name)).power.network, True)
            self.check(drawn.places, drawn.conductors)

    @tried(500)
    @given(trees(most=40))
    def test_any_tree_is_drawn_without_overlap_or_crossing(self, data: dict[str, Any]) -> None:
        network = Network.of(read_design(data).power)
        for folded in (None, frozenset()):
            drawn = lay_out(network, True, folded)
            self.check(drawn.places, drawn.conductors)
            self.assertEqual(drawn, lay_out(network, True, folded))
        shown = {b.key for b in lay_out(network, True, frozenset()).places if b.what == "symbol"}
        self.assertLessEqual(set(network.nodes), shown)

    def test_large_blocks_fold_and_say_how_many_they_hide(self) -> None:
        network: dict[str, Any] = {
            "m": {"part": "protection", "name": "M", "feed": "pack"},
            "b": {"part": "fuse_block", "name": "B", "feed": "m"},
        }
        for n in range(14):
            network[f"f{n}"] = {"part": "protection", "name": f"F{n}", "feed": "b"}
            network[f"o{n}"] = {"part": "outlet", "name": f"O{n}", "feed": f"f{n}"}
        drawn = lay_out(Network.of(read_design(document(power={"network": network})).power), False)
        self.assertEqual(next(b for b in drawn.places if b.key == "b" and b.what == "symbol").folded, 28)
        self.assertLess(drawn.width, 600)


class Trees(TestCase):
    @tried(200)
    @given(trees(most=60))
    def test_any_tree_settles_the_same_way_and_its_currents_balance(self, data: dict[str, Any]) -> None:
        first, second = judge(data), judge(data)
        for path, figure in first.figures.items():
            self.assertEqual(figure.value, second.figures[path].value, path)
        network, parts = first.power.network, first.power.parts
        for key in network.order:
            children = network.children[key]
            if children and network.nodes[key].part not in ("inverter", "converter"):
                for step in range(first.loads.day.steps):
                    inside = sum(parts[c].flow.running[step] for c in children)
                    self.assertAlmostEqual(parts[key].flow.running[step], inside, delta=1e-6)

    @tried(150)
    @given(trees(most=40))
    def test_fault_current_falls_with_distance(self, data: dict[str, Any]) -> None:
        power = judge(data).power
        for key, part in power.parts.items():
            feeder = power.parts.get(power.network.nodes[key].feed)
            if feeder and feeder.fault and part.fault:
                self.assertLessEqual(part.fault.number, feeder.fault.number + 1e-6)

    def test_schools_and_gauge_systems_resize_auto_choices_and_nothing_else(self) -> None:
        for name in SOUND:
            before = judge(demo(name))
            pinned = next(k for k, p in before.power.parts.items() if p.run and p.node.part != "outlet")
            gauge = before.power.parts[pinned].run.gauge.value  # type: ignore[union-attr]
            fixed = put(demo(name), f"/power/network/{pinned}/run/gauge", gauge)
            for pointer, value in (("/brief/wire_school", "building"), ("/brief/gauge_system", "awg")):
                after = judge(put(fixed, pointer, value))
                self.assertEqual(after.power.parts[pinned].run.gauge.value, gauge)  # type: ignore[union-attr]
                self.assertEqual(write_design(after.design), put(fixed, pointer, value))
                for path in ("loads/energy_day", "pack/usable", "power/current"):
                    self.assertAlmostEqual(before.figures[path].number, after.figures[path].number)
                if value == "awg":
                    sizes = {
                        p.run.gauge.value for k, p in after.power.parts.items() if p.run and k != pinned and not p.node.run.gauge
                    }
                    self.assertTrue(all("AWG" in str(s) for s in sizes), f"{name}: {sizes}")

    def test_cables_side_by_side_share_the_current(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/run/gauge", "16 mm²")
        one = judge(data).power.parts["inverter"].run
        two = judge(put(data, "/power/network/inverter/run/parallel", 2)).power.parts["inverter"].run
        assert one and two
        self.assertAlmostEqual(two.ampacity.number, 2 * one.ampacity.number)
        self.assertLess(two.drop.number, 0.6 * one.drop.number)

    def test_a_cooler_terminal_limits_a_hotter_wire(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/run/gauge", "25 mm²")
        full = judge(data).power.parts["inverter"].run
        limited = judge(put(data, "/power/network/inverter/run/terminal_c", 75)).power.parts["inverter"].run
        assert full and limited
        self.assertLess(limited.ampacity.number, full.ampacity.number)


class Supplies(TestCase):
    def test_what_stands_behind_a_converter_gives_its_voltage_however_many_fuses_lie_between(self) -> None:
        network = {
            "main": {"part": "protection", "name": "Main fuse", "feed": "pack"},
            "down": {"part": "converter", "name": "Converter", "feed": "main"},
            "block": {"part": "fuse_block", "name": "Fuse block", "feed": "down"},
            "fuse": {"part": "protection", "name": "Fuse", "feed": "block"},
            "socket": {"part": "outlet", "name": "Socket", "feed": "fuse"},
        }
        lamp = {"name": "Lamp", "supply": "dc_12v", "watts": 24, "windows": window(9, 10)}
        pack = {"form": "cells", "chemistry": "lfp", "series": 8, "cell": {"capacity_ah": 50}}
        power = judge(document(loads={"items": {"lamp": lamp}}, pack=pack, power={"network": network})).power
        stands_on = {key: power.network.stands_on[key] for key in network}
        behind = dict.fromkeys(("block", "fuse", "socket"), "dc_12v")
        self.assertEqual(stands_on, {"main": "pack", "down": "pack"} | behind)
        self.assertEqual(power.network.supply("socket"), "dc_12v")
        self.assertEqual([d.key for d in power.plugged["socket"]], ["lamp"])
        self.assertAlmostEqual(power.parts["fuse"].current.number, 24 / 12)
        self.assertAlmostEqual(power.parts["down"].current.number, (24 / 0.92 + constant("converter_idle")) / (8 * 2.8))


class Sources(TestCase):
    def test_each_bank_is_asked_for_what_hangs_on_it(self) -> None:
        power = judge(two_banks()).power
        self.assertAlmostEqual(power.current.number, 400 / (4 * 2.8), delta=0.5)
        self.assertAlmostEqual(power.banks["house"].asked.number, 150, delta=15)

    def test_the_other_way_of_a_selector_carries_its_branch_too(self) -> None:
        power = judge(two_banks()).power
        self.assertAlmostEqual(power.parts["house-fuse"].design.number, 400 / (4 * 2.8))
        self.assertGreaterEqual(power.parts["house-fuse"].rating.number, power.parts["house-fuse"].design.number)  # type: ignore[union-attr]

    def test_a_charging_input_sizes_its_way_in(self) -> None:
        power = judge(two_banks()).power
        self.assertEqual(power.parts["solar"].design.number, 15)
        self.assertGreaterEqual(power.parts["solar-fuse"].rating.number, 1.25 * 15)  # type: ignore[union-attr]

    def test_a_bank_too_small_is_said_at_the_bank(self) -> None:
        found = judge(put(put(two_banks(), "/power/banks/house/continuous_a", 10), "/power/banks/house/capacity_ah", 5)).findings
        places = {f.id: f.place for f in found if f.place.startswith("/power/banks/")}
        self.assertEqual(
            places, dict.fromkeys(("pack.current", "loads.energy-short", "power.switch-reach"), "/power/banks/house")
        )

    def test_loads_of_a_bank_do_not_drain_the_pack(self) -> None:
        both, alone = judge(two_banks()), judge(put(two_banks(), "/loads/items/light/windows", {}))
        for path in ("power/drawn_day", "power/drawn_away", "power/current", "power/energy_share"):
            self.assertAlmostEqual(both.figures[path].number, alone.figures[path].number, msg=path)
        winch_wh = 400 * 0.5 + 800 * both.loads.demands["winch"].surge_s / 3600
        self.assertAlmostEqual(simulated(both, 1).delivered_wh, winch_wh + both.figures["loads/light/energy"].number, delta=0.01)
        ways = [
            both.figures[f"power/way/{name}"].number
            for name in ("wiring", "inverter", "idle", "converters", "standing", "reaches")
        ]
        self.assertAlmostEqual(sum(ways), both.power.available.number)

    def test_an_inverter_on_a_bank_is_judged_by_its_bank(self) -> None:
        data = two_banks()
        data["power"]["network"] |= {
            "inverter": {"part": "inverter", "name": "Kettle inverter", "feed": "house-fuse", "rating_w": 600},
            "socket": {"part": "outlet", "name": "Kettle", "feed": "inverter"},
        }
        kettle = {"name": "Kettle", "kind": "heater", "supply": "ac", "watts": 450, "outlet": "socket", "windows": window(7, 7.5)}
        data["loads"]["items"]["kettle"] = kettle
        rated_a = 600 / 0.88 / (4 * 2.8)
        for amps, speaks in ((rated_a + 1, False), (rated_a - 1, True)):
            found = judge(put(data, "/power/banks/house/continuous_a", amps)).findings
            self.assertEqual("pack.high-current-small" in {f.id for f in found}, speaks, f"a bank of {amps:.0f} A")
        short = next(
            f for f in judge(put(data, "/power/banks/house/continuous_a", 40)).findings if f.id == "pack.high-current-small"
        )
        self.assertIn("House bank gives 40 A", short.text)
        cured = mended(put(data, "/power/banks/house/continuous_a", 40), short.remedies[-1].patch)
        self.assertNotIn("pack.high-current-small", ids(cured))
        self.assertEqual(list(judge(data).power.pack_inverters()), [])
        self.assertNotIn("power.inverter-window", ids(data))
        self.assertIn("power.inverter-window", ids(put(data, "/power/banks/house/series", 6)))

    def test_sources_that_can_meet_are_a_stop(self) -> None:
        self.assertIn("power.two-sources", ids(put(two_banks(), "/power/network/choice/interlocked", False)))
        self.assertNotIn("power.two-sources", ids(two_banks()))

    def test_a_polarised_breaker_with_current_both_ways(self) -> None:
        data = put(two_banks(), "/power/network/house-fuse/polarised", True)
        self.assertIn("power.breaker-dc", ids(data))
        self.assertNotIn("power.breaker-dc", ids(put(two_banks(), "/power/network/main-fuse/polarised", True)))

    def test_circles_through_a_selector_are_refused(self) -> None:
        from kegcart.core.design import DesignError

        with self.assertRaises(DesignError):
            read_design(put(two_banks(), "/power/network/choice/other", "winch-plug"))


class Standby(TestCase):
    def test_the_chain_stands_in_order_in_sound_builds(self) -> None:
        for name in SOUND:
            a = judge(demo(name))
            volts = [s.volts.number for s in a.power.cutoffs]
            self.assertEqual(volts, sorted(volts, reverse=True))

    def test_a_load_that_cuts_off_after_the_inverter_is_said(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/converter/cutoff_v", 21)
        self.assertIn("power.cutoff-order", ids(data))
        self.assertNotIn("power.cutoff-order", ids(put(data, "/power/network/converter/cutoff_v", 24.5)))

    def test_loaded_voltage_lies_under_the_rested_one(self) -> None:
        a = judge(demo("lantern-lane"))
        for point in scale(a.power, a.pack, 8):
            self.assertGreaterEqual(point["rested"], point["running"])
            self.assertGreaterEqual(point["running"], point["surge"])

    def test_the_main_switch_lengthens_the_time_on_the_shelf(self) -> None:
        a = judge(demo("lantern-lane"))
        self.assertGreater(a.figures["power/shelf_off"].number, 2 * a.figures["power/shelf_on"].number)
        drains = sum(i.watts.number for i in a.power.idle)
        self.assertLess(drains, a.figures["power/shelf_on_watts"].number)


def mutations(name: str) -> list[tuple[str, list[tuple[str, Any]], str, str]]:
    """(what, changes, the finding that must speak, where it must speak) for one sound build."""
    base = judge(demo(name))
    power, network = base.power, base.power.network
    out: list[tuple[str, list[tuple[str, Any]], str, str]] = []
    for key, part in power.parts.items():
        at, node = f"/power/network/{key}", part.node
        if node.part == "protection" and part.rating and part.family:
            family = next(f for f in families().values() if f.label == part.family.value)
            guarded = [c for c in network.segment(key) if power.parts[c].run]
            for child in guarded:
                run = power.parts[child].run
                assert run is not None
                above = next((r for r in family.ratings_a if r > run.ampacity.number), None)
                if above:
                    fixed = [(f"/power/network/{c}/run/gauge", power.parts[c].run.gauge.value) for c in guarded]  # type: ignore[union-attr]
                    out.append((f"{key} one size beyond {child}", [*fixed, (f"{at}/rating_a", above)], "power.wire-unprotected", f"/power/network/{child}/run"))  # fmt: skip
            if part.fault and part.fault.number > 1000 and part.source.v_max.number <= 32:
                out.append((f"{key} of a weak family", [(f"{at}/family", "blade"), (f"{at}/rating_a", 30)], "power.fuse-interrupt", f"{at}/family"))  # fmt: skip
            out.append((f"{key} an AC breaker", [(f"{at}/family", "ac-only")], "power.breaker-dc", f"{at}/family"))
            if part.guard is None:
                out.append((f"{key} moved 2 m away", [(f"{at}/run/length_m", 2)], "power.fuse-place", f"{at}/run/length_m"))
        opens = key if network.guards_its_own(key) else part.guard
        if part.run and opens and power.parts[opens].rating:
            rating = power.parts[opens].rating.number  # type: ignore[union-attr]
            sold = sorted((w for w in wires().values() if w.system == part.run.wire.system), key=lambda w: w.area_mm2)
            index = sold.index(part.run.wire)
            for thin in range(max(0, index - 2), index):
                data = put(demo(name), f"{at}/run/gauge", sold[thin].key)
                data = put(data, f"/power/network/{opens}/rating_a", rating)
                able = judge(data).power.parts[key].run
                if able and able.ampacity.number < rating:
                    changes = [(f"{at}/run/gauge", sold[thin].key), (f"/power/network/{opens}/rating_a", rating)]
                    out.append((f"{key} thinner", changes, "power.wire-unprotected", f"{at}/run"))
        regulated = node.part == "outlet" and network.supply(key) in ("ac", "dc_12v")
        if power.shunt and node.part in ("inverter", "fuse_block", "converter", "outlet") and not regulated:
            out.append((f"{key} round the shunt", [(f"{at}/negative", "post")], "power.shunt-bypass", f"{at}/negative"))
        if node.part == "switch" and part.rating:
            out.append(
                (f"{key} halved", [(f"{at}/rating_a", max(1, part.design.number / 2))], "power.switch-rating", f"{at}/rating_a")
            )
            out.append((f"{key} without DC rating", [(f"{at}/dc_rated", False)], "power.switch-rating", f"{at}/dc_rated"))
            out.append((f"{key} inside the box", [(f"{at}/reach", "inside")], "power.switch-reach", f"{at}/reach"))
        if node.part == "busbar" and part.guard:
            rating = power.parts[part.guard].rating.number  # type: ignore[union-attr]
            half = [b for b in busbars().values() if b.ampacity_a * 0.8 < rating]
            if half:
                smaller = max(half, key=lambda b: b.ampacity_a)
                changes = [(f"{at}/section", smaller.key), (f"/power/network/{part.guard}/rating_a", rating)]
                out.append((f"{key} halved", changes, "power.busbar", f"{at}/section"))
        if node.part == "outlet" and part.guard and network.supply(key) in ("pack", "dc_12v"):
            guard = power.parts[part.guard]
            if guard.node.part == "protection":
                changes = [
                    (f"{at}/connector", "accessory" if network.supply(key) == "dc_12v" else "bullet-30"),
                    (f"/power/network/{part.guard}/rating_a", 40),
                ]
                out.append((f"{key} below its fuse", changes, "power.connector", f"{at}/connector"))
            out.append((f"{key} with bare pins", [(f"{at}/pins", "exposed")], "power.live-pins", f"{at}/pins"))
        if node.part == "inverter":
            out.append((f"{key} cuts off below the board", [(f"{at}/cutoff_v", base.pack.cutoff.number - 1)], "power.cutoff-order", f"{at}/cutoff_v"))  # fmt: skip
            out.append(
                (f"{key} against the mains", [(f"{at}/transfer", "not interlocked")], "power.two-sources", f"{at}/transfer")
            )
    if power.shunt:
        out.append(("shunt too small", [("/power/shunt/rating_a", max(0.2, power.current.number / 2))], "power.shunt-rating", "/power/shunt/rating_a"))  # fmt: skip
    return out


class Mutations(TestCase):
    takes_long = True

    def test_every_single_unsafe_change_is_caught_at_its_place(self) -> None:
        caught = 0
        for name in SOUND:
            for what, changes, finding, place in mutations(name):
                data = demo(name)
                for pointer, value in changes:
                    data = put(data, pointer, value)
                found = {(f.id, f.place) for f in judge(data).findings}
                self.assertIn((finding, place), found, f"{name}: {what}")
                caught += 1
        self.assertGreater(caught, 100)

    def test_no_remedy_brings_a_new_stop(self) -> None:
        """A remedy may leave others standing; it never creates one that was not there."""
        new: list[str] = []
        spoiled: list[tuple[str, str, list[tuple[str, Any]]]] = [("wobbly-stall", "as it is", [])]
        spoiled += [(name, what, changes) for name in SOUND for what, changes, *_ in mutations(name)[:: 1 if PROVING else 20]]
        for name, what, changes in spoiled:
            data = demo(name)
            for pointer, value in changes:
                data = put(data, pointer, value)
            before = judge(data)
            was = {(f.id, f.place) for f in before.findings if f.severity == "stop"}
            for found in before.findings:
                for remedy in offered(before, found):
                    after = judge(mended(write_design(before.design), remedy.patch))
                    stops = {(f.id, f.place) for f in after.findings if stands_in_the_way(f, found)} - was
                    if stops:
                        new.append(f"{name}, {what}: {found.id} “{remedy.label}” brings {stops}")
        self.assertEqual(new, [])


class Speed(TestCase):
    def test_the_largest_trees_are_read_and_sized(self) -> None:
        """Sixty parts are no special case; how fast is measured elsewhere."""
        network: dict[str, Any] = {
            "m": {"part": "protection", "name": "M", "feed": "pack"},
            "b": {"part": "busbar", "name": "B", "feed": "m"},
        }
        for n in range(29):
            network[f"f{n}"] = {"part": "protection", "name": f"F{n}", "feed": "b"}
            network[f"o{n}"] = {"part": "outlet", "name": f"O{n}", "feed": f"f{n}"}
        loads = {f"l{n}": {"name": f"L{n}", "supply": "pack", "watts": 20, "windows": window(8, 9 + n % 8)} for n in range(29)}
        power = judge(document(loads={"items": loads}, power={"network": network})).power
        ratings = [p.rating.number for p in power.parts.values() if p.rating and p.node.part == "protection"]
        self.assertEqual(len(ratings), 30)
        self.assertGreater(max(ratings), 20 * statistics.median(ratings) / 10)
