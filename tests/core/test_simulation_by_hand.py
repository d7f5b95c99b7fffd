"""The simulation against what can be worked out on paper: each case isolates one effect, and its figure is calculated by hand."""

from typing import Any
from unittest import TestCase

from kegcart.core.assess import Assessment
from kegcart.core.bench.rehearse import rehearse
from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.lane import Season
from kegcart.core.simulation.run import Course
from tests.core.samples import document, judge, mains, put, simulated, window

AGE = 0.9
"""Capacity kept, planned for."""
LFP_SOC = (0, 0.05, 0.10, 0.20, 0.30, 0.40, 0.50, 0.60, 0.70, 0.80, 0.90, 1.0)
LFP_V = (2.60, 3.05, 3.20, 3.25, 3.28, 3.295, 3.30, 3.31, 3.325, 3.33, 3.335, 3.42)


def lfp(charge: float) -> float:
    """Rested voltage of a cell, from the table."""
    for (s0, v0), (s1, v1) in zip(zip(LFP_SOC, LFP_V, strict=True), zip(LFP_SOC[1:], LFP_V[1:], strict=True), strict=False):
        if s0 <= charge <= s1:
            return v0 + (v1 - v0) * (charge - s0) / (s1 - s0)
    raise ValueError(charge)


def station(loads: dict[str, Any], network: dict[str, Any] | None = None, **parts: Any) -> dict[str, Any]:
    """Four LFP cells of 100 Ah at 25 °C, one fuse and one outlet; away from 8:00 for 16 hours."""
    path = {
        "fuse": {"part": "protection", "name": "Fuse", "feed": "pack", "run": {"length_m": 0.1}},
        "out": {"part": "outlet", "name": "Outlet", "feed": "fuse", "run": {"length_m": 0.2}},
    }
    pack = {"form": "cells", "chemistry": "lfp", "series": 4, "parallel": 1, "cell": {"capacity_ah": 100, "resistance_mohm": 0.5}}
    brief = {"site_min_c": 25, "site_max_c": 25, "ready_h": 8, "hours_away": 16}
    return document(
        brief=brief | parts.pop("brief", {}),
        loads={"items": loads},
        pack=pack | parts.pop("pack", {}),
        power={"network": path | (network or {})},
        charging=parts.pop("charging", {}),
        bench={"days": 1, **parts},
    )


def heater(watts: float, begin: float, end: float, **more: Any) -> dict[str, Any]:
    return {"name": "Heater", "kind": "heater", "supply": "pack", "watts": watts, "windows": window(begin, end)} | more


def run(data: dict[str, Any], days: int = 1, season: Season = "coldest") -> tuple[Assessment, Course]:
    found = judge(data)
    return found, simulated(found, days, season)


def at(result: Course, hour: float, series: list[float]) -> float:
    """The value of a series at an hour."""
    return series[max(i for i, h in enumerate(result.hour) if h <= hour + 1e-6)]


class Discharge(TestCase):
    def test_charge_falls_by_the_amp_hours_taken(self) -> None:
        _, result = run(station({"h": heater(130, 9, 12)}))
        used_ah = (1 - at(result, 12.2, result.banks[0].charge)) * 100 * AGE
        # 130 W for three hours from a pack that stands near 4 × 3.30 V.
        self.assertAlmostEqual(used_ah, 130 * 3 / (4 * 3.30), delta=0.3)

    def test_terminal_voltage_settles_at_what_the_resistance_leaves(self) -> None:
        found, result = run(station({"h": heater(200, 9, 11)}))
        charge = at(result, 10.9, result.banks[0].charge)
        volts = loaded_voltage(4 * lfp(charge), found.pack.resistance.number + found.power.main_ohm.number, 200)
        assert volts is not None
        behind_main = at(result, 10.9, result.banks[0].volts) - 200 / volts * found.power.main_ohm.number
        self.assertAlmostEqual(behind_main, volts, delta=0.002)

    def test_some_of_the_sag_comes_late(self) -> None:
        found, result = run(station({"h": heater(300, 9, 11)}))
        first, later = at(result, 9.0001, result.banks[0].volts), at(result, 9.1, result.banks[0].volts)
        amps = at(result, 9.1, result.banks[0].amps)
        late_v = 0.4 * found.pack.resistance.number * amps
        fell = (at(result, 9.0001, result.banks[0].charge) - at(result, 9.1, result.banks[0].charge)) * 4 * 0.8
        self.assertAlmostEqual(first - later, late_v + fell, delta=0.3 * late_v)

    def test_a_load_that_cycles_takes_its_duty(self) -> None:
        cooler = heater(60, 9, 15) | {"cycle": {"on_min": 10, "off_min": 20}}
        _, result = run(station({"c": cooler}))
        self.assertAlmostEqual(result.delivered_wh, 60 * 6 / 3, delta=0.5)

    def test_an_inverter_goes_off_with_its_hours_while_its_load_pauses(self) -> None:
        # On from 9:00 to 9:05 of every half hour until 9:45: from 9:35 the load rests, and the inverter idles.
        cooler = heater(60, 9, 9.75, supply="ac") | {"cycle": {"on_min": 5, "off_min": 25}}
        network = {
            "inverter": {"part": "inverter", "name": "Inverter", "feed": "fuse", "rating_w": 600, "idle_w": 12},
            "socket": {"part": "outlet", "name": "Socket", "feed": "inverter"},
        }
        _, result = run(station({"c": cooler}, network))
        self.assertAlmostEqual(at(result, 9.7, result.banks[0].amps) * at(result, 9.7, result.banks[0].volts), 12, delta=0.1)
        for hour in (8.9, 9.9):  # nothing but what its board draws
            self.assertAlmostEqual(at(result, hour, result.banks[0].amps), 0.0015, delta=0.0002)

    def test_a_start_is_seen_for_as_long_as_it_lasts(self) -> None:
        pump = heater(100, 9, 10) | {"kind": "pump", "surge": 4, "surge_s": 2}
        found, result = run(station({"p": pump}))
        self.assertAlmostEqual(result.delivered_wh, 100 + 300 * 2 / 3600, delta=0.01)
        immediate = 0.6 * found.pack.resistance.number
        volts = loaded_voltage(4 * lfp(1), immediate + found.power.main_ohm.number, 400)
        assert volts is not None
        self.assertAlmostEqual(max(result.banks[0].amps), 400 / volts, delta=0.05)

    def test_cold_cells_give_their_share(self) -> None:
        warm, cold = (run(station({"h": heater(50, 9, 12)}, brief={"site_min_c": c}))[1] for c in (25, 0))
        self.assertAlmostEqual((1 - cold.banks[0].lowest_charge) / (1 - warm.banks[0].lowest_charge), 1 / 0.88, delta=0.02)

    def test_it_begins_at_the_charge_that_the_bench_says(self) -> None:
        _, result = run(station({"h": heater(10, 9, 10)}, start_charge=0.6))
        self.assertEqual(result.banks[0].charge[0], 0.6)
        self.assertAlmostEqual(result.banks[0].volts[0], 4 * lfp(0.6), delta=0.0001)


class CutOffs(TestCase):
    def test_the_pack_runs_down_to_its_board_and_gives_what_lies_above(self) -> None:
        found, result = run(station({"h": heater(40, 8, 24)}, brief={"hours_away": 48}, pack={"cell": {"capacity_ah": 30}}), 2)
        cut = next(e for e in result.events if e.kind == "cutoff")
        self.assertIn("protection board opens", cut.text)
        # The area under the curve, from full to empty, less what resistance takes.
        area = sum((a + b) / 2 * (t - s) for a, b, s, t in zip(LFP_V, LFP_V[1:], LFP_SOC, LFP_SOC[1:], strict=False))
        self.assertAlmostEqual(result.delivered_wh / (4 * area * 30 * AGE), 1, delta=0.02)
        self.assertGreater(found.pack.cutoff.number, 0)

    def test_a_cut_off_stays_until_the_charger_comes(self) -> None:
        _, result = run(station({"h": heater(400, 9, 16)}), 2)
        opened = next(e.hour for e in result.events if e.kind == "cutoff")
        closed = next(e.hour for e in result.events if e.kind == "restart")
        self.assertGreaterEqual(closed, 24)
        between = [w for h, w in zip(result.hour, result.delivered_w, strict=True) if opened + 0.01 < h < 16]
        self.assertEqual(max(between, default=0), 0)
        cuts = [e.hour % 24 for e in result.events if e.kind == "cutoff"]
        self.assertAlmostEqual(max(result.dark_h), sum(16 - hour for hour in cuts), delta=0.05)

    def test_an_inverter_goes_before_the_board(self) -> None:
        network = {
            "inverter": {"part": "inverter", "name": "Inverter", "feed": "fuse", "rating_w": 600},
            "socket": {"part": "outlet", "name": "Socket", "feed": "inverter"},
        }
        _, result = run(station({"h": heater(300, 8, 16, supply="ac")}, network))
        kinds = [e.text for e in result.events if e.kind == "cutoff"]
        self.assertIn("Inverter cuts off", kinds[0])
        self.assertFalse(any("board" in text for text in kinds))

    def test_a_surge_beyond_the_burst_opens_the_board(self) -> None:
        pump = heater(100, 9, 10) | {"kind": "pump", "surge": 7, "surge_s": 1}
        _, held = run(station({"p": pump}, pack={"board": {"continuous_a": 60}}))
        _, opened = run(station({"p": pump}, pack={"board": {"continuous_a": 20}}))
        self.assertFalse([e for e in held.events if e.kind == "cutoff"])
        self.assertIn("over-current", next(e.text for e in opened.events if e.kind == "trip"))


class Losses(TestCase):
    def inverter(self, **more: Any) -> dict[str, Any]:
        return {
            "inverter": {"part": "inverter", "name": "Inverter", "feed": "fuse", "rating_w": 1000, **more},
            "socket": {"part": "outlet", "name": "Socket", "feed": "inverter"},
        }

    def test_an_inverter_left_on_idles_all_day(self) -> None:
        _, result = run(station({}, self.inverter(left_on=True, idle_w=9)))
        self.assertAlmostEqual(result.inverter_loss_wh, 9 * 24, delta=0.01)
        self.assertEqual(result.delivered_wh, 0)

    def test_switched_with_its_loads_it_takes_nothing_outside_their_hours(self) -> None:
        load = heater(350, 9, 11, supply="ac")
        _, result = run(station({"h": load}, self.inverter(), pack={"cell": {"capacity_ah": 200}}))
        # 92 % at 35 % load.
        self.assertAlmostEqual(result.inverter_loss_wh, 2 * (350 / 0.92 - 350), delta=0.1)

    def test_a_converter_loses_its_share_and_idles(self) -> None:
        network = {
            "converter": {"part": "converter", "name": "Converter", "feed": "fuse"},
            "twelve": {"part": "outlet", "name": "Twelve", "feed": "converter"},
        }
        _, result = run(station({"h": heater(46, 9, 11, supply="dc_12v")}, network))
        self.assertAlmostEqual(result.converter_loss_wh, 2 * (46 / 0.92 - 46) + 24, delta=0.1)

    def test_cells_and_cables_take_the_square_of_the_current(self) -> None:
        found, result = run(station({"h": heater(240, 9, 10)}, brief={"hours_away": 24}))
        amps = at(result, 9.5, result.banks[0].amps)
        self.assertAlmostEqual(result.wiring_loss_wh, amps**2 * found.power.main_ohm.number, delta=0.02 * result.wiring_loss_wh)
        self.assertAlmostEqual(result.bank_loss_wh, amps**2 * found.pack.resistance.number, delta=0.03 * result.bank_loss_wh)


class Charging(TestCase):
    def test_it_fills_at_the_current_that_is_set(self) -> None:
        _, result = run(station({"h": heater(250, 9, 11)}, charging={"sources": {"in": mains(15)}}), 2)
        plugged = next(e.hour for e in result.events if e.text == "plugged in")
        self.assertEqual(plugged, 24)
        filling = [i for i, h in enumerate(result.hour) if 24 <= h <= 24.5]
        first, last = filling[0], filling[-1]
        taken_ah = (result.banks[0].charge[last] - result.banks[0].charge[first]) * 100 * AGE
        self.assertAlmostEqual(taken_ah, 15 * 0.995 * (result.hour[last] - result.hour[first]), delta=0.002)
        self.assertAlmostEqual(at(result, 24.2, result.banks[0].amps), -15, delta=0.01)

    def test_it_ends_full_and_is_unplugged_in_the_morning(self) -> None:
        _, result = run(station({"h": heater(250, 9, 11)}, charging={"sources": {"in": mains(15)}}), 2)
        texts = [e.text for e in result.events]
        self.assertIn("charging ends at 99 %", texts)
        self.assertIn("unplugged at 99 %", texts)
        used = 1 - min(result.banks[0].charge)
        full = next(e.hour for e in result.events if e.text.startswith("charging ends"))
        self.assertGreaterEqual(full - 24, (used - 0.01) * 100 * AGE / 15 - 0.05)

    def test_without_hours_to_charge_in_the_run_is_the_time_between_charges(self) -> None:
        _, result = run(station({"h": heater(20, 9, 11)}, brief={"hours_away": 48}), 2)
        self.assertFalse([e for e in result.events if e.kind == "charge"])
        self.assertAlmostEqual(result.hour[-1], 8 + 48, places=3)

    def test_loads_run_while_it_charges(self) -> None:
        _, result = run(station({"h": heater(100, 1, 3)}, charging={"sources": {"in": mains(15)}}), 2)
        self.assertAlmostEqual(result.delivered_wh, 2 * 100 * 2, delta=0.5)
        self.assertEqual(max(result.dark_h), 0)


class Heat(TestCase):
    def test_pack_and_air_begin_at_the_site(self) -> None:
        for season, celsius in (("coldest", 4), ("hottest", 33)):
            _, result = run(station({"h": heater(20, 9, 10)}, brief={"site_min_c": 4, "site_max_c": 33}), season=season)
            self.assertEqual((result.banks[0].celsius[0], result.inside_c[0]), (celsius, celsius))

    def test_without_loss_nothing_warms(self) -> None:
        _, result = run(station({"h": heater(1, 9, 10)}))
        self.assertLess(result.hottest_inside_c, 25.05)

    def test_a_better_cooled_box_stays_cooler(self) -> None:
        network = {
            "inverter": {"part": "inverter", "name": "Inverter", "feed": "fuse", "rating_w": 600, "left_on": True, "idle_w": 40}
        }
        rises = [
            run(station({}, network, measured={"walls": {"value": 1 / r, "source": "typed in"}}))[1].hottest_inside_c - 25
            for r in (0.1, 0.2, 0.4)
        ]
        self.assertEqual(rises, sorted(rises))
        # The idle draw, and what it warms cells and cable.
        self.assertAlmostEqual(rises[0], (40 + 0.5) * 0.1, delta=0.1)


class Rehearsed(TestCase):
    def test_the_worst_surge_is_met_by_the_immediate_resistance(self) -> None:
        pump = heater(100, 9, 10) | {"kind": "pump", "surge": 4, "surge_s": 1}
        found = judge(station({"p": pump}))
        surge = next(s for s in rehearse(found) if s.name == "Worst surge")
        self.assertEqual(surge.figures["load"].number, 400)
        amps = surge.figures["current"].number
        arrives = amps * (surge.figures["voltage"].number - amps * found.power.main_ohm.number)
        self.assertAlmostEqual(arrives, 400, delta=0.1)

    def test_steps_warm_the_pack_and_empty_it_a_little(self) -> None:
        steps = rehearse(judge(put(station({"h": heater(300, 9, 10)}), "/power/network/fuse/rating_a", 60)))
        heats = [s.figures["heat"].number for s in steps[:4]]
        self.assertEqual(heats, sorted(heats))
        self.assertGreaterEqual(steps[3].figures["pack_c"].number, steps[0].figures["pack_c"].number)

    def test_half_load_runs_down_in_the_time_the_energy_lasts(self) -> None:
        found = judge(put(station({"h": heater(300, 9, 10)}), "/power/network/fuse/rating_a", 60))
        last = rehearse(found)[-1]
        hours = last.figures["time"].number / 60
        self.assertAlmostEqual(last.figures["energy"].number, hours * last.figures["load"].number, delta=1)
        self.assertAlmostEqual(last.figures["charge"].number / (100 * AGE * 0.983), 1, delta=0.03)

    def test_without_loads_and_inverter_there_is_nothing_to_rehearse(self) -> None:
        self.assertEqual(rehearse(judge(station({}))), [])
