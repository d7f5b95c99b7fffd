"""The geometry of the box by hand: where a lid no longer shuts, a post fouls a latch, a plug hits the battery."""

from itertools import pairwise
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.box.contents import bend_radius, cable_outside
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.runs import apart, way_between
from kegcart.core.box.space import OWN, Hollow, Shape, Solid, between, gap, turned_size, turned_way
from kegcart.core.box.taking_out import goes_with_lid, order_out, over_each
from kegcart.core.check import Verdict
from tests.core.samples import DEMO_NAMES, demo, judge, put

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
        for other, free in (
            (Solid.at(103, 0, 0, (10, 10, 10)), 3),
            (Solid.at(95, 10, 10, (20, 20, 20)), -5),
            (Solid.at(20, 10, 10, (20, 20, 20)), -30),  # within it: out by its top
            (Solid.at(0, 0, 40, (100, 50, 5)), 0),
            (Solid.at(104, 56, 0, (10, 10, 10)), 6),
        ):
            self.assertAlmostEqual(gap(a, other), free)
            self.assertAlmostEqual(gap(other, a), free)

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


class Ways(TestCase):
    @given(solids, solids)
    def test_a_way_goes_along_the_axes_from_one_to_the_other_and_is_no_longer_than_they_are_apart(
        self, a: Solid, b: Solid
    ) -> None:
        way = way_between(a, b)
        steps = [[q - p for p, q in zip(*pair, strict=True)] for pair in pairwise(way)]
        self.assertTrue(all(sum(mm != 0 for mm in step) == 1 for step in steps))
        self.assertAlmostEqual(sum(abs(mm) for step in steps for mm in step), apart(a, b))
        for end, solid in ((way[0], a), (way[-1], b)):
            self.assertTrue(all(solid[n] - 1e-9 <= mm <= solid[n + 3] + 1e-9 for n, mm in enumerate(end)))

    def test_by_hand(self) -> None:
        """From a post 40 mm up over a wall of air to one 100 mm up: first up, then across, never through what is lower."""
        low, high = Solid(0, 0, 40, 0, 0, 40), Solid(300, 50, 100, 320, 80, 100)
        self.assertEqual(way_between(low, high), [(0, 0, 40), (0, 0, 100), (300, 0, 100), (300, 50, 100)])


class TakingOut(TestCase):
    """A tray over the pack, a fuse on the tray, an inverter beside it, a lamp under the lid."""

    def build(self, *, opens: str = "above", tray: bool = True, pack_last: bool = False) -> BoxLayout:
        data = demo("lantern-lane")
        on = {"on": "fixture:tray"} if tray else {"x_mm": 700, "y_mm": 400}
        stays = {"pack": {"x_mm": 20, "y_mm": 20}, "part:inverter": {"x_mm": 480, "y_mm": 20}, "part:main-fuse": on}
        vent = {"kind": "vent", "name": "Vent", "face": "left", "x_mm": 250, "width_mm": 40, "inside_mm": 9}
        data["box"] |= {
            "case": {"name": "Box", "length_mm": 900, "width_mm": 500, "height_mm": 400, "lid_mm": 60, "opens": opens},
            "places": {key: {"at": "inside", **place} for key, place in stays.items()},
            "fixtures": {"tray": {"name": "Tray", "z_mm": 300, "width_mm": 280, "depth_mm": 400, "height_mm": 9}} if tray else {},
            "fittings": {
                "fan": {"kind": "fan", "name": "Fan", "face": "lid", "x_mm": 100, "y_mm": 100, "width_mm": 60, "inside_mm": 26},
                "high": {**vent, "y_mm": 372},
                "low": {**vent, "y_mm": 350},
            },
            "pack_last": pack_last,
        }
        return judge(data).box.layout  # type: ignore[union-attr]

    def test_what_stands_over_a_part_comes_out_before_it(self) -> None:
        layout = self.build()
        over = over_each(layout)
        self.assertEqual(set(over["/box/places/pack"]), {"/box/places/part:main-fuse", "/box/fixtures/tray"})
        self.assertEqual(set(over["/box/fixtures/tray"]), {"/box/places/part:main-fuse", "/box/fittings/low"})
        self.assertEqual(over["/box/places/part:inverter"], [])

    def test_what_opens_with_the_lid_keeps_nothing_in(self) -> None:
        """A vent at 372 mm, 40 mm wide, is above the split at 340 mm; one at 350 mm is cut by it, and stays."""
        layout = self.build()
        with_lid = {f.at for f in layout.fitted if goes_with_lid(f.at, layout)}
        self.assertEqual(with_lid, {"/box/fittings/fan", "/box/fittings/high"})
        self.assertFalse(with_lid & set(order_out(layout)))
        door = self.build(opens="front")
        self.assertFalse(any(goes_with_lid(f.at, door) for f in door.fitted))

    def test_the_order_is_one_in_which_each_comes_out_freely(self) -> None:
        for name in DEMO_NAMES:
            layout = judge(demo(name)).box.layout  # type: ignore[union-attr]
            order, over = order_out(layout), over_each(layout)
            self.assertEqual(sorted(order), sorted(over), name)
            for n, at in enumerate(order):
                self.assertFalse(set(over[at]) & set(order[n:]), (name, at))

    def test_the_pack_comes_out_first_where_it_is_to(self) -> None:
        """Not from under what stands over it."""
        layouts = [self.build(tray=tray, pack_last=last) for tray, last in ((True, False), (True, True), (False, True))]
        firsts = [order_out(layout)[0].split("/")[-1] for layout in layouts]
        self.assertEqual(firsts, ["part:main-fuse", "part:main-fuse", "pack"])


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
        for fitting, free in (
            (Shape(100, 60, 12, 12, True), 6),  # its edge at 66, the latch's at 72
            (Shape(100, 72, 12, 12, True), -6),  # half of it under the latch
            (Shape(100, 100, 12, 12, True), -31),
            (Shape(140, 100, 20, 20, False), 5),
            (Shape(138, 132, 20, 20, True), 3.6),  # 13 and 4 mm beyond its corner: √(13² + 4²) − 10
        ):
            self.assertAlmostEqual(between(fitting, latch), free, places=1, msg=str(fitting))
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
