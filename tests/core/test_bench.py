"""The simulation and the rehearsal: what the builder reads there must be what the bench will show."""

from unittest import TestCase

from kegcart.core.bench.rehearse import rehearse
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import AtHand, made_up_of, plan_of_test
from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.lane import lane_of, plan_of, weather
from kegcart.core.reference import constant, interpolate
from kegcart.core.simulation.run import simulate
from tests.core.samples import DEMO_NAMES, demo, document, judge, put, simulated


class SimulationTest(TestCase):
    def test_free_steps_agree_with_one_second_steps(self) -> None:
        for name in ("lantern-lane", "wobbly-stall"):
            found = judge(demo(name))
            lane = lane_of(found, weather(found, "hottest"), plan_of(found, 1))
            free, fixed = simulate(lane), simulate(lane, step_s=1.0)
            charges = zip(free.hour, free.banks[0].charge, strict=True)
            worst = max(abs(c - interpolate(h, fixed.hour, fixed.banks[0].charge)) for h, c in charges)
            self.assertLess(worst, 0.005, name)
            self.assertLess(abs(free.delivered_wh / fixed.delivered_wh - 1), 0.001)

    def test_energy_account_closes(self) -> None:
        for name in DEMO_NAMES:
            run = simulated(judge(demo(name)), 3)
            self.assertLess(abs(run.balance), 0.001, name)
            self.assertGreater(run.delivered_wh, 0)

    def test_sound_builds_feed_every_load_and_recover_at_night(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            run = simulated(judge(demo(name)), 3)
            self.assertEqual(max(run.dark_h), 0)
            self.assertGreater(run.banks[0].lowest_charge, 0.15)
            self.assertEqual(sum(e.text.startswith("charging ends") for e in run.events), 3)
            self.assertAlmostEqual(run.banks[0].charge[-1], 1, delta=0.02)  # at 3.45 V a cell, for a long life

    def test_delivered_energy_is_what_the_loads_ask(self) -> None:
        found = judge(demo("lantern-lane"))
        self.assertAlmostEqual(simulated(found, 2).delivered_wh / (2 * found.figures["loads/energy_day"].number), 1, places=3)

    def test_assessment_and_simulation_agree_on_what_the_pack_gives(self) -> None:
        found = judge(put(demo("lantern-lane"), "/brief/site_min_c", 25))
        run = simulated(found, 1)
        used_ah = (1 - run.banks[0].lowest_charge) * 230 * constant("age_factor")
        self.assertAlmostEqual(used_ah * 26.4 / found.figures["power/drawn_away"].number, 1, delta=0.06)

    def test_overload_opens_the_board_and_darkens_the_stall(self) -> None:
        run = simulated(judge(demo("wobbly-stall")), 1)
        self.assertTrue(any("over-current" in e.text for e in run.events))
        self.assertGreater(max(run.dark_h), 1)

    def test_empty_pack_cuts_the_inverter_off_and_charging_restarts_it(self) -> None:
        data = put(demo("lantern-lane"), "/loads/items/fog-machine/windows", {"w1": {"from_h": 9, "to_h": 22}})
        run = simulated(judge(data), 2)
        texts = [e.text for e in run.events]
        self.assertTrue(any("Inverter cuts off" in t for t in texts))
        self.assertIn("protection board closes", texts)
        self.assertGreater(max(w for h, w in zip(run.hour, run.delivered_w, strict=True) if h > 32), 300)
        self.assertGreater(max(run.dark_h), 0)

    def test_cold_pack_sags_more(self) -> None:
        warm = simulated(judge(demo("lantern-lane")), 1, "hottest")
        cold = simulated(judge(demo("lantern-lane")), 1, "coldest")
        self.assertLess(cold.banks[0].lowest_v, warm.banks[0].lowest_v)
        self.assertLess(cold.banks[0].lowest_charge, warm.banks[0].lowest_charge)

    def test_heat_raises_the_inside_by_loss_times_resistance(self) -> None:
        heater = {"name": "Heater", "kind": "heater", "watts": 500, "windows": {"w": {"from_h": 0, "to_h": 24}}}
        inverter = {"part": "inverter", "name": "Inverter", "feed": "f", "rating_w": 1000, "idle_w": 10}
        network = {
            "f": {"part": "protection", "name": "Fuse", "feed": "pack"},
            "i": inverter,
            "o": {"part": "outlet", "name": "O", "feed": "i"},
        }
        data = document(
            loads={"items": {"h": heater}},
            power={"network": network},
            pack={"form": "cells", "series": 8, "parallel": 8, "cell": {"mass_kg": 0.02}},
        )
        run = simulated(judge(put(data, "/bench/measured", {"walls": {"value": 5, "source": "typed in"}})), 1)
        loss_w = (run.inverter_loss_wh + run.wiring_loss_wh) / 24
        self.assertAlmostEqual(run.inside_c[-2], 30 + 0.2 * loss_w, delta=1.5)

    def test_the_converter_draws_its_own_by_its_sheet_round_the_clock(self) -> None:
        before = simulated(judge(demo("lantern-lane")), 1)
        after = simulated(judge(put(demo("lantern-lane"), "/power/network/converter/idle_w", 5)), 1)
        self.assertAlmostEqual(after.converter_loss_wh - before.converter_loss_wh, 4 * 24, delta=1)

    def test_it_is_deterministic(self) -> None:
        found = judge(demo("tidewater"))
        self.assertEqual(simulated(found, 2).banks[0].volts, simulated(found, 2).banks[0].volts)


class RehearsalTest(TestCase):
    def test_steps_of_the_inverter_and_their_order(self) -> None:
        steps = rehearse(judge(demo("lantern-lane")))
        self.assertEqual([s.name for s in steps], ["25% load", "50% load", "75% load", "100% load", "Worst surge", "Run-down"])
        loads = [s.figures["load"].number for s in steps[:4]]
        self.assertEqual(loads, [500, 1000, 1500, 2000])
        volts = [s.figures["voltage"].number for s in steps[:4]]
        self.assertEqual(volts, sorted(volts, reverse=True))

    def test_a_step_agrees_with_the_loaded_voltage_by_hand(self) -> None:
        found = judge(demo("lantern-lane"))
        step = rehearse(found)[0]
        watts = 500 + found.power.inverters["inverter"].curve.loss(500) + 1
        ohm = found.pack.resistance.number * interpolate(20, (10, 25), (1.4, 1.0)) + found.power.main_ohm.number
        used = 5 / 60 * 20 / (230 * 0.9)
        volts = loaded_voltage(found.pack.open_circuit(1 - used), ohm, watts)
        assert volts is not None
        self.assertAlmostEqual(step.figures["current"].number, watts / volts, delta=0.1)

    def test_dc_only_station_is_tested_at_what_its_path_carries(self) -> None:
        found = judge(demo("tidewater"))
        steps = rehearse(found)
        behind = found.power.network.nearest_protections("main-fuse")
        circuits = sum(found.figures[f"power/{key}/rating"].number for key in behind)
        fuse = found.figures["power/main-fuse/rating"].number
        self.assertAlmostEqual(steps[3].figures["load"].number, min(fuse, circuits) / 1.25 * 12.8)

    def test_run_down_ends_at_a_cutoff_and_gives_most_of_the_pack(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            found = judge(demo(name))
            last = rehearse(found)[-1]
            self.assertTrue(last.ends)
            self.assertGreater(last.figures["charge"].number, 0.8 * 0.9 * found.figures["pack/capacity"].number * 0.98)

    def test_overload_is_said(self) -> None:
        steps = rehearse(judge(demo("wobbly-stall")))
        self.assertTrue(any("over-current" in s.ends for s in steps))


class PlanOfTheTest(TestCase):
    """What is to be connected, expected and stopped at, step by step."""

    def test_every_step_says_what_to_connect_and_where_to_stop(self) -> None:
        for name in ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall"):
            plan = plan_of_test(judge(demo(name)))
            keys = [step.key for step in plan.steps]
            with self.subTest(name):
                self.assertEqual(len(keys), len(set(keys)))
                for step in plan.steps:
                    self.assertTrue(step.connect and step.do and step.stops and step.figures, step.key)
                self.assertEqual(keys[-3:], ["run-down", "rest-empty", "recharge"])
                self.assertTrue({act.stage for act in plan.before} <= {"pack", "box", "dead", "power", "ac"})

    def test_cautions_stand_where_the_act_happens(self) -> None:
        cautions = {step.key: step.caution for step in plan_of_test(judge(demo("lantern-lane"))).steps if step.caution}
        self.assertEqual(list(cautions), ["zero", "idle", "trip"])
        self.assertIn("cannot be switched off", cautions["zero"])
        self.assertIn("mains voltage", cautions["idle"])

    def test_stop_lines_are_those_of_the_cells_and_of_the_weakest_part(self) -> None:
        found = judge(demo("lantern-lane"))
        stops = plan_of_test(found).steps[3].stops
        self.assertEqual(stops["cell_low"].number, found.pack.chemistry.v_min)
        self.assertEqual(stops["posts_low"].number, 8 * found.pack.chemistry.v_min)
        self.assertEqual(stops["amps"].number, 120)
        self.assertEqual((stops["spread"].number, stops["joint"].number, stops["cells"].number), (0.1, 40, 55))

    def test_what_is_expected_with_all_off_is_what_the_station_is_learned_to_draw(self) -> None:
        """The plan, and what a test finds out, speak of the same draw: of what hangs behind the posts, the inverter off."""
        for name in DEMO_NAMES:
            found = judge(demo(name))
            step = next(step for step in plan_of_test(found).steps if step.key == "standing")
            unknown = station_of(found).unknowns.get("standing")
            self.assertAlmostEqual(step.figures["load"].number, unknown.assumed.value if unknown else 0.0, 6, name)

    def test_a_load_is_made_up_of_what_the_builder_has(self) -> None:
        plugged = [d for plugged in judge(demo("lantern-lane")).power.plugged.values() for d in plugged]
        loads = [AtHand(d.load.name, d.watts.number, d.load.count) for d in plugged]
        for watts in (20, 55, 140, 333, 500, 900):
            chosen, whole = made_up_of(watts, loads)
            every = [{}]
            for d in loads:  # second calculation: every way of plugging some of each in
                every = [{**way, d.name: n} for way in every for n in range(d.count + 1)]
            sums = [sum(round(d.watts) * way[d.name] for d in loads) for way in every]
            nearest = min(abs(s - watts) for s in sums if s <= 1.1 * watts)
            with self.subTest(watts):
                self.assertEqual(abs(whole - watts), nearest)
                self.assertEqual(sum(n * round(d.watts) for d in loads for n, name in chosen if name == d.name), whole)

    def test_what_is_at_hand_besides_is_plugged_in_too(self) -> None:
        kettle = {"kettle": {"name": "Kettle", "watts": 1900}, "lamp": {"name": "DC lamp", "watts": 20, "ac": False}}
        plan = plan_of_test(judge(put(demo("lantern-lane"), "/bench/test_loads", kettle)))
        full = next(step for step in plan.steps if step.key == "load-100")
        self.assertIn("Kettle", full.connect)
        self.assertNotIn("electronic load", full.connect)
        self.assertFalse(any("DC lamp" in step.connect for step in plan.steps))

    def test_where_nothing_runs_there_is_nothing_to_test(self) -> None:
        self.assertEqual(plan_of_test(judge(document())).steps, ())
