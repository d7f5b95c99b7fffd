"""The box: worked examples of mass, balance, hold and gas; clear places for all parts; what is judged of whole builds."""

from random import Random
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.box.document import Case
from kegcart.core.box.drawing import draw_box
from kegcart.core.box.layout import BoxLayout, lay_out
from kegcart.core.box.moves import face_is_clear, fittings_in, laid_out_anew, place_things
from kegcart.core.box.rules.weight import hold_force
from kegcart.core.box.weight import centre_of_mass, on_hands, tipping
from kegcart.core.check import Verdict
from kegcart.core.design import DesignError, read_design
from kegcart.core.figure import Figure
from kegcart.core.pack.hydrogen import hydrogen_air, hydrogen_opening
from kegcart.core.reference import chemistries, connectors, constant, families
from kegcart.core.reference.boxes import bodies, body_type, case_types
from tests import PROVING, tried
from tests.core.samples import DEMO_NAMES, demo, document, ids, judge, mended, put
from tests.core.test_box_space import UPS
from tests.core.test_worked_examples import Digits


def kg(number: float) -> Figure:
    return Figure.of("m", number, "kg")


class WorkedExamples(Digits):
    def test_centre_of_mass_hands_and_tipping(self) -> None:
        placed = [
            (kg(33.4), (180.0, 200.0, 150.0)),
            (kg(9.0), (420.0, 200.0, 230.0)),
            (kg(3.0), (450.0, 200.0, 60.0)),
            (kg(6.5), (275.0, 200.0, 120.0)),
            (kg(5.6), (275.0, 200.0, 175.0)),
        ]
        x, y, z = centre_of_mass(placed)
        self.close(x.number, 251.6)
        self.close(z.number, 156.9)
        self.assertEqual(y.number, 200)
        left, right = on_hands(kg(57.5), x, Figure.of("L", 550, "mm"))
        self.close(left.number, 31.2)
        self.close(right.number, 26.3)
        self.close(tipping(Figure.of("b", 200, "mm"), z).number, 51.9)

    def test_copper_of_a_cable(self) -> None:
        bare = constant("copper_density") * 70 * 2 / 1000
        self.close(bare, 1.25)
        self.close(bare * constant("cable_mass_more"), 1.40)

    def test_hold_down_forward(self) -> None:
        self.close(hold_force(kg(33.4)).number, 983)

    def test_hydrogen_of_six_cells_of_110_ah(self) -> None:
        cells, capacity = Figure.of("n", 6, ""), Figure.of("C", 110, "Ah")
        for chemistry, air, opening in (("flooded", 0.660, 18.5), ("agm", 0.264, 7.39)):
            needed = hydrogen_air(chemistries()[chemistry], cells, capacity)
            self.close(needed.number, air)
            self.close(hydrogen_opening(needed).number, opening)


class Tables(TestCase):
    def test_every_connector_and_family_has_a_body(self) -> None:
        for key in connectors():
            self.assertIn(("socket", key), bodies(), key)
        for key in set(families()) - {"ac-only"}:
            self.assertIn(("protection", key), bodies(), key)

    def test_a_larger_rating_is_no_smaller_part(self) -> None:
        for (kind, of), rows in bodies().items():
            bulks = [row.width_mm * row.depth_mm * row.height_mm for _, row in rows]
            self.assertEqual(bulks, sorted(bulks), (kind, of))
            self.assertIs(body_type(kind, of, 1e9), rows[-1][1])

    def test_each_box_of_the_list_is_a_case_and_its_features_are_on_its_faces(self) -> None:
        for key, row in case_types().items():
            case = Case.model_validate(row.document)
            wide = {
                "front": case.length_mm,
                "back": case.length_mm,
                "lid": case.length_mm,
                "left": case.width_mm,
                "right": case.width_mm,
            }
            self.assertTrue(case.features, key)
            for name, feature in case.features.items():
                self.assertLessEqual(feature.x_mm + feature.width_mm / 2, wide[feature.face] + 1, (key, name))
                self.assertGreaterEqual(feature.x_mm - feature.width_mm / 2, -1, (key, name))


def overlaps(layout: BoxLayout) -> list[tuple[str, str]]:
    """Every two things inside that share space, told by their corners alone."""
    solids = [(s.thing.key, s.solid) for s in layout.standing.values()] + [(f.key, f.solid) for f in layout.fitted if f.deep > 0]
    return [
        (a, b)
        for n, (a, p) in enumerate(solids)
        for b, q in solids[n + 1 :]
        if all(min(p[k + 3], q[k + 3]) - max(p[k], q[k]) > 1e-6 for k in range(3))
    ]


class Placing(TestCase):
    def test_everything_that_finds_a_place_stands_clear(self) -> None:
        for name in DEMO_NAMES if PROVING else DEMO_NAMES[::2]:
            box = read_design(demo(name)).box
            things = judge(demo(name)).box.layout.things  # type: ignore[union-attr]
            for key, row in case_types().items():
                case = Case.model_validate(row.document)
                bare = box.model_copy(update={"case": case, "places": {}, "fixtures": {}, "fittings": {}})
                found, left = place_things(lay_out(bare, case, things), [t.key for t in things])
                layout = lay_out(bare.model_copy(update={"places": found}), case, things)
                self.assertEqual(len(found) + len(left), len(things))
                self.assertEqual(overlaps(layout), [], (name, key))
                for standing in layout.standing.values():
                    self.assertLessEqual(standing.top, case.height_mm + 1e-6)
                    low = case.taper_mm * (1 - standing.solid.z0 / case.height_mm)
                    self.assertGreaterEqual(
                        min(standing.solid.x0, standing.solid.y0), low - 1e-6, (name, key, standing.thing.key)
                    )

    def test_all_of_a_build_is_laid_out_anew_without_a_stop(self) -> None:
        for name in DEMO_NAMES:
            data = demo(name)
            found = laid_out_anew(judge(data).box.layout)  # type: ignore[union-attr]
            self.assertTrue(found, name)
            after = judge(mended(data, found[0].patch))
            of_the_box = [f.text for f in after.findings if f.id in ("box.fit", "box.bend", "box.depth", "box.latch", "box.lid")]
            self.assertEqual(of_the_box, [], name)

    def test_vents_and_fans_go_into_another_box_where_it_is_clear(self) -> None:
        """In Lantern Lane's own box at their own places, in all others at the same share of a face or near it."""
        layout = judge(demo("lantern-lane")).box.layout  # type: ignore[union-attr]
        self.assertEqual(fittings_in(layout.case, layout), layout.box.fittings)
        for key, row in case_types().items():
            case = Case.model_validate(row.document)
            found = fittings_in(case, layout)
            box = layout.box.model_copy(update={"case": case, "places": {}, "fixtures": {}, "fittings": found})
            there = lay_out(box, case, [])
            self.assertEqual([f.name for f in there.fitted if not face_is_clear(f, there)], [], key)
            for name, fitting in found.items():
                self.assertEqual(fitting.face, layout.box.fittings[name].face)
            if case.height_mm >= 200:
                self.assertEqual(found.keys(), layout.box.fittings.keys(), key)

    def test_what_is_pinned_stays(self) -> None:
        data = put(demo("lantern-lane"), "/box/places/pack/pinned", True)
        (remedy,) = laid_out_anew(judge(data).box.layout)  # type: ignore[union-attr]
        after = mended(data, remedy.patch)
        self.assertEqual(after["box"]["places"]["pack"], data["box"]["places"]["pack"])


def shaken(seed: int) -> dict[str, Any]:
    """A demo build in another box, or with its parts thrown about, lying anyhow, on other faces."""
    chance = Random(seed)
    data = demo(chance.choice(DEMO_NAMES))
    box = data["box"]
    if chance.random() < 0.4:
        box["case"] = chance.choice(list(case_types().values())).document
    box["case"] = box["case"] | {chance.choice(("length_mm", "width_mm", "height_mm")): chance.choice((20, 90, 400, 3000))}
    for place in box["places"].values():
        if chance.random() < 0.3:
            place |= {"x_mm": chance.uniform(-500, 900), "y_mm": chance.uniform(-500, 900)}
        if place["at"] == "inside":
            if chance.random() < 0.2:
                place |= {"up": chance.choice(UPS), "turn": chance.choice((0, 90, 180, 270))}
                place |= {"on": chance.choice(("floor", "front", "back", "left", "right", "lid"))}
        elif chance.random() < 0.2:
            place |= {"face": chance.choice(("front", "back", "left", "right", "lid", "floor")), "turn": chance.choice((0, 90))}
    return data


class AnyBox(TestCase):
    @given(st.integers(0, 10**9))
    @tried(300, daily=12)
    def test_whatever_stands_anywhere_is_judged_drawn_and_has_its_remedies_searched_for(self, seed: int) -> None:
        judged = judge(shaken(seed))
        assert judged.box is not None
        self.assertEqual(len(draw_box(judged.box)), 9)
        said = {f.place.rpartition("/")[2] for f in judged.findings if f.id in ("box.fit", "box.depth", "box.bend", "box.latch")}
        for pair in overlaps(judged.box.layout):
            self.assertTrue(said & set(pair), f"{pair} share space, and nothing is said of either")
        for finding in [f for f in judged.findings if f.station == "box"][seed % 5 :: 9]:
            for remedy in finding.remedies:
                self.assertTrue(remedy.patch, remedy.label)


def failing(data: dict[str, Any], id: str) -> list[str]:
    return [f.text for f in judge(data).findings if f.id == id]


class Builds(TestCase):
    def test_until_a_box_is_chosen_nothing_is_said_to_hold(self) -> None:
        checks = [c for c in judge(document()).checks if c.station == "box"]
        self.assertEqual([(c.id, c.verdict) for c in checks], [("box.fit", Verdict.OPEN)])

    def test_a_part_without_a_place_is_not_said_to_fit(self) -> None:
        data = demo("lantern-lane")
        del data["box"]["places"]["part:inverter"]
        told = [c for c in judge(data).checks if c.place == "/box/places/part:inverter"]
        self.assertEqual([(c.id, c.verdict, c.missing) for c in told], [("box.fit", Verdict.OPEN, "where it stands")])
        self.assertTrue(any(c.id == "box.balance" and c.verdict is Verdict.OPEN for c in judge(data).checks))

    def test_a_charger_may_stay_outside_and_weighs_nothing_there(self) -> None:
        data = demo("lantern-lane")
        before = judge(data).figures["box/mass"].number
        carried = put(
            data, "/box/places/source:mains", {"at": "inside", "on": "floor", "x_mm": 20, "y_mm": 20, "held": ["screw"]}
        )
        self.assertAlmostEqual(judge(carried).figures["box/mass"].number - before, 4.0)

    def test_mass_is_the_sum_of_what_is_in_it(self) -> None:
        judged = judge(demo("lantern-lane"))
        sizing = judged.box
        assert sizing is not None
        carried = [sizing.masses[t.key].number for t in sizing.layout.things if t not in sizing.layout.outside]
        copper = sum(
            2 * p.run.area.number * p.node.run.length_m * 8.96e-3 * 1.12 for p in judged.power.parts.values() if p.run is not None
        )
        self.assertAlmostEqual(sizing.weight.mass.number, sum(carried) + copper + 9.5, places=6)

    def test_outside_measures_leave_the_walls_out(self) -> None:
        data = put(put(demo("lantern-lane"), "/box/case/measured", "outside"), "/box/case/wall_mm", 5)
        figures = judge(data).figures
        self.assertEqual([figures[f"box/{n}"].number for n in ("length", "width", "height")], [670, 450, 370])

    def test_holds_of_each_kind(self) -> None:
        base = demo("lantern-lane")
        for held, words in (
            ([], "not held sideways and from rising"),
            (["snug"], "not held from rising"),
            (["foam"], "not held sideways"),
            (["hook-and-loop", "adhesive"], "by hook-and-loop tape and adhesive alone"),
            (["snug", "hook-and-loop"], "alone"),
        ):
            told = failing(put(base, "/box/places/pack/held", held), "box.holddown")
            self.assertTrue(any(words in text for text in told), (held, told))
        for held in (["strap", "snug"], ["bracket"], ["screw", "screw"]):
            self.assertEqual(failing(put(base, "/box/places/pack/held", held), "box.holddown"), [], held)
        self.assertIn("983 N", failing(put(base, "/box/places/pack/held", ["screw"]), "box.holddown")[0])

    def test_a_controller_held_by_hook_and_loop(self) -> None:
        data = demo("hollow-oak")
        place = {"at": "inside", "on": "back", "x_mm": 100, "z_mm": 300, "held": ["hook-and-loop"]}
        self.assertIn(
            "Barn panels is held by hook-and-loop",
            "; ".join(failing(put(data, "/box/places/source:barn", place), "box.holddown")),
        )

    def test_air_in_and_out(self) -> None:
        base = demo("lantern-lane")
        self.assertIn("nowhere to blow", failing(put(base, "/box/fittings/vent/kind", "grommet"), "box.airflow")[0])
        beside = put(put(base, "/box/fittings/vent/face", "back"), "/box/fittings/vent/x_mm", 200)
        self.assertEqual(len(failing(beside, "box.airflow")), 3)  # on one side, too near one another, and the pack before it
        small = put(base, "/box/fittings/vent/free_cm2", 30)
        self.assertIn("45.4 cm²", failing(small, "box.airflow")[0])

    def test_a_vent_covered_from_within(self) -> None:
        """Ø60 needs 60 · 60 / (2 · 120) = 15 mm for its air to go round its edge; half of it may be covered nearer than that."""
        base = put(demo("lantern-lane"), "/box/fittings/vent", {"kind": "vent", "name": "Vent", "face": "back", "x_mm": 340})
        base = put(put(base, "/box/fittings/vent/y_mm", 300), "/box/fittings/vent/width_mm", 60)
        back = 460 - 15 * (1 - 270 / 380)  # where the back stands in the most behind it
        block = {"name": "Block", "width_mm": 120, "depth_mm": 60, "height_mm": 80, "z_mm": 260}
        for free, x, said in ((14, 280, 1), (16, 280, 0), (14, 338, 1), (14, 342, 0)):
            there = put(base, "/box/fixtures/block", {**block, "x_mm": x, "y_mm": back - free - 60})
            found = [f for f in judge(there).findings if f.id == "box.airflow" and f.place == "/box/fittings/vent"]
            self.assertEqual(len(found), said, (free, x))
            for finding in found:
                self.assertIn("covered from within by Block", finding.text)
                after = judge(mended(there, finding.remedies[0].patch))
                self.assertNotIn("covered", "".join(f.text for f in after.findings))

    def test_a_fan_that_starts_below_the_outside_temperature(self) -> None:
        base = demo("lantern-lane")  # 30 °C at the hottest
        told = failing(put(put(base, "/box/fittings/fan/on_c", 28), "/box/fittings/fan/off_c", 24), "box.fan-setting")
        self.assertEqual(len(told), 2)
        self.assertIn(
            "day and night",
            next(f.why for f in judge(put(base, "/box/fittings/fan/off_c", 24)).findings if f.id == "box.fan-setting"),
        )

    def test_holes_where_it_is_wet(self) -> None:
        wet = put(demo("lantern-lane"), "/brief/exposure", "wet")
        self.assertNotIn("lid", "; ".join(failing(wet, "box.water")))
        lid = put(wet, "/box/places/part:mixer-outlet", {"at": "face", "face": "lid", "x_mm": 560, "y_mm": 420})
        self.assertIn("Mixer, 12 V is in the lid", "; ".join(failing(lid, "box.water")))
        drain = {"kind": "drain", "name": "Drain", "face": "floor", "x_mm": 60, "y_mm": 60, "width_mm": 6}
        self.assertNotIn("Drain", "; ".join(failing(put(wet, "/box/fittings/drain", drain), "box.water")))

    def test_flooded_cells_beside_what_sparks(self) -> None:
        flooded = put(
            demo("tidewater"), "/pack", {"form": "battery", "chemistry": "flooded", "battery": {"series": 6, "capacity_ah": 110}}
        )
        found = {(f.id, f.place) for f in judge(flooded).findings}
        self.assertIn(("box.gas", "/box/places/pack/on"), found)
        self.assertIn(("box.vent", "/box/places/pack"), found)
        vented = next(f for f in judge(flooded).findings if f.id == "box.vent")
        self.assertNotIn("box.vent", ids(mended(flooded, vented.remedies[0].patch)))

    def test_what_stands_on_a_shelf_that_is_taken_away_is_refused(self) -> None:
        data = demo("hollow-oak")
        del data["box"]["fixtures"]["lower"]
        with self.assertRaises(DesignError) as caught:
            read_design(data)
        self.assertIn("no shelf or block", str(caught.exception))

    def test_what_a_door_hides_and_what_a_lid_hides(self) -> None:
        """The main fuse of the cabinet, opened in front, is reached; behind the busbar it would not be."""
        self.assertEqual(failing(demo("hollow-oak"), "box.access"), [])
        fuse = {"part:main-fuse": {"at": "inside", "x_mm": 40, "y_mm": 120}}
        self.assertEqual(failing(put(demo("hollow-oak"), "/box/places", fuse), "box.access"), [])
        behind = put(demo("hollow-oak"), "/box/places", {**fuse, "part:busbar": {"at": "inside", "x_mm": 25, "y_mm": 20}})
        self.assertIn("Main fuse is behind Busbar", failing(behind, "box.access")[0])

    def test_the_same_is_said_in_the_builders_units(self) -> None:
        data = put(demo("lantern-lane"), "/box/case/height_mm", 220)
        self.assertIn("3 mm lower", failing(data, "box.lid")[0])
        self.assertIn("0.118 in lower", failing(put(data, "/brief/units", "us"), "box.lid")[0])
