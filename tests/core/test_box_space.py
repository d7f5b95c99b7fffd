"""The geometry of the box by hand: where a lid no longer shuts, a post fouls a latch, a plug hits the battery."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.box.contents import bend_radius, cable_outside
from kegcart.core.box.space import OWN, Hollow, Shape, Solid, between, gap, turned_size, turned_way
from kegcart.core.check import Verdict
from tests.core.samples import demo, judge, put

mm = st.floats(0, 400, allow_nan=False)
sizes = st.floats(1, 200)
solids = st.builds(lambda x, y, z, w, d, h: Solid.at(x, y, z, (w, d, h)), mm, mm, mm, sizes, sizes, sizes)
shapes = st.builds(Shape, mm, mm, sizes, sizes, st.just(False)) | st.builds(
    lambda x, y, d: Shape(x, y, d, d, True), mm, mm, sizes
)
UPS = ("top", "bottom", "front", "back", "left", "right")


class Cuboids(TestCase):
    def test_gaps_by_hand(self) -> None:
        a = Solid.at(0, 0, 0, (100, 50, 40))
        for other, apart in (
            (Solid.at(103, 0, 0, (10, 10, 10)), 3),
            (Solid.at(95, 10, 10, (20, 20, 20)), -5),
            (Solid.at(20, 10, 10, (20, 20, 20)), -30),  # within it: out by its top
            (Solid.at(0, 0, 40, (100, 50, 5)), 0),
            (Solid.at(104, 56, 0, (10, 10, 10)), 6),
        ):
            self.assertAlmostEqual(gap(a, other), apart)
            self.assertAlmostEqual(gap(other, a), apart)

    @given(solids, solids, st.sampled_from(sorted(OWN)), st.floats(0, 300))
    def test_moving_a_part_away_never_makes_a_collision(self, a: Solid, b: Solid, face: str, by: float) -> None:
        """Away: along an axis on which the other lies on the far side."""
        axis, sign = next((n, s) for n, s in enumerate(OWN[face]) if s)
        away = a[axis] >= b[axis + 3] if sign > 0 else a[axis + 3] <= b[axis]
        moved = [*a]
        moved[axis] += sign * by
        moved[axis + 3] += sign * by
        if away:
            self.assertGreaterEqual(gap(Solid(*moved), b), gap(a, b) - 1e-9)
            self.assertGreaterEqual(gap(Solid(*moved), b), 0)

    @given(solids, solids)
    def test_a_gap_is_the_same_from_both_sides_and_negative_only_where_they_share_space(self, a: Solid, b: Solid) -> None:
        self.assertEqual(gap(a, b), gap(b, a))
        shared = all(min(a[n + 3], b[n + 3]) > max(a[n], b[n]) for n in range(3))
        self.assertEqual(gap(a, b) < 0, shared)


class Turning(TestCase):
    def test_by_hand(self) -> None:
        """A part 300 wide, 120 deep, 88 high, its inlet on the left."""
        for up, turn, size, inlet in (
            ("top", 0, (300, 120, 88), "left"),
            ("top", 90, (120, 300, 88), "back"),
            ("top", 180, (300, 120, 88), "right"),
            ("top", 270, (120, 300, 88), "front"),
            ("left", 0, (88, 120, 300), "top"),
            ("right", 0, (88, 120, 300), "bottom"),
            ("front", 0, (300, 88, 120), "left"),
            ("bottom", 0, (300, 120, 88), "right"),
        ):
            self.assertEqual(turned_size((300, 120, 88), up, turn), size, (up, turn))
            self.assertEqual(turned_way(OWN["left"], up, turn), OWN[inlet], (up, turn))

    @given(st.sampled_from(UPS), st.sampled_from((0, 90, 180, 270)))
    def test_the_face_that_is_up_points_up_and_faces_stay_faces(self, up: str, turn: int) -> None:
        self.assertEqual(turned_way(OWN[up], up, turn), OWN["top"])
        self.assertEqual({turned_way(v, up, turn) for v in OWN.values()}, set(OWN.values()))
        for face, across in (("left", "right"), ("front", "back"), ("top", "bottom")):
            opposite = tuple(-n for n in turned_way(OWN[face], up, turn))
            self.assertEqual(turned_way(OWN[across], up, turn), opposite)


class Walls(TestCase):
    tapered = Hollow(400, 300, 200, 10)

    def test_a_side_that_leans_in_is_nearer_at_the_floor(self) -> None:
        for z, room in ((0, -10), (100, -5), (200, 0)):
            self.assertAlmostEqual(-self.tapered.beyond_walls(Solid.at(0, 100, z, (50, 50, 20))), room)
        self.assertAlmostEqual(self.tapered.beyond_walls(Solid.at(10, 10, 0, (380, 280, 50))), 0)
        self.assertAlmostEqual(self.tapered.beyond_walls(Solid.at(10, 10, 0, (381, 280, 50))), 1)

    def test_depth_behind_each_face_by_hand(self) -> None:
        box = Hollow(400, 300, 200)
        battery = Solid.at(150, 90, 0, (100, 120, 150))
        for face, x, y, free in (
            ("front", 200, 100, 90),
            ("back", 200, 100, 90),  # 300 − 210
            ("left", 150, 100, 150),
            ("right", 150, 100, 150),  # 400 − 250
            ("lid", 200, 150, 50),
            ("front", 200, 170, 300),  # over the battery: to the face across
            ("front", 60, 100, 300),  # beside it
        ):
            self.assertAlmostEqual(box.free_behind(face, x, y, 29, 29, [("battery", battery)])[0], free, msg=(face, x, y))

    def test_the_back_is_seen_from_behind(self) -> None:
        self.assertEqual(Hollow(400, 300, 200).behind("back", 50, 100, 20, 20, 30), Solid(340, 270, 90, 360, 300, 110))
        self.assertEqual(Hollow(400, 300, 200).behind("left", 50, 100, 20, 20, 30), Solid(0, 240, 90, 30, 260, 110))
        self.assertEqual(Hollow(400, 300, 200).behind("right", 50, 100, 20, 20, 30), Solid(370, 40, 90, 400, 60, 110))

    def test_where_the_wall_leans_depth_counts_from_its_innermost_point(self) -> None:
        body = self.tapered.behind("front", 200, 100, 40, 40, 60)
        self.assertAlmostEqual(body.y1, 6 + 60)  # at 80 mm the side stands in by 6 mm


class Outlines(TestCase):
    def test_by_hand(self) -> None:
        latch = Shape(100, 100, 50, 56, False)
        for fitting, apart in (
            (Shape(100, 60, 12, 12, True), 6),  # its edge at 66, the latch's at 72
            (Shape(100, 72, 12, 12, True), -6),  # half of it under the latch
            (Shape(100, 100, 12, 12, True), -31),
            (Shape(140, 100, 20, 20, False), 5),
            (Shape(138, 132, 20, 20, True), 3.6),  # 13 and 4 mm beyond its corner: √(13² + 4²) − 10
        ):
            self.assertAlmostEqual(between(fitting, latch), apart, places=1, msg=str(fitting))
        self.assertAlmostEqual(between(Shape(0, 0, 29, 29, True), Shape(30, 40, 29, 29, True)), 21)
        self.assertAlmostEqual(between(Shape(0, 0, 20, 20, False), Shape(23, 24, 20, 20, False)), 5)

    @given(shapes, shapes)
    def test_is_the_same_from_both_sides(self, a: Shape, b: Shape) -> None:
        self.assertAlmostEqual(between(a, b), between(b, a))

    @given(shapes, shapes, st.floats(0, 2000))
    def test_is_clear_once_moved_far_enough(self, a: Shape, b: Shape, more: float) -> None:
        reach = (a.width + b.width + a.height + b.height) / 2
        self.assertGreater(between(a._replace(x=b.x + reach + more + 0.1, y=b.y), b), 0)


class Cables(TestCase):
    def test_outside_and_bend_of_the_worked_example(self) -> None:
        """70 mm² about 15 mm: 90 mm to bend, fine-stranded silicone 60 mm."""
        outside = cable_outside(70)
        self.assertAlmostEqual(outside, 15, delta=0.2)
        self.assertAlmostEqual(bend_radius(15, "pvc"), 90)
        self.assertAlmostEqual(bend_radius(15, "silicone"), 60)
        for area, sold in ((6, 5.5), (16, 8)):
            self.assertAlmostEqual(cable_outside(area), sold, delta=0.1)


def of(data: dict[str, Any], id: str, place: str) -> Any:
    """The check of an id at a place."""
    return next(c for c in judge(data).checks if c.id == id and c.place == place)


class Judged(TestCase):
    """The same on whole builds, at the border and a hair beyond it."""

    def borders(self, id: str, place: str, pointer: str, border: float, into: float) -> None:
        for value, verdict in ((border, Verdict.HOLDS), (border + into, Verdict.FAILS)):
            check = of(put(demo("lantern-lane"), pointer, value), id, place)
            self.assertEqual(check.verdict, verdict, (id, value, check.finding and check.finding.text))

    def test_a_battery_3_mm_too_tall_under_the_lid(self) -> None:
        """207 mm with 16 mm of studs, links and lugs."""
        self.borders("box.lid", "/box/places/pack", "/box/case/height_mm", 223, -3)
        told = of(put(demo("lantern-lane"), "/box/case/height_mm", 220), "box.lid", "/box/places/pack").finding
        self.assertIn("3 mm lower", told.text)

    def test_a_post_under_a_latch(self) -> None:
        """The latch reaches from 145 to 195 along the front and down to 272; the charge inlet, 42 × 24, moves up under it."""
        inlet = {"at": "face", "face": "front", "x_mm": 170, "y_mm": 240}
        base = put(demo("lantern-lane"), "/box/places", {"part:charge-inlet": inlet})
        for y, verdict in ((259.9, Verdict.HOLDS), (266, Verdict.FAILS)):
            check = of(put(base, "/box/places/part:charge-inlet/y_mm", y), "box.latch", "/box/places/part:charge-inlet")
            self.assertEqual(check.verdict, verdict, y)
        self.assertIn("in the way of a latch by 6 mm", check.finding.text)

    def test_a_round_fitting_over_a_rib(self) -> None:
        """The rib of the left side is 5 mm wide about 115; a vent of 60 mm is clear from 147.5 on."""
        base = put(
            demo("lantern-lane"),
            "/box/fittings/vent",
            {"kind": "vent", "name": "Vent", "face": "left", "y_mm": 120, "width_mm": 60},
        )
        for x, verdict in ((147.6, Verdict.HOLDS), (146, Verdict.FAILS)):
            check = of(put(base, "/box/fittings/vent/x_mm", x), "box.latch", "/box/fittings/vent")
            self.assertEqual(check.verdict, verdict, x)
        self.assertIn("a rib by 1.5 mm", check.finding.text)

    def test_a_plug_behind_the_panel_hits_the_battery(self) -> None:
        """In the back the pack stands 18 mm before the wall at its foot; an outlet there needs more."""
        outlet = {"at": "face", "face": "back", "x_mm": 400, "y_mm": 120}
        places = {"pack": {"at": "inside", "x_mm": 26, "y_mm": 268}, "part:mixer-outlet": outlet}
        data = put(demo("lantern-lane"), "/box/places", places)
        check = of(data, "box.depth", "/box/places/part:mixer-outlet")
        needs = 52 + 20 + cable_outside(0.75)
        self.assertEqual(check.verdict, Verdict.FAILS)
        self.assertAlmostEqual(check.limit.number, needs, delta=3)
        lean = 15 * (1 - 101 / 380)
        self.assertAlmostEqual(check.figure.number, 460 - lean - (268 + 174), places=2)

    def test_the_bend_of_a_cable_before_a_terminal(self) -> None:
        judged = judge(demo("lantern-lane"))
        inverter = judged.box.layout.standing["part:inverter"]  # type: ignore[union-attr]
        area = judged.power.parts["inverter"].run.area.number  # type: ignore[union-attr]
        room = next(r for r in inverter.rooms if r.what == "cables")
        self.assertAlmostEqual(room.solid.x1 - room.solid.x0, 15 + 6 * cable_outside(area))
        self.assertAlmostEqual(room.solid.x1, inverter.solid.x0)
