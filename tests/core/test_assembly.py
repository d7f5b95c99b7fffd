"""The assembly: what is cut and bought is right to the millimetre and the cent, nothing of the design is left out, and the order holds."""

import csv
import io
import json
from itertools import pairwise
from random import Random
from typing import Any
from unittest import TestCase

from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from kegcart.core.assembly.cutting import Piece, cut_length, labels_of
from kegcart.core.assembly.drawing import draw_step
from kegcart.core.assembly.lines import slug
from kegcart.core.assembly.parts_list import precharge_energy
from kegcart.core.assembly.plan.acts import Act, BuildPlan
from kegcart.core.assembly.shopping import cut_from
from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.assembly.tables import read_shopping, write_cuts, write_labels, write_shopping
from kegcart.core.assess import Assessment, assess
from kegcart.core.box.template import holes_in
from kegcart.core.building import build_of, judge_build
from kegcart.core.design import Design, read_design
from kegcart.core.figure import Figure, Sheet
from kegcart.core.forecast import forecast
from kegcart.core.pack.document import CellPack
from kegcart.core.power.drawing.wire_table import rows
from kegcart.core.power.kinds import Outlet, Protection
from kegcart.core.table import TableError
from kegcart.core.units import shown_in
from tests import tried
from tests.core.boxed import boxed
from tests.core.order_judge import wrong_in
from tests.core.samples import DEMO_NAMES, demo, designs, document, judge, mended, put, two_banks

LANE, OAK, TIDE, STALL = "lantern-lane", "hollow-oak", "tidewater", "wobbly-stall"


def built(data: dict[str, Any]) -> tuple[Assessment, AssemblySizing]:
    found = judge(data)
    return found, build_of(found)


def metres(value: float) -> Figure:
    return Figure.of("L", value, "m")


class WorkedExamples(TestCase):
    """Engineering reference, second part, § 3."""

    def test_cut_lengths_of_the_lane(self) -> None:
        for route, cut in ((0.12, 0.22), (0.30, 0.41), (0.25, 0.36), (0.50, 0.62)):
            figure = cut_length(metres(route))
            self.assertAlmostEqual(figure.number, cut, 9)
            self.assertAlmostEqual((figure.inputs or {})["L_exact"].number, 1.05 * route + 0.04 + 0.05, 9)
        with shown_in("us"):
            self.assertAlmostEqual(cut_length(metres(0.5)).number / 0.0127, 49, 9)  # 0.615 m: 48.4 half inches

    def test_two_metres_of_each_colour_are_bought(self) -> None:
        (roll,) = cut_from([0.22, 0.41, 0.36, 0.62], [1], 0.0, 0.1)
        self.assertEqual((roll.length, roll.used, roll.left), (2.0, 1.61, 0.39))

    def test_the_pre_charge_resistor(self) -> None:
        found = precharge_energy(Figure.of("R_pre", 29.2, "ohm"), Figure.of("V_max", 58.4, "V"))
        for name, value in (("first", 2.00), ("power", 117), ("energy", 20.5), ("wait", 1.75), ("rating", 25)):
            self.assertAlmostEqual(found[name].number, value, delta=value * 0.005, msg=name)

    def test_a_joint_is_two_millivolts_at_twenty_amperes(self) -> None:
        """And the copper between both is added: 0.41 m of 25 mm² cold."""
        _, build = built(demo(LANE))
        act = build.plan.acts["wire:main-switch"]
        most = act.measures[0].most
        assert most is not None
        self.assertAlmostEqual(most.number, 2 * 2 + 20 * 0.017241 * 0.41 / 25 * 1000, 6)

    def test_insulation_is_a_megohm(self) -> None:
        _, build = built(demo(LANE))
        least = build.plan.acts["dead:insulation"].measures[0].least
        assert least is not None
        self.assertEqual((least.number, least.unit), (1.0, "MΩ"))
        self.assertNotIn("dead:insulation", build_of(judge(demo(TIDE))).plan.acts)


class Complete(TestCase):
    """A lug forgotten is an evening lost: a walk over the design finds everything of it on exactly one line."""

    def expected(self, found: Assessment, pieces: list[Piece]) -> set[str]:
        """Everything that a design is made of, counted without the lists."""
        power, pack = found.power, found.pack.pack
        out = {"body:pack"} | {f"body:bank:{key}" for key in found.design.power.banks}
        if isinstance(pack, CellPack):
            out |= {"body:board"} | (
                {f"fuse:sense:{n}" for n in range(int(found.pack.series.number) + 1)} if pack.board.sense_fused else set()
            )
        elif found.pack.build.strings and len(found.pack.build.strings.leads) > 1:
            names = [f"s{n}" for n in range(1, len(found.pack.build.strings.leads) + 1)]
            strings = found.design.pack.strings if hasattr(found.design.pack, "strings") else {}
            out |= {f"fuse:string:{name[1:]}" for name in names if name not in strings or strings[name].protected}
        if found.design.power.shunt is not None:
            out |= {"body:shunt"} | ({"fuse:lead:meter"} if found.design.power.shunt.lead_fused else set())
        if found.box is not None:
            out |= {f"body:{thing.key}" for thing in found.box.layout.things}
            out |= {f"body:fixture:{key}" for key in found.design.box.fixtures}
            out |= {f"body:fitting:{key}" for key in found.design.box.fittings}
            out |= {f"hole:{n}" for n, _ in enumerate(holes_in(found.box.layout))}
        for key, node in power.network.nodes.items():
            if isinstance(node, Protection) or (
                isinstance(node, Outlet) and "breaker" in power.parts[key].extra and "ac_gauge" in power.parts[key].extra
            ):
                out.add(f"fuse:{key}")
        out |= {
            f"fuse:source:{key}"
            for key, sizing in found.charging.sources.items()
            if "fuse" in sizing.extra and "family" in sizing.extra
        }
        for piece in pieces:
            out.add(f"run:{piece.key}")
            for side, end in enumerate(piece.ends):
                out |= {f"end:{piece.key}:{side}:{n}" for n in range(piece.count)}
                out |= {f"stud:{piece.key}:{side}:{n}" for n in range(piece.count) if end.hole}
        return out

    def check(self, data: dict[str, Any], name: str) -> None:
        found, build = built(data)
        items = [item for line in build.shopping.lines for item in line.items]
        self.assertEqual(len(items), len(set(items)), f"{name}: something stands on two lines")
        expected = self.expected(found, build.pieces)
        self.assertEqual(expected - set(items), set(), name)
        self.assertEqual({item for item in items if not item.startswith("body:")} - expected, set(), name)
        runs = {row.key for row in rows(found.power) if row.length_m > 0}
        self.assertEqual(runs, {piece.run for piece in build.pieces if not piece.key.startswith("source:")}, name)

    def test_every_run_end_stud_hole_fuse_and_body_is_on_one_line(self) -> None:
        for name in DEMO_NAMES:
            self.check(demo(name), name)
        self.check(two_banks(), "two banks")
        self.check(
            put(demo(TIDE), "/pack", {"form": "batteries", "battery": {"series": 4, "capacity_ah": 60}, "parallel": 3}),
            "three strings",
        )
        self.check(put(demo(LANE), "/power/network/ac-2/run/length_m", 2), "an AC cable")

    def test_what_a_run_is_made_of(self) -> None:
        """Both poles; the main negative by board and shunt; as many sense leads as cells and one."""
        _, build = built(demo(LANE))
        pieces = {piece.key: piece for piece in build.pieces}
        self.assertEqual(pieces["lead:sense"].count, 9)
        ways = [[end.at for end in pieces[f"lead:negative:{n}"].ends] for n in (1, 2, 3)]
        self.assertEqual(ways, [["/pack", "/pack/board"], ["/pack/board", "/power/shunt"], ["/power/shunt", "/power/negative"]])
        whole = sum(pieces[f"lead:negative:{n}"].route.number for n in (1, 2, 3))
        self.assertAlmostEqual(whole, build_row(judge(demo(LANE)), "lead:negative"), 9)
        self.assertEqual({pieces[key].colour for key in ("inverter", "inverter:return")}, {"red", "black"})
        cable = next(p for p in built(put(demo(LANE), "/power/network/ac-2/run/length_m", 2))[1].pieces if p.key == "ac-2")
        self.assertEqual((cable.cores, cable.pole), (3, "mains"))

    def test_ends_fit_what_they_go_on(self) -> None:
        _, build = built(demo(LANE))
        ends = {(piece.key, n): end for piece in build.pieces for n, end in enumerate(piece.ends)}
        self.assertEqual((ends["main-switch", 1].hole, ends["main-switch", 1].terminal.kind), ("M8", "lug"))
        self.assertEqual(ends["usb", 1].terminal.kind, "push-on")
        self.assertEqual(ends["sound", 1].terminal.kind, "contact")
        self.assertEqual(ends["sound:return", 0].hole, "M5")
        self.assertEqual(ends["main-switch", 0].label, "F1+ / S1")
        oak = {(piece.key, n): end for piece in built(demo(OAK))[1].pieces for n, end in enumerate(piece.ends)}
        self.assertEqual(oak["lead:sense", 0].terminal.kind, "solder")

    def test_spares_covers_and_what_nobody_plans(self) -> None:
        lines = {line.key: line for line in built(demo(LANE))[1].shopping.lines}
        for key in (
            "spare:class-t:150",
            "post-covers",
            "link-covers",
            "precharge:inverter",
            "labels",
            "seal",
            "sleeve:25-mm2",
            "nut:m8",
            "rcd:inverter",
        ):
            self.assertIn(key, lines)
        self.assertEqual(lines["labels"].count, sum(2 * piece.count for piece in built(demo(LANE))[1].pieces))


def build_row(found: Assessment, key: str) -> float:
    return next(row.length_m for row in rows(found.power) if row.key == key)


lengths = st.lists(st.integers(5, 900).map(lambda cm: cm / 100), min_size=1, max_size=30)


class Shopping(TestCase):
    @tried(300)
    @given(
        lengths,
        st.sampled_from([[1.0], [0.3048], [5.0, 10.0, 25.0], [7.62, 15.24, 30.48]]),
        st.integers(0, 2000),
        st.sampled_from([0, 0.1, 0.5]),
    )
    def test_every_piece_is_cut_from_a_length_that_has_it(
        self, cuts: list[float], sold: list[float], owned_cm: int, spare: float
    ) -> None:
        owned = owned_cm / 100
        rolls = cut_from(cuts, sold, owned, spare)
        self.assertEqual(sorted(cut for roll in rolls for cut in roll.cuts), sorted(cuts))
        for roll in rolls:
            self.assertGreaterEqual(roll.left, -1e-9)
            self.assertAlmostEqual(roll.left, roll.length - sum(roll.cuts), 6)
            if not roll.owned:
                steps = [roll.length / length for length in sold]
                self.assertTrue(any(abs(n - round(n)) < 1e-6 for n in steps), roll.length)
        bought = [roll for roll in rolls if not roll.owned]
        if bought:
            self.assertGreaterEqual(sum(roll.length for roll in rolls) + 1e-6, sum(cuts) * (1 + spare))
        # First fit: what is cut from a later length had no room in an earlier one of the longest sold.
        for one, two in pairwise(r for r in bought if r.cuts):
            if len(sold) > 1 and min(two.cuts) <= sold[-1]:
                self.assertGreater(one.used + max(two.cuts), sold[-1] - 1e-9)

    def test_sums_are_exact_to_the_cent(self) -> None:
        for name in DEMO_NAMES:
            _, build = built(demo(name))
            cents = sum(round(line.cost.number * 100) for line in build.shopping.lines if line.cost is not None)
            self.assertEqual(round(build.shopping.total.number * 100), cents, name)
            missing = [line for line in build.shopping.lines if line.cost is None and not line.comes_with and line.buy.number > 0]
            self.assertEqual(build.shopping.without_price.number, len(missing))

    def test_what_is_there_is_taken_off_and_packets_are_whole(self) -> None:
        plain = put(
            demo(LANE),
            "/assembly",
            {"owned": {"cells": 3, "lug:25-mm2:m8": 10, "wire:25-mm2:red": 0.7}, "prices": {"cells": 91.5}},
        )
        lines = {line.key: line for line in built(plain)[1].shopping.lines}
        self.assertEqual((lines["cells"].buy.number, lines["cells"].cost.number), (5, 457.5))  # type: ignore[union-attr]
        self.assertEqual((lines["lug:25-mm2:m8"].need.number, lines["lug:25-mm2:m8"].buy.number), (17, 10))
        self.assertEqual(lines["wire:25-mm2:red"].buy.number, 2)
        self.assertEqual(lines["contact:1-mm2"].cost, None)
        more = put(plain, "/assembly/owned/lug:25-mm2:m8", 17)
        self.assertEqual({line.key: line for line in built(more)[1].shopping.lines}["lug:25-mm2:m8"].buy.number, 0)

    def test_after_how_many_uses_it_pays(self) -> None:
        data = put(demo(TIDE), "/assembly", {"prices": {}, "alternatives": {"hire_day": 40, "use_days": 2, "energy_price": 0.3}})
        found, build = built(data)
        saved = 80 - 0.3 * found.power.available.number / 1000
        self.assertEqual(build.shopping.compared["hire_uses"].number, -(-build.shopping.total.number // saved))
        for other, said in (({"fuel_price": 0}, "never"), ({"fuel_price": 2, "generator": 100_000}, 0)):
            compared = built(put(data, "/assembly/alternatives", other))[1].shopping.compared
            self.assertEqual(compared["fuel_uses"].value, said)
        kwh = built(put(data, "/assembly/alternatives", {"ready_made": 600, "ready_made_wh": 500}))[1].shopping.compared
        self.assertAlmostEqual(kwh["ready_made_kwh"].number, 1200)

    def test_the_list_comes_back_as_it_went_out(self) -> None:
        for name in DEMO_NAMES:
            _, build = built(demo(name))
            text = write_shopping(build.shopping)
            self.assertEqual(read_shopping(text, build.shopping), [], name)
            cells = list(csv.DictReader(io.StringIO(text)))
            self.assertEqual([row["key"] for row in cells], [line.key for line in build.shopping.lines])
            cuts = list(csv.DictReader(io.StringIO(write_cuts(build.pieces))))
            self.assertEqual([float(row["cut m"]) for row in cuts], [round(piece.cut.number, 4) for piece in build.pieces])
            labels = list(csv.DictReader(io.StringIO(write_labels(build.pieces))))
            self.assertEqual(len(labels), sum(2 * piece.count for piece in build.pieces))

    def test_what_was_filled_in_elsewhere_is_taken_in(self) -> None:
        data = demo(STALL)
        _, build = built(data)
        patch = read_shopping("key;there already;price of one\ncells;4;\nlinks;;2,50\n", build.shopping)
        after = mended(data, patch)
        self.assertEqual((after["assembly"]["owned"], after["assembly"]["prices"]), ({"cells": 4}, {"links": 2.5}))
        for text, line, column in (
            ("key;price of one\ncells;ten\n", 2, 2),
            ("key;price of one\nnails;1\n", 2, 1),
            ("what;price of one\ncells;1\n", 1, 1),
            ("key;there already\ncells;-1\n", 2, 2),
        ):
            with self.assertRaises(TableError, msg=text) as caught:
                read_shopping(text, build.shopping)
            self.assertEqual([(p.line, p.column) for p in caught.exception.problems], [(line, column)], text)


class Order(TestCase):
    def test_the_order_of_the_demo_builds_holds_and_is_the_same_every_time(self) -> None:
        for name in DEMO_NAMES:
            for data in (
                demo(name),
                put(demo(name), "/assembly/pole_first", "positive"),
                put(demo(name), "/box/case/opens", "front"),
            ):
                found, build = built(data)
                self.assertEqual(wrong_in(found, build), [], name)
                again = build_of(found)
                self.assertEqual([step.act.key for step in build.steps], [step.act.key for step in again.steps])
        self.assertEqual(wrong_in(*built(two_banks())), [])

    @tried(200, suppress_health_check=[HealthCheck.too_slow])
    @given(designs(), st.integers(0, 10**6))
    def test_the_order_of_any_design_holds(self, design: Design, seed: int) -> None:
        chance = Random(seed)
        found = assess(boxed(design, chance) if chance.random() < 0.7 else design)
        build = build_of(found)
        if not build.plan.circles:
            self.assertEqual(wrong_in(found, build), [])

    def test_the_order_holds_wherever_parts_stand(self) -> None:
        for seed in range(20):
            found, build = built(shaken(Random(seed)))
            if not build.plan.circles:
                self.assertEqual(wrong_in(found, build), [], seed)

    def test_one_school_at_the_posts(self) -> None:
        for first, second in (("positive", "negative"), ("negative", "positive")):
            at = numbers(built(put(demo(LANE), "/assembly/pole_first", first))[1])
            self.assertLess(at[f"post:pack:{first}"], at[f"post:pack:{second}"])

    def test_a_pack_under_a_shelf_gets_its_cables_first(self) -> None:
        """Their far ends are live and capped until what they go on stands: that is said."""
        shelf = {"name": "Shelf", "x_mm": 0, "y_mm": 0, "z_mm": 250, "width_mm": 640, "depth_mm": 440, "height_mm": 9}
        data = put(demo(LANE), "/box/fixtures/shelf", shelf)
        for key in ("part:main-fuse", "shunt", "board"):
            data = put(data, f"/box/places/{key}/on", "fixture:shelf")
        found, build = built(data)
        at = numbers(build)
        self.assertEqual(build.plan.circles, [])
        self.assertLess(at["post:pack:positive"], at["fit:fixture:shelf"])
        self.assertLess(at["fit:part:main-fuse"], at["join:main-fuse"])
        self.assertIn("live", build.plan.acts["join:main-fuse"].caution)
        self.assertEqual(wrong_in(found, build), [])

    def test_strings_go_on_one_by_one_and_only_where_they_stand_alike(self) -> None:
        """10 mV a cell over eight cells, either way; with links from one to the next, or each to one point."""
        for takeoff in (None, "equal leads"):
            bank = {
                "form": "modules",
                "battery": {"series": 4, "capacity_ah": 50},
                "in_series": 2,
                "parallel": 3,
                "takeoff": takeoff,
            }
            found, build = built(put(demo(TIDE), "/pack", {**bank, "strings": {"s3": {"protected": False}}}))
            self.assertEqual(wrong_in(found, build), [])
            acts = build.plan.acts
            over = acts["string:2"].measures[0]
            assert over.least is not None and over.most is not None
            self.assertAlmostEqual(over.most.number, 80)
            self.assertAlmostEqual(over.least.number, -80)
            step = next(step for step in build.steps if step.act is acts["string:2"])
            self.assertIsNotNone(draw_step(step, build, found.pack, found.box))
            self.assertIn("fuse in", acts["string:2"].text)
            self.assertNotIn("fuse", acts["string:3"].text)
            self.assertEqual("lead:link:1" in acts["string:2"].pieces, takeoff is None)
            labels = [label for piece in build.pieces if piece.run == "lead:link" for label in labels_of(piece)]
            links = [
                "ST1+ / ST2",
                "ST2+ / ST1",
                "ST1− / ST2",
                "ST2− / ST1",
                "ST2+ / ST3",
                "ST3+ / ST2",
                "ST2− / ST3",
                "ST3− / ST2",
            ]
            self.assertEqual(labels, links if takeoff is None else [])
            lines = {line.key: line for line in build.shopping.lines}
            series = [piece for piece in build.pieces if piece.key.startswith("series:")]
            self.assertEqual([(p.key, p.count, p.route.number) for p in series], [(f"series:{n}", 1, 0.25) for n in (1, 2, 3)])
            self.assertEqual([*labels_of(series[1])], ["ST2 + / −", "ST2 − / +"])
            self.assertEqual(acts["series:2"].pieces, ("series:2",))
            self.assertGreaterEqual(lines[slug("wire", series[0].gauge, "red")].need.number, 3 * series[0].cut.number)

    def test_a_part_may_be_called_as_a_lead_is(self) -> None:
        """Nothing of the design is dropped from the lists because of its name."""
        plain = len(built(demo(TIDE))[1].pieces)
        for name in ("meter", "negative", "sense", "link", "string-1", "logger-return", "source-tow-car"):
            data = json.loads(
                json.dumps(demo(TIDE)).replace('"main-switch"', f'"{name}"').replace("part:main-switch", f"part:{name}")
            )
            found, build = built(data)
            self.assertEqual(len({piece.key for piece in build.pieces}), plain, name)
            self.assertEqual(wrong_in(found, build), [], name)

    def test_an_evening_is_no_longer_than_it_is_and_power_is_not_half_on_over_night(self) -> None:
        for hours in (1.5, 3, 8):
            _, build = built(put(demo(LANE), "/assembly/evening_h", hours))
            spent: dict[int, list[float]] = {}
            for step in build.steps:
                spent.setdefault(step.evening, []).append(step.act.minutes)
            for evening, minutes in spent.items():
                self.assertTrue(sum(minutes) <= hours * 60 + 1e-9 or len(minutes) == 1, evening)
            power = [step for step in build.steps if step.act.stage == "power"]
            if sum(step.act.minutes for step in power) <= hours * 60:
                self.assertEqual(len({step.evening for step in power}), 1)

    def test_acts_that_wait_for_one_another_are_found(self) -> None:
        plan = BuildPlan()
        for key in "abcd":
            plan.add(Act(key, "parts", "fit", key, key))
        for act, earlier in ("ab", "bc", "ca", "dc"):
            plan.after(act, earlier, "it must", telling=True)
        self.assertEqual(len(plan.in_order()), 4)
        self.assertEqual([sorted(circle) for circle in plan.circles], [["a", "b", "c"]])
        with self.assertRaises(ValueError):
            plan.add(Act("a", "parts", "fit", "", ""))


def numbers(build: AssemblySizing) -> dict[str, int]:
    return {step.act.key: step.number for step in build.steps}


def shaken(chance: Random) -> dict[str, Any]:
    """A demo build with half of its parts somewhere else in its box, wherever they fall."""
    data = demo(chance.choice(DEMO_NAMES))
    case, fixtures = data["box"]["case"], [f"fixture:{key}" for key in data["box"]["fixtures"]]
    length, width, height = (case[f"{name}_mm"] for name in ("length", "width", "height"))
    for place in data["box"]["places"].values():
        if chance.random() < 0.5 and place["at"] == "inside":
            somewhere = {f"{axis}_mm": chance.uniform(0, mm * 0.8) for axis, mm in (("x", length), ("y", width), ("z", height))}
            place |= {**somewhere, "on": chance.choice(["floor", "floor", "left", "back", "lid", *fixtures])}
        elif chance.random() < 0.5 and place["at"] == "face":
            place |= {"x_mm": chance.uniform(40, length - 40), "y_mm": chance.uniform(40, height - 40)}
    case["opens"] = chance.choice(["above", "above", "front"])
    return put(data, "/assembly/pole_first", chance.choice(["positive", "negative"]))


def in_a_circle() -> dict[str, Any]:
    """A shunt over the pack, which is to go in last."""
    data = put(demo(STALL), "/box/pack_last", True)
    pack, shunt = (data["box"]["places"][key] for key in ("pack", "shunt"))
    data = put(data, "/box/places/shunt", {**shunt, "on": "left", "x_mm": 0, "y_mm": pack["y_mm"], "z_mm": 240})
    return put(data, "/box/places/pack", {**pack, "x_mm": 10, "on": "floor"})


SPEAKS = {
    "assembly.cycle": in_a_circle,
    "assembly.price-missing": lambda: demo(TIDE),
    "assembly.over-budget": lambda: put(demo(TIDE), "/brief/budget", 100),
}


class Findings(TestCase):
    def test_each_speaks_where_it_should(self) -> None:
        for id, data in SPEAKS.items():
            checks = judge_build(judge(data()), Sheet())
            found = next((check.finding for check in checks if check.id == id and check.finding), None)
            with self.subTest(id):
                assert found is not None
                self.assertNotIn("{", found.text)
                self.assertGreater(len(found.why), 20)

    def test_what_has_all_its_prices_within_its_budget_and_an_order_holds(self) -> None:
        found = judge(demo(LANE))
        prices = {line.key: 0.1 for line in build_of(found).shopping.lines if line.price is None}
        data = put(demo(LANE), "/assembly/prices", {**demo(LANE)["assembly"]["prices"], **prices})
        verdicts = {check.id: check.verdict for check in judge_build(judge(put(data, "/brief/budget", 3000)), Sheet())}
        self.assertEqual(verdicts, dict.fromkeys(SPEAKS, "holds"))

    def test_a_circle_is_mended_by_what_is_offered(self) -> None:
        found = judge(in_a_circle())
        finding = next(f for f in forecast(found).findings if f.id == "assembly.cycle")
        self.assertEqual([remedy.label for remedy in finding.remedies], ["The pack need not go in last"])

    def test_where_nothing_is_laid_out_nothing_is_said_to_hold(self) -> None:
        for data in (document(), put(put(demo(TIDE), "/loads/items", {}), "/power/network", {})):
            self.assertEqual([(c.id, c.verdict) for c in judge_build(judge(data), Sheet())], [("assembly.cycle", "open")])
        boxless = judge_build(judge(put(demo(TIDE), "/box/case", None)), Sheet())
        self.assertIn(("assembly.cycle", "open"), [(c.id, c.verdict) for c in boxless])
        self.assertEqual(read_design(demo(TIDE)).assembly.pole_first, "negative")
