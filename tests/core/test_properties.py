"""What must hold for any design: if one of these fails, some builder's cable is unsafe without a word."""

from copy import deepcopy
from unittest import TestCase

from hypothesis import HealthCheck, assume, given
from hypothesis import strategies as st

from kegcart.core.assess import Assessment, assess
from kegcart.core.bench.test_plan import plan_of_test, write_test_plan
from kegcart.core.design import Design, read_design, write_design
from kegcart.core.electrical import conductors
from kegcart.core.owed import never_made
from kegcart.core.power.drawing.layout import lay_out
from kegcart.core.power.kinds import Protection
from kegcart.core.reference import constant, families, sizes, wires
from tests import tried
from tests.core.samples import cell_packs, demo, designs, judge, put, simulated

slow = tried(300, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
gauge_pairs = st.tuples(st.sampled_from(sorted(wires())), st.sampled_from(sorted(wires())))


def curable(assessment: Assessment) -> bool:
    """Whether a wire or a fuse exists for every part: not beyond the largest sold."""
    pack = assessment.pack
    for part in assessment.power.parts.values():
        # More than the largest socket sold carries: no breaker cures that, only a second socket.
        if part.extra.get("breaker") and part.rating and part.extra["asked"].number > part.rating.number:
            return False
        if part.run is None:
            continue
        needed = part.design.number * constant("fuse_margin")
        thickest = conductors.gauges(assessment.design.brief.gauge_system)[-1]
        able = conductors.ampacity(thickest, assessment.design.brief.wire_school, assessment.site.inside_c.number)
        largest = {"fuse_block": sizes("fuse-block").sizes[-1], "switch": sizes("switch").sizes[-1], "outlet": 40.0}.get(
            part.node.part, 400.0
        )
        if needed > min(able, largest):
            return False
        # The smallest fuse that opens this fault may be too large for an outlet of little current.
        if isinstance(part.node, Protection) and part.fault and part.fault.number > 6000 and needed < 16:
            return False
    return pack.fault.number <= 20_000 and pack.v_max.number <= 60


class AnyDesign(TestCase):
    @slow
    @given(designs())
    def test_assess_never_raises_and_is_deterministic(self, design: Design) -> None:
        first, second = assess(design), assess(design)
        self.assertEqual([f.text for f in first.findings], [f.text for f in second.findings])
        self.assertEqual({p: f.value for p, f in first.figures.items()}, {p: f.value for p, f in second.figures.items()})
        self.assertIsInstance(lay_out(first.power.network, True).width, float | int)
        self.assertEqual(never_made(first), [], "owed a judgement, and never judged")

    @slow
    @given(designs())
    def test_a_design_survives_writing_and_reading(self, design: Design) -> None:
        self.assertEqual(read_design(write_design(design)), design)

    @slow
    @given(designs(cell_packs))
    def test_all_auto_leaves_no_stop_that_a_wire_or_fuse_could_cure(self, design: Design) -> None:
        found = assess(design)
        assume(curable(found))
        incurable = {"power.inverter-continuous", "power.inverter-surge", "power.inverter-window", "power.converter"}
        stops = [f for f in found.findings if f.severity == "stop" and f.id.startswith("power.") and f.id not in incurable]
        self.assertEqual([f.text for f in stops], [])

    @slow
    @given(designs(cell_packs))
    def test_an_auto_board_never_limits_the_pack(self, design: Design) -> None:
        found = assess(design)
        board = found.pack.build.board
        assert board
        if board.continuous.number < sizes("board").sizes[-1]:
            self.assertLessEqual(found.power.current.number, board.continuous.number)
            self.assertLessEqual(found.power.surge.number, board.burst.number)

    @slow
    @given(designs(cell_packs))
    def test_auto_inverters_serve_up_to_the_largest_sold(self, design: Design) -> None:
        found = assess(design)
        stops = {f.id for f in found.findings}
        for inverter in found.power.inverters.values():
            if inverter.needed.number <= inverter.rating.number and not any(d.surge_s > 5 for d in found.loads.demands.values()):
                self.assertFalse({"power.inverter-continuous", "power.inverter-surge"} & stops)

    @slow
    @given(designs())
    def test_currents_add_up_at_every_node(self, design: Design) -> None:
        power = assess(design).power
        for key, part in power.parts.items():
            if part.node.part in ("protection", "switch", "busbar", "fuse_block"):
                for step in range(len(part.flow.running)):
                    below = sum(power.parts[c].flow.running[step] for c in power.network.children[key])
                    self.assertAlmostEqual(part.flow.running[step], below)

    @slow
    @given(designs())
    def test_fault_current_falls_along_the_path(self, design: Design) -> None:
        power = assess(design).power
        for part in power.parts.values():
            before = power.parts.get(part.node.feed)
            if part.fault and before and before.fault:
                self.assertLessEqual(part.fault.number, before.fault.number + 1e-6)

    @tried(150, suppress_health_check=[HealthCheck.too_slow])
    @given(designs(), st.integers(1, 2))
    def test_energy_is_conserved_in_a_simulation(self, design: Design, days: int) -> None:
        run = simulated(assess(design), days)
        if run.out_wh > 1:
            self.assertLess(abs(run.balance), 0.001)

    @tried(150, suppress_health_check=[HealthCheck.too_slow])
    @given(designs())
    def test_the_load_test_can_be_rehearsed(self, design: Design) -> None:
        steps = write_test_plan(plan_of_test(assess(design)))["steps"]
        self.assertIn(len(steps), (0, 13, 14))


class MoreIsSafer(TestCase):
    @given(gauge_pairs, st.floats(0.1, 20), st.floats(1, 200))
    def test_more_copper_never_raises_the_drop(self, pair: tuple[str, str], length_m: float, amps: float) -> None:
        thin, thick = sorted((wires()[pair[0]], wires()[pair[1]]), key=lambda w: w.area_mm2)
        for school in ("small_craft", "building"):
            drops = []
            for wire in (thin, thick):
                able = conductors.ampacity(wire, school, 40)
                if not able:  # the school gives this gauge nothing to carry: how warm it gets is not known
                    continue
                warm = conductors.conductor_temperature(40, conductors.limiting_temperature(wire, school, 105), amps, able)
                drops.append(amps * conductors.resistance(2 * length_m, wire.area_mm2, min(warm, 250)))
            if thin.system == thick.system and len(drops) == 2:
                self.assertLessEqual(drops[1], drops[0] + 1e-9)

    @slow
    @given(st.sampled_from(["lantern-lane", "tidewater"]), st.data())
    def test_a_larger_fuse_never_makes_a_sound_wire_safer(self, name: str, data: st.DataObject) -> None:
        base = demo(name)
        keys = [k for k, n in base["power"]["network"].items() if n["part"] == "protection"]
        key = data.draw(st.sampled_from(keys))
        part = judge(base).power.parts[key]
        family = next(f for f in families().values() if part.family and f.label == part.family.value)
        gauges = deepcopy(base)
        for child in judge(base).power.network.segment(key):
            run = judge(base).power.parts[child].run
            if run:
                gauges = put(gauges, f"/power/network/{child}/run/gauge", run.gauge.value)
        unsafe = []
        for rating in family.ratings_a:
            found = judge(put(gauges, f"/power/network/{key}/rating_a", rating)).findings
            unsafe.append(sum(f.id == "power.wire-unprotected" for f in found))
        self.assertEqual(unsafe, sorted(unsafe))

    @given(st.sampled_from(["small_craft", "building"]), st.sampled_from(["awg", "mm2"]))
    def test_school_and_gauge_system_resize_auto_choices_and_nothing_else(self, school: str, system: str) -> None:
        base = put(demo("lantern-lane"), "/power/network/inverter/run/gauge", "50 mm²")
        other = judge(put(put(base, "/brief/wire_school", school), "/brief/gauge_system", system))
        self.assertEqual(other.figures["power/inverter/run/gauge"].value, "50 mm²")
        unit = "AWG" if system == "awg" else "mm²"
        for path, figure in other.figures.items():
            if path.endswith("run/gauge") and figure.choice == "auto":
                self.assertTrue(str(figure.value).endswith(unit), path)
        before = judge(base).figures
        for path in ("loads/energy_day", "pack/usable", "power/current"):
            self.assertEqual(other.figures[path].value, before[path].value)
        # A cable of another size may want more room to bend than the box has: that is said, and is no size.
        self.assertFalse({f.id for f in other.findings if f.severity == "stop" and f.station != "box"})


class DiagramTest(TestCase):
    @slow
    @given(designs())
    def test_symbols_and_labels_do_not_overlap(self, design: Design) -> None:
        drawn = lay_out(assess(design).power.network, True)
        boxes = [b for b in drawn.places if b.w and b.h]
        for i, a in enumerate(boxes):
            for b in boxes[i + 1 :]:
                if a.key != b.key:
                    self.assertFalse(a.overlaps(b), f"{a} over {b}")

    def test_bypass_is_drawn_going_round_the_shunt(self) -> None:
        drawn = lay_out(judge(demo("wobbly-stall")).power.network, True)
        self.assertEqual([line.key for line in drawn.conductors if line.bypass], ["inverter"])
