"""What is added or pasted ready-made: circuits, switches, fuses, the wire table; what each leaves behind is sound."""

from itertools import pairwise
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.assess import assess
from kegcart.core.design import Design, read_design
from kegcart.core.loads.supplies import SUPPLIES, Supply
from kegcart.core.power.drawing.wire_table import header, read_wires, rows, write_wires
from kegcart.core.power.path.cutoffs import BOARD, CELLS, scale
from kegcart.core.power.path.edits import add_outlets, put_fuse_before, put_switch, release_cutoffs, take_out, take_out_whole
from kegcart.core.reference import appliances
from kegcart.core.table import TableError
from tests import tried
from tests.core.samples import DEMO_NAMES, demo, designs, document, judge, mended, put, two_banks, window

ALL: list[Supply] = list(SUPPLIES)


def stops(data: dict[str, Any], station: str = "power") -> set[tuple[str, str]]:
    return {(f.id, f.place) for f in judge(data).findings if f.severity == "stop" and f.station == station}


def parts(data: dict[str, Any]) -> dict[str, str]:
    return {key: node["part"] for key, node in data["power"]["network"].items()}


class Outlets(TestCase):
    def test_on_an_empty_path_each_brings_all_it_needs(self) -> None:
        for supply in ALL:
            with self.subTest(supply):
                bare = document()
                data = mended(bare, add_outlets(judge(bare).power.network, [supply]))
                made = set(parts(data).values())
                self.assertLessEqual({"protection", "switch", "busbar", "outlet"}, made)
                self.assertEqual("inverter" in made, supply == "ac")
                self.assertEqual("converter" in made, supply == "dc_12v")
                self.assertEqual("fuse_block" in made, supply != "ac")
                self.assertIsNotNone(data["power"]["shunt"])
                self.assertEqual(stops(data), set())

    def test_what_is_there_already_is_used_again(self) -> None:
        data = document()
        for _ in range(3):
            data = mended(data, add_outlets(judge(data).power.network, ALL))
        kinds = list(parts(data).values())
        for single in ("busbar", "switch", "inverter", "converter", "fuse_block"):
            self.assertEqual(kinds.count(single), 1, single)
        self.assertEqual(kinds.count("outlet"), 12)
        self.assertEqual(stops(data), set())

    @tried(200)
    @given(st.lists(st.sampled_from(ALL), min_size=1, max_size=8), st.sampled_from(DEMO_NAMES))
    def test_in_any_order_on_any_build_they_bring_no_new_stop(self, wanted: list[Supply], name: str) -> None:
        data = demo(name)
        before = stops(data)
        data = mended(data, add_outlets(judge(data).power.network, wanted))
        self.assertLessEqual(stops(data), before)
        names = [node["name"] for node in data["power"]["network"].values()]
        self.assertEqual(len(names), len(set(names)))
        self.assertTrue(all(SUPPLIES[supply].outlet in names for supply in wanted))

    @tried(100)
    @given(st.lists(st.sampled_from(ALL), min_size=1, max_size=5), st.sampled_from(DEMO_NAMES))
    def test_behind_a_second_bank_it_stands_as_behind_the_pack(self, wanted: list[Supply], name: str) -> None:
        data = demo(name)
        data["power"]["banks"] = {"leisure": {"name": "Leisure bank", "chemistry": "agm", "capacity_ah": 200}}
        before = stops(data)
        data = mended(data, add_outlets(judge(data).power.network, wanted, source="leisure"))
        self.assertLessEqual(stops(data), before)
        network = judge(data).power.network
        added = [key for key in network.order if network.source(key) == "leisure"]
        kinds = [network.nodes[key].part for key in added]
        self.assertEqual((kinds.count("busbar"), kinds.count("switch"), kinds.count("outlet")), (1, 1, len(wanted)))
        self.assertTrue(
            all(network.nodes[key].name.endswith("Leisure bank") or "Leisure bank " in network.nodes[key].name for key in added)
        )

    def test_loads_are_laid_out_on_the_bank_they_name(self) -> None:
        lamp = {"name": "Lamp", "kind": "led", "supply": "dc_12v", "watts": 20, "windows": window(18, 22)}
        items = {"lamp": lamp, "far": {**lamp, "bank": "leisure"}, "tablet": {**lamp, "supply": "usb", "bank": "leisure"}}
        power = {"banks": {"leisure": {"name": "Leisure bank", "chemistry": "lfp", "capacity_ah": 100}}}
        data = document(loads={"items": items}, power=power, pack={"form": "cells", "series": 8})
        found = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
        after = judge(mended(data, found.remedies[0].patch))
        self.assertEqual(after.power.without_outlet, [])
        at = {d.key: key for key, held in after.power.plugged.items() for d in held}
        self.assertEqual(
            {key: after.power.network.source(outlet) for key, outlet in at.items()},
            {"lamp": "pack", "far": "leisure", "tablet": "leisure"},
        )
        # On 12.8 V the lamp goes straight, on 25.6 V through a converter.
        self.assertEqual(
            {key: d.load.supply for key, d in after.loads.demands.items()}, {"lamp": "dc_12v", "far": "pack", "tablet": "usb"}
        )
        self.assertEqual([f.text for f in after.findings if f.severity == "stop"], [])

    def test_every_appliance_of_the_shelf_can_be_fed_on_automatic_choices(self) -> None:
        for key, row in appliances().items():
            with self.subTest(key):
                bare = document()
                data = mended(bare, add_outlets(judge(bare).power.network, [row.supply]))
                load = {"name": row.label, "kind": row.kind, "supply": row.supply, "watts": row.watts, "windows": window(18, 19)}
                data = put(data, "/loads/items/it", load)
                assessment = judge(data)
                self.assertAlmostEqual(assessment.loads.demands["it"].watts.number, row.watts)
                fed = {f.id for f in assessment.findings if f.severity == "stop" and f.place.startswith("/power/network")}
                # what no wire can cure: a load beyond what any one socket of its kind is rated for
                self.assertLessEqual(fed, {"loads.socket-rating", "power.connector", "power.inverter-window"})


class PartsPutIn(TestCase):
    def test_a_fuse_before_a_part_takes_over_its_feed(self) -> None:
        data = demo("lantern-lane")
        network = judge(data).power.network
        dc_side = {key: node for key, node in network.nodes.items() if node.feed != "inverter"}
        self.assertEqual(len(network.nodes) - len(dc_side), 2)  # the outlets on the inverter's face
        for key, node in dc_side.items():
            with self.subTest(key):
                after = mended(data, put_fuse_before(network, key))["power"]["network"]
                (fuse,) = set(after) - set(network.nodes)
                self.assertEqual(after[key]["feed"], fuse)
                self.assertEqual(after[fuse]["feed"], node.feed)
                self.assertEqual(after[fuse]["part"], "protection")

    def test_a_switch_goes_behind_the_first_fuse_and_all_hangs_on_it(self) -> None:
        lamp = {"part": "outlet", "name": "Lamp outlet", "feed": "fuse", "run": {"length_m": 1}}
        fuse = {"part": "protection", "name": "Main fuse", "feed": "pack", "run": {"length_m": 0.1}}
        data = document(power={"network": {"fuse": fuse, "lamp": lamp}})
        after = mended(data, put_switch(judge(data).power.network, "pack"))["power"]["network"]
        self.assertEqual(after["main-switch"]["feed"], "fuse")
        self.assertEqual(after["lamp"]["feed"], "main-switch")

    def test_a_switch_on_a_path_without_a_fuse_stands_at_the_post(self) -> None:
        data = document(power={"network": {"lamp": {"part": "outlet", "name": "Lamp outlet", "feed": "pack"}}})
        after = mended(data, put_switch(judge(data).power.network, "pack"))["power"]["network"]
        self.assertEqual((after["main-switch"]["feed"], after["lamp"]["feed"]), ("pack", "main-switch"))

    def test_any_part_of_any_build_can_be_taken_out_alone_or_with_all_behind_it(self) -> None:
        for name in DEMO_NAMES:
            data = demo(name)
            network, loads = judge(data).power.network, read_design(data).loads.items
            for key, node in network.nodes.items():
                with self.subTest(name, part=key):
                    whole = mended(data, take_out_whole(network, key, loads))["power"]["network"]
                    self.assertEqual(set(whole), set(network.nodes) - {key, *network.below(key)})
                    joined = take_out(network, key, loads)
                    if joined is None:
                        self.assertIn(network.role(key), ("changes", "spreads"))
                        continue
                    after = mended(data, joined)["power"]["network"]
                    self.assertEqual(set(after), set(network.nodes) - {key})
                    self.assertTrue(all(after[child]["feed"] == node.feed for child in network.children[key]))

    def test_what_is_joined_is_as_long_as_both_cables_were(self) -> None:
        data = demo("lantern-lane")
        network = judge(data).power.network
        patch = take_out(network, "main-switch", {})
        assert patch is not None
        after = mended(data, patch)["power"]["network"]
        runs = [network.nodes[key].run.length_m for key in ("main-switch", "busbar")]
        self.assertEqual((after["busbar"]["feed"], after["busbar"]["run"]["length_m"]), ("main-fuse", round(sum(runs), 4)))
        self.assertIsNone(take_out(network, "converter", {}))

    def test_a_bank_goes_with_all_behind_it_and_its_loads_stay(self) -> None:
        data = two_banks()
        data["loads"]["items"]["light"]["bank"] = "house"
        a = judge(data)
        after = judge(mended(data, take_out_whole(a.power.network, "house", a.design.loads.items)))
        self.assertEqual(after.power.banks, {})
        self.assertIsNone(after.loads.demands["light"].load.bank)

    def test_only_pinned_cutoffs_are_given_back(self) -> None:
        data = demo("wobbly-stall")
        nodes = judge(data).power.network.nodes
        patch = release_cutoffs(nodes)
        self.assertEqual([o["path"].split("/")[-1] for o in patch], ["cutoff_v"])
        self.assertEqual(release_cutoffs(judge(mended(data, patch)).power.network.nodes), [])


class WireTable(TestCase):
    def test_every_run_has_a_row_with_both_its_ends(self) -> None:
        for name in DEMO_NAMES:
            power = judge(demo(name)).power
            table = rows(power)
            leads = ["lead:negative"]
            leads += ["lead:meter"] if power.shunt else []
            leads += ["lead:sense"] if power.ctx.pack.build.board else []
            self.assertEqual(
                [r.key for r in table if not r.mirrors], [*(k for k in power.network.order if power.parts[k].run), *leads]
            )
            backs = {r.mirrors: r for r in table if r.mirrors}
            self.assertEqual(
                set(backs), {k for k, p in power.parts.items() if p.run and power.network.role(k) in ("ends", "changes")}
            )
            for row in table:
                if row.key in backs:
                    self.assertGreaterEqual(backs[row.key].length_m, row.length_m)
                    self.assertEqual((backs[row.key].gauge, backs[row.key].colour), (row.gauge, "black"))
            for row in table:
                self.assertTrue(row.start and row.to and row.start_terminal and row.end_terminal, row)
                self.assertGreater(row.ampacity_a, 0)

    def test_what_is_written_reads_back_as_the_same_table(self) -> None:
        for name in DEMO_NAMES:
            with self.subTest(name):
                data = demo(name)
                power = judge(data).power
                text = write_wires(power)
                self.assertEqual(text.splitlines()[0].split(","), header())
                again = judge(mended(data, read_wires(text, power))).power
                for before, after in zip(rows(power), rows(again), strict=True):
                    self.assertEqual((before.to, before.gauge, before.colour), (after.to, after.gauge, after.colour))
                    self.assertAlmostEqual(before.length_m, after.length_m, places=3)
                    self.assertAlmostEqual(before.current_a, after.current_a, delta=0.01 * max(before.current_a, 1))

    def test_usual_colours_read_back_as_not_decided(self) -> None:
        data = demo("lantern-lane")
        outlet = next(
            key for key, node in data["power"]["network"].items() if node["part"] == "outlet" and "inverter" in node["feed"]
        )
        ac = {"op": "add", "path": f"/power/network/{outlet}/run", "value": {"length_m": 2.0}}
        negative = {"op": "add", "path": "/power/negative", "value": {"length_m": 0.4, "colour": "black"}}
        power = judge(mended(data, [ac, negative])).power
        shown = {r.key: r.colour for r in rows(power)}
        self.assertEqual((shown[outlet], shown["lead:negative"], shown["inverter"]), ("3 cores", "black", "red"))
        colours = {o["path"]: o["value"] for o in read_wires(write_wires(power), power) if o["path"].endswith("colour")}
        self.assertEqual(len(colours), len([r for r in rows(power) if not r.mirrors]))
        self.assertEqual(set(colours.values()), {None})

    def test_lengths_in_other_units_and_auto(self) -> None:
        power = judge(demo("lantern-lane")).power
        patch = read_wires("run to;length cm;gauge\nInverter;45;auto\nMain fuse;20;25 mm2\n", power)
        said = {o["path"].removeprefix("/power/network/"): o["value"] for o in patch}
        self.assertAlmostEqual(said["inverter/run/length_m"], 0.45)
        self.assertIsNone(said["inverter/run/gauge"])
        self.assertAlmostEqual(said["main-fuse/run/length_m"], 0.2)
        self.assertEqual(said["main-fuse/run/gauge"], "25 mm²")

    def test_each_bad_cell_is_named_and_nothing_is_taken(self) -> None:
        power = judge(demo("lantern-lane")).power
        text = "run to;length m;gauge;colour\nInverter;0,5;16 mm²;red\nNobody;1;;\nInverter;long;17 mm²;tartan\n"
        with self.assertRaises(TableError) as caught:
            read_wires(text, power)
        self.assertEqual([(p.line, p.column) for p in caught.exception.problems], [(3, 1), (4, 2), (4, 3), (4, 4)])

    def test_a_table_without_what_it_is_about_is_refused(self) -> None:
        power = judge(demo("lantern-lane")).power
        for text in ("length m;gauge\n1;auto\n", "run to\nInverter\n"):
            with self.assertRaises(TableError):
                read_wires(text, power)


class CutOffs(TestCase):
    @tried(150)
    @given(designs())
    def test_the_chain_ends_at_the_cells_and_load_never_lifts_the_voltage(self, design: Design) -> None:
        a = assess(design)
        steps = a.power.cutoffs
        self.assertEqual([s.rank for s in steps], sorted(s.rank for s in steps))
        lead = a.pack.chemistry.kind == "lead"
        self.assertEqual([s.rank for s in steps if s.rank >= BOARD], [CELLS] if lead else [BOARD, CELLS])
        curve = scale(a.power, a.pack, a.site.cold_c.number)
        self.assertEqual(len(curve), 21)
        for low, high in pairwise(curve):
            self.assertLessEqual(low["rested"], high["rested"] + 1e-9)
        for point in curve:
            self.assertLessEqual(point["running"], point["rested"] + 1e-9)
            self.assertLessEqual(point["surge"], point["running"] + 1e-9)
