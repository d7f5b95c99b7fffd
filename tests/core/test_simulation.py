"""The physics in time by itself: worked examples of the trade, a run second by second in plain code, one lane against many."""

from dataclasses import replace
from random import Random
from typing import Any
from unittest import TestCase

from kegcart.core.lane import Season, curve_of, lane_of, plan_of, weather
from kegcart.core.reference import Chemistry, chemistries, cold_rows, constant, interpolate
from kegcart.core.simulation.inputs import (
    BoardLimits,
    Branch,
    CellBank,
    CellGroup,
    Fan,
    Feed,
    Lane,
    LeadAcid,
    LoadDraw,
    Loss,
    Overload,
    Plan,
    Surroundings,
    Threshold,
)
from kegcart.core.simulation.run import Course, simulate, simulate_many
from tests import PROVING
from tests.core.samples import DEMO_NAMES, demo, judge
from tests.core.second_by_second import Told, run_plain

STILL = ((25.0, 1.0, 1.0),)
"""Cells that no temperature changes."""
NEVER_H = 1e6


def bank(key: str, series: int, ah: float, ohm: float, **more: Any) -> CellBank:
    """A bank of a chemistry with its typical curve, one group, and nothing that opens."""
    row = chemistries()[key]
    fields: dict[str, Any] = {
        "name": "the pack",
        "curve": curve_of(row),
        "groups": (CellGroup(1.0, 1 / series, series),),
        "capacity_ah": ah,
        "resistance_ohm": ohm,
        "late_share": 0.4,
        "late_s": 45.0,
        "coulombic": row.coulombic,
        "own_w": 0.0,
        "heat_j_k": 30_000.0,
        "heat_w_k": 2.0,
        "charge_min_c": row.charge_min_c,
    }
    return CellBank(**{**fields, **more})


def lane(*banks: CellBank, parts: tuple[Branch, ...] = (), loads: tuple[LoadDraw, ...] = (), **more: Any) -> Lane:
    """A lane at 25 °C in a large box, a day that is never plugged in."""
    plan = more.pop("plan", Plan(0, 24, NEVER_H, NEVER_H, start_charge=1.0))
    around, cold = more.pop("around", Surroundings(25, 1e6, 1e9)), more.pop("cold", STILL)
    return Lane(banks, parts, loads, around, plan, cold, more.pop("feeds", ()))


def lead(key: str, ah: float) -> LeadAcid:
    row = chemistries()[key]
    return LeadAcid(row.peukert or 1, ah / 20, constant("peukert_recovery"), row.acceptance or 1e9, constant("lead_polarise"))


def charger(amps: float, volts: float, tail: float, **more: Any) -> Feed:
    """What charges the first bank while it is plugged in."""
    return Feed("charger", 0, amps, volts, tail, **more)


def charged(of: CellBank, by: Feed, start: float, hours: float = 24) -> Course:
    """A bank that does nothing but charge from the first moment on."""
    return simulate(lane(of, plan=Plan(0, hours, NEVER_H, 0.0, start_charge=start), feeds=(by,)))


def charge_at(course: Course, hour: float) -> float:
    """State of charge at an hour."""
    return interpolate(hour, course.hour, course.banks[0].charge)


def ends_at(course: Course) -> float:
    """Hour in which the charge ends."""
    return next(e.hour for e in course.events if "charging ends" in e.text or e.text == "full")


class OfLead(TestCase):
    def test_a_high_rate_gives_less_by_peukert(self) -> None:
        # 100 Ah (20 h) AGM at 40 A, k 1.12: 1.95 h, 77.9 Ah. A load of constant current draws it.
        of = bank("agm", 6, 100, 0.0, late_share=0.0, resistance_ohm=1e-6, lead=lead("agm", 100))
        load = LoadDraw("lamp", 0, 40 * 12, ((0, 24),), law="current", volts=12.0)
        course = simulate(lane(of, parts=(Branch("out", 0, None, 0.0),), loads=(load,)))
        empty = next(e for e in course.events if "empty" in e.text)
        self.assertAlmostEqual(empty.hour, 1.95, delta=0.005)
        self.assertAlmostEqual((1 - charge_at(course, empty.hour)) * 100, 77.9, delta=0.1)

    def test_rest_gives_back_what_the_rate_left(self) -> None:
        of = bank("agm", 6, 100, 0.0, resistance_ohm=1e-6, lead=lead("agm", 100))
        hard = LoadDraw("winch", 0, 40 * 12, ((0, 1.9),), law="current", volts=12.0)
        soft = LoadDraw("lamp", 0, 12, ((12, 24),), law="current", volts=12.0)
        course = simulate(lane(of, parts=(Branch("out", 0, None, 0.0),), loads=(hard, soft)))
        self.assertEqual([e.text for e in course.events], [])
        self.assertAlmostEqual(charge_at(course, 24), 1 - (40 * 1.9 + 12) / 100, delta=0.001)

    def test_it_accepts_less_and_less(self) -> None:
        # AGM 100 Ah from 50 % at 20 A: bulk 0.526 h to 60 %, then 6.31 h to 98 %: 6.83 h.
        course = charged(bank("agm", 6, 100, 0.005, lead=lead("agm", 100)), charger(20, 14.4, 1.0), 0.5)
        self.assertAlmostEqual(charge_at(course, 0.526), 0.60, delta=0.002)
        self.assertAlmostEqual(
            next(h for h, s in zip(course.hour, course.banks[0].charge, strict=True) if s >= 0.98), 6.83, delta=0.05
        )

    def test_no_board_opens_it(self) -> None:
        of = bank("agm", 6, 100, 0.005, lead=lead("agm", 100))
        load = LoadDraw("heater", 0, 600, ((0, 24),))
        texts = " ".join(e.text for e in simulate(lane(of, parts=(Branch("out", 0, None, 0.01),), loads=(load,))).events)
        self.assertIn("the pack is empty: nothing cut off before", texts)
        self.assertNotIn("board", texts)


class OfAnEmptyBank(TestCase):
    def test_no_more_is_taken_than_there_is(self) -> None:
        # 50 mAh at 16 A: what is there lasts eleven seconds, and a step of half a second is five parts in a hundred of it.
        of = bank("lfp", 1, 0.05, 0.002, coulombic=1.0)
        load = LoadDraw("heater", 0, 50, ((0, 1),))
        course = simulate(lane(of, parts=(Branch("out", 0, None, 0.001),), loads=(load,)))
        self.assertGreater(course.out_wh, 0.1)
        self.assertLess(abs(course.balance), 1e-3)


class OfCharging(TestCase):
    def test_nmc_constant_current_and_taper(self) -> None:
        # 14S, 46.4 Ah, 59.5 mΩ, 58.1 V, tail 0.05 C, from 25 %, no loss of charge: 3.00 h at 0.25 C, 1.68 h at 0.5 C.
        for rate, hours in ((0.25, 3.00), (0.5, 1.68)):
            of = bank("nmc", 14, 46.4, 0.0595, coulombic=1.0)
            course = charged(of, charger(rate * 46.4, 58.1, 0.05 * 46.4), 0.25)
            self.assertAlmostEqual(ends_at(course), hours, delta=0.015)
            self.assertAlmostEqual(course.banks[0].last_charge, 0.964, delta=0.002)

    def test_lfp_has_two_tops(self) -> None:
        # 8S 207 Ah, 3.70 mΩ, 45 A, from 38.1 %: 27.6 V 2.82 h to 99.2 %; 28.0 V 2.83 h, 99.6 %; 28.4 V 2.85 h, 100 %.
        for volts, hours, full in ((27.6, 2.82, 0.992), (28.0, 2.83, 0.996), (28.4, 2.85, 1.0)):
            of = bank("lfp", 8, 207, 0.0037, coulombic=1.0)
            course = charged(of, charger(45, volts, 0.05 * 207), 0.381)
            self.assertAlmostEqual(ends_at(course), hours, delta=0.02)
            self.assertAlmostEqual(course.banks[0].last_charge, full, delta=0.002)
        # To the brim that is 128 Ah, and at 26.9 V in the mean, through a charger of 0.90, 3830 Wh from the wall.
        self.assertAlmostEqual((course.banks[0].last_charge - 0.381) * 207, 128, delta=0.5)
        self.assertAlmostEqual(course.given_wh[0] / 0.9 / 3830, 1, delta=0.01)

    def test_loads_take_theirs_first(self) -> None:
        of = bank("lfp", 8, 200, 0.0037, coulombic=1.0)
        load = LoadDraw("lamp", 0, 26 * 10, ((0, 24),), law="current", volts=26.0)
        plan = Plan(0, 2, NEVER_H, 0.0, start_charge=0.4)
        course = simulate(
            lane(of, parts=(Branch("out", 0, None, 0.0),), loads=(load,), plan=plan, feeds=(charger(30, 28.0, 10),))
        )
        self.assertAlmostEqual(charge_at(course, 1.5) - 0.4, 20 * 1.5 / 200, delta=0.002)


class OfSources(TestCase):
    """Several sources of one bank: each gives what its set point, its way and its hours allow."""

    def test_free_steps_agree_with_one_second_steps(self) -> None:
        # LFP, NMC and AGM with taper, by one charger and by three unlike ones: 0.1 % of energy, 1 % of time.
        for key, series, volts in (("lfp", 8, 27.6), ("nmc", 14, 58.1), ("agm", 6, 14.4)):
            for more in ((), self.unlike(volts)) if PROVING or key == "lfp" else (self.unlike(volts),):
                of = bank(key, series, 100, 0.02, lead=lead(key, 100) if key == "agm" else None)
                feeds = (charger(20, volts, 2, absorb_s=8 * 3600), *more)
                what = lane(of, plan=Plan(0, 14, NEVER_H, 0.0, start_charge=0.3), feeds=feeds)
                free, fixed = simulate(what), simulate(what, step_s=1.0)
                for one, other in zip(free.given_wh, fixed.given_wh, strict=True):
                    self.assertAlmostEqual(one, other, delta=0.001 * fixed.charged_wh)
                nearly = fixed.banks[0].last_charge - 0.005
                hours = [interpolate(nearly, run.banks[0].charge, run.hour) for run in (free, fixed)]
                self.assertAlmostEqual(hours[0], hours[1], delta=0.01 * hours[1])
                # What they gave is in the cells, or lost in bank and leads.
                self.assertAlmostEqual(
                    free.charged_wh, free.bank_loss_wh + free.wiring_loss_wh - free.chemical_wh, delta=0.001 * free.charged_wh
                )

    def unlike(self, volts: float) -> tuple[Feed, ...]:
        """One behind a diode and a long lead, in two stretches of hours; one that is limited by its power, and holds."""
        behind = charger(10, volts + 0.3, 0.5, threshold_v=0.24, ohm=0.05, hours=((0, 1, 1e9), (2, 3, 1e9)))
        return behind, charger(50, 0.99 * volts, 1, float_v=0.96 * volts, hours=((0, 6, 150.0),), ends="its current")

    def test_a_diode_and_a_long_lead_take_theirs(self) -> None:
        # 8S LFP at 28.25 V behind a Schottky diode: at the end, 1 A, the pack stands at 28.0 V.
        by = charger(20, 28.25, 1.0, threshold_v=0.24, ohm=0.0105, ends="its current")
        course = charged(bank("lfp", 8, 100, 0.02), by, 0.9)
        self.assertAlmostEqual(max(course.banks[0].volts), 28.0, delta=0.005)

    def test_a_load_hides_the_tail_from_a_charger_that_minds_its_own_current(self) -> None:
        load = LoadDraw("lamp", 0, 130, ((0, 24),))
        ran = {}
        for ends in ("its current", "pack current"):
            what = lane(
                bank("lfp", 8, 100, 0.01), parts=(Branch("out", 0, None, 0.0),), loads=(load,),
                plan=Plan(0, 12, NEVER_H, 0.0, start_charge=0.8), feeds=(charger(20, 27.6, 3, ends=ends),),
            )  # fmt: skip
            ran[ends] = [e.text for e in simulate(what).events]
        self.assertTrue(any("charging ends" in text for text in ran["pack current"]))
        self.assertFalse(any("charging ends" in text for text in ran["its current"]))

    def test_it_gives_nothing_through_what_stands_open(self) -> None:
        relay = Branch("relay", 0, None, 0.001, threshold=Threshold(26.5, 27.5, 2, 60))
        parts = (relay, Branch("out", 0, 0, 0.0))
        load = LoadDraw("lamp", 1, 200, ((0, 1),))
        plan = Plan(0, 4, NEVER_H, 0.0, start_charge=0.5)
        for part, charge in ((1, 0.5), (None, 0.9)):
            course = simulate(
                lane(bank("lfp", 8, 50, 0.03), parts=parts, loads=(load,), plan=plan, feeds=(charger(10, 28, 2, part=part),))
            )
            self.assertAlmostEqual(course.banks[0].last_charge, charge, delta=0.1)

    def test_another_station_is_empty_at_last(self) -> None:
        course = charged(bank("lfp", 8, 100, 0.01), charger(10, 28, 2, holds_wh=250), 0.2)
        self.assertAlmostEqual(course.given_wh[0], 250, delta=1)

    def test_it_fills_again_once_the_voltage_has_sunk(self) -> None:
        load = LoadDraw("lamp", 0, 100, ((2, 24),))
        plan = Plan(0, 24, NEVER_H, 0.0, start_charge=0.97)
        by = charger(30, 57.4, 2, recharge_v=56.0)
        course = simulate(
            lane(bank("nmc", 14, 40, 0.05), parts=(Branch("out", 0, None, 0.0),), loads=(load,), plan=plan, feeds=(by,))
        )
        self.assertGreater(sum("charging ends" in e.text for e in course.events), 2)
        self.assertGreater(course.banks[0].lowest_charge, 0.8)

    def test_a_pad_that_the_charger_feeds_ends_the_lock_of_the_cold(self) -> None:
        # 33.4 kg, 10 K in 2.80 h by 60 W where the box loses 4.43 W/K; without the pad nothing is ever charged.
        cells = {"heat_j_k": 33_400.0, "heat_w_k": 4.43, "charge_min_c": 0.0, "board": replace(BOARD, lock_below_c=8.0)}
        around, plan = Surroundings(0, 1e6, 1e9), Plan(0, 6, NEVER_H, 0.0, start_charge=0.3)
        for watts in (60.0, 0.0):
            of = bank("lfp", 4, 100, 0.005, pad_w=watts, pad_until_c=12.0, **cells)
            course = simulate(lane(of, plan=plan, around=around, feeds=(charger(10, 14.0, 3),)))
            free = [event.hour for event in course.events if "free again" in event.text]
            if watts:
                self.assertAlmostEqual(free[0], 2.80, delta=0.05)
                self.assertGreater(course.banks[0].last_charge, 0.5)
                self.assertAlmostEqual(course.balance, 0, delta=0.02)
            else:
                self.assertAlmostEqual(course.banks[0].last_charge, 0.3, delta=0.01)

    def test_what_stands_inside_warms_the_box(self) -> None:
        around = Surroundings(20, 1 / 0.23, 6000)
        plan = Plan(0, 2, NEVER_H, 0.0, start_charge=0.1)
        beside, inside = (
            simulate(
                lane(
                    bank("lfp", 8, 200, 1e-4, heat_w_k=1e-6), plan=plan, around=around, feeds=(charger(45, 28, 10, inside=share),)
                )
            )
            for share in (0.0, 0.1 / 0.9)
        )
        watts = inside.charged_wh / 2
        self.assertAlmostEqual(inside.hottest_inside_c - beside.hottest_inside_c, 0.23 * watts / 9, delta=1.5)


class Schedules(TestCase):
    def ran(self, load: LoadDraw, **more: Any) -> Course:
        of = bank("lfp", 4, 1000, 1e-5)
        return simulate(lane(of, parts=(Branch("out", 0, None, 0.0),), loads=(load,), **more))

    def test_a_start_that_outlasts_its_load_ends_with_it(self) -> None:
        cycling = LoadDraw("pump", 0, 100, ((1, 2),), surge_w=200, surge_s=60, cycle_s=(30, 90))
        self.assertAlmostEqual(self.ran(cycling).delivered_wh, 300 * 30 * 30 / 3600, delta=0.01)
        self.assertAlmostEqual(
            self.ran(LoadDraw("horn", 0, 100, ((1, 1.01),), surge_w=50, surge_s=36)).delivered_wh, 1.5, delta=0.001
        )

    def test_hours_that_meet_are_one(self) -> None:
        course = self.ran(LoadDraw("lamp", 0, 60, ((1, 2), (2, 3))))
        self.assertAlmostEqual(course.delivered_wh, 120, delta=0.01)

    def test_the_pattern_repeats(self) -> None:
        plan = Plan(6, 6 + 72, NEVER_H, NEVER_H, pattern_h=48)
        self.assertAlmostEqual(self.ran(LoadDraw("lamp", 0, 60, ((10, 12),)), plan=plan).delivered_wh, 240, delta=0.01)


class Heat(TestCase):
    def test_the_air_inside_warms_with_its_time_constant(self) -> None:
        # τ_box = 0.23 · 6000 = 1380 s; 120 W for 20 min: +16.0 K, with a pack that takes next to none of it.
        of = bank("lfp", 4, 100, 1e-6, heat_w_k=1e-6)
        course = simulate(
            lane(
                of,
                parts=(Branch("coil", 0, None, 0.0, draw_w=120),),
                around=Surroundings(30, 1 / 0.23, 6000),
                plan=Plan(0, 1 / 3, NEVER_H, NEVER_H),
            )
        )
        self.assertAlmostEqual(course.inside_c[-1] - 30, 16.0, delta=0.1)

    def test_two_nodes_come_to_rest(self) -> None:
        # 30 °C outside, box 0.23 K/W, 120 W inside and 30 W in a pack at 0.6 K/W: air 64.5 °C, pack 82.5 °C.
        ohm = 30 / 10**2
        of = bank("lfp", 8, 1e6, ohm, late_share=0.0, heat_w_k=1 / 0.6, heat_j_k=33_400)
        loads = (LoadDraw("lamp", 0, 100, ((0, 24),), law="current", volts=10.0),)
        parts = (Branch("out", 0, None, 0.0), Branch("coil", 0, None, 0.0, draw_w=120.0))
        course = simulate(
            lane(of, parts=parts, loads=loads, around=Surroundings(30, 1 / 0.23, 6000), plan=Plan(0, 72, NEVER_H, NEVER_H, 72))
        )
        pack_w = course.banks[0].amps[-1] ** 2 * ohm
        air = 30 + 0.23 * (120 + pack_w)
        self.assertAlmostEqual(course.inside_c[-1], air, delta=0.3)
        self.assertAlmostEqual(course.banks[0].celsius[-1], air + 0.6 * pack_w, delta=0.5)


BOARD = BoardLimits(2.5, 2.9, 3.65, 60, 120, 5, 40, 2, 60, 0, 45)
PARTS = (
    Branch("shunt", 0, None, 0.0005),
    Branch("relay", 0, 0, 0.002, draw_w=6.0, threshold=Threshold(11.9, 12.5, 2, 60)),
    Branch("inverter", 0, 0, 0.001, output_v=230, loss=Loss(8, 0.03, 6e-5), threshold=Threshold(11.2, 12.2, 2, 60)),
    Branch("socket", 0, 2, 0.1),
    Branch("converter", 0, 1, 0.003, output_v=12.0, loss=Loss(1, 0.087, 0.0)),
    Branch("lamp", 0, 4, 0.02),
    Branch("port", 0, 1, 0.01, draw_w=0.3),
    Branch("heater", 0, 0, 0.01),
)
LOADS = (
    LoadDraw("kettle", 3, 350, ((0.2, 0.9), (1.5, 3.4)), va=1.1),
    LoadDraw("pump", 3, 80, ((0.1, 3.5),), surge_w=250, surge_s=2, cycle_s=(300, 240)),
    LoadDraw("lamp", 5, 40, ((0, 4),)),
    LoadDraw("tablet", 6, 18, ((0, 4),), taken=1 / 0.9),
    LoadDraw("plate", 7, 120, ((0.5, 4),), law="resistance", volts=12.8),
    LoadDraw("fan", 7, 30, ((0, 4),), law="current", volts=12.0),
)


def random_feeds(chance: Random, row: Chemistry, series: int, ah: float) -> tuple[Feed, ...]:
    """A charger while it is plugged in, and by chance one or two more by the hour, behind a diode, a fuse, by their own end."""
    volts = row.knee_v * series
    out = [charger(chance.uniform(5, 30), volts, row.tail * ah, absorb_s=chance.choice([600, 36_000]))]
    for _ in range(chance.randint(0, 2)):
        hour, more = (
            chance.choice([0.0, 0.5, 1.0, 1.25]),
            {"ends": chance.choice(["its current", "pack current", "time", "never"])},
        )
        hours = ((hour, hour + 0.5, chance.uniform(20, 400)), (hour + 0.5, hour + 1, 1e9))
        diode = chance.choice([{}, {"threshold_v": 0.24, "ohm": 0.0105}, {"ohm": chance.uniform(0, 0.05)}])
        where = {"part": chance.choice([None, 1, 7]), "float_v": chance.choice([0.0, 0.96 * volts]), "recharge_v": 0.94 * volts}
        more |= {**diode, **where, "absorb_s": chance.choice([600, 36_000]), "holds_wh": chance.choice([30.0, 1e9])}
        out.append(charger(chance.uniform(2, 20), volts * chance.uniform(0.97, 1.01), row.tail * ah, hours=hours, **more))
    return tuple(out)


def busy(of: CellBank, feeds: tuple[Feed, ...], **more: Any) -> Lane:
    """Four hours of everything at once, then an hour at the charger: what can act, acts."""
    parts = list(PARTS)
    stands = more.pop("stands", Overload(420, 800, 5, 40, 0.01))
    parts[2] = replace(parts[2], overload=stands, with_loads=True, inverts=True)
    around = more.pop("around", Surroundings(2, 1 / 0.23, 6000))
    plan = more.pop("plan", Plan(0, 5, 5, 4, start_charge=0.9))
    return lane(of, parts=tuple(parts), loads=LOADS, around=around, plan=plan, cold=cold_rows(), feeds=feeds, **more)


def random_lane(chance: Random) -> Lane:
    """Two hours and some at the charger of a bank, loads and limits by chance."""
    key = chance.choice(["lfp", "nmc", "agm"])
    row, series = chemistries()[key], {"lfp": 4, "nmc": 4, "agm": 6}[key]
    ah, far = chance.uniform(20, 80), chance.uniform(25, 70)
    limits = (row.v_min, row.v_min + 0.4, row.v_max + 0.05, far, 2 * far, 5, chance.uniform(5, 40), 2, 60, row.charge_min_c, 45)
    of = bank(
        key,
        series,
        ah,
        chance.uniform(0.003, 0.03),
        own_w=0.1,
        board=None if key == "agm" else BoardLimits(*limits),
        lead=lead(key, ah) if key == "agm" else None,
    )
    around = Surroundings(chance.uniform(-10, 40), 1 / 0.23, 6000)
    plan = Plan(0, 2.5, 2.5, 2, start_charge=chance.uniform(0.4, 1))
    # Nothing trips here: whether it does within a hair of its limit would decide the rest of a run.
    stands = Overload(1200, 2400, 5, 40, 0.01)
    of = busy(of, random_feeds(chance, row, series, ah), around=around, plan=plan, stands=stands)
    loads = tuple(replace(load, watts=load.watts * chance.uniform(0.2, 1.3)) for load in of.loads)
    return replace(of, loads=loads)


SUNNY = Surroundings(24, 3.0, 5000, 4.2, draught_w=0.3, sun_w=120.0, rises_h=0.5, sets_h=7.0)
FANS = (Fan(5.0, True, "thermostat", 33, 29), Fan(3.0, False, "inverter", 0, 0), Fan(2.0, False, "thermostat", 34, 34))
"""One by a thermostat, one with the inverter the other way, and one whose thermostat is set without any band."""


def lanes() -> dict[str, Lane]:
    """LFP at the freezing point, NMC in the heat with a board too small, AGM without one."""
    lfp = bank("lfp", 4, 60, 0.008, board=BOARD, own_w=0.05, heat_j_k=4000.0, heat_w_k=0.5)
    nmc = bank(
        "nmc", 4, 60, 0.02, board=replace(BOARD, cell_min_v=2.8, release_v=3.1, cell_max_v=4.25, continuous_a=40, burst_a=80)
    )
    agm = bank("agm", 6, 70, 0.006, lead=lead("agm", 70))
    weak = replace(lfp, resistance_ohm=0.07)
    slow = replace(lfp, board=replace(BOARD, continuous_a=30, burst_a=60))
    relay = (Branch("relay", 0, None, 0.002, draw_w=3, threshold=Threshold(12.5, 12.8, 2, 60)), Branch("lamp", 0, 0, 0.01))
    return {
        "hiccup": lane(
            weak,
            parts=relay,
            loads=(LoadDraw("lamp", 1, 300, ((0, 2),)),),
            plan=Plan(0, 2.5, 2.5, 2, start_charge=0.4),
            feeds=(charger(8, 14.0, 3),),
        ),
        "short overload": lane(
            slow,
            parts=relay,
            loads=(LoadDraw("lamp", 1, 90, ((0, 2),)), LoadDraw("kettle", 1, 450, ((0.5, 0.515),))),
            plan=Plan(0, 2, NEVER_H, NEVER_H),
        ),
        "too strong a charger": busy(lfp, (charger(50, 14.0, 3),), around=Surroundings(15, 1 / 0.23, 6000)),
        "lfp": busy(lfp, (charger(50, 14.0, 3),), around=Surroundings(-6, 1 / 0.23, 6000)),
        "nmc": busy(nmc, (charger(15, 16.6, 3),), around=Surroundings(33, 1 / 0.23, 6000)),
        "a pad": busy(
            replace(lfp, pad_w=25.0, pad_until_c=4.0), (charger(20, 14.0, 3),), around=Surroundings(-6, 1 / 0.23, 6000)
        ),
        "the sun": busy(agm, (charger(20, 14.4, 0.7, hours=((0, 1, 90.0), (1, 1.5, 20.0), (25, 26, 9.0)), repeats_h=48.0),)),
        "agm": busy(agm, (charger(10, 14.4, 0.7),), around=Surroundings(15, 1 / 0.23, 6000)),
        "fans in the sun": busy(nmc, (charger(15, 16.6, 3),), around=replace(SUNNY, fans=FANS)),
        "vents in the sun": busy(lfp, (charger(50, 14.0, 3),), around=SUNNY),
    }


EACH_ACTS = ("hiccup", "short overload", "too strong a charger", "nmc", "agm", "lfp")
"""Those in which everything acts: the rest are for `prove`."""
ACTED = ("trips", "cuts off", "is on again", "board opens", "locked", "empty", "stops the charge", "over-current")
"""What must have acted in one lane or another, or the comparison says too little."""


TELLING = (0, 15, 23, 104)
"""Of the random lanes, those of each day: the first, a start just before a cut-off, an overload that grows within a step, and a
charger short of what the loads of a locked pack take at its voltage."""
FINER_S = 0.25
"""The ticks of a plain run where something acts, or does not, within a second."""


def apart(free: Course, plain: Told, of: Lane) -> dict[str, tuple[float, float]]:
    """How much more a run with free steps says than one second by second, and how much it may: 0.1 % of energy, and the second by which
    each thing that opens or closes may be late. What is so given or taken less is left in the charge."""
    pack, acted = of.banks[0], len(plain.happened)
    held_wh = pack.capacity_ah * sum(group.cells * pack.cell_voltage(group, 0.5) for group in pack.groups)
    given, taken = free.delivered_wh - plain.delivered_wh, free.charged_wh - plain.charged_wh
    most_wh = 0.001 * plain.delivered_wh + 0.01 + acted * sum(load.watts for load in of.loads) / 3600
    left = free.banks[0].last_charge - plain.charges[-1] + (given - taken) / held_wh
    dark = {f"dark {part}": (free.dark_h[part] - hours, 0.002 + acted / 3600) for part, hours in plain.dark_h.items()}
    # Each that acts late leaves its power a second longer in the box.
    late_k = acted * sum(load.watts for load in of.loads) / of.around.box_j_k / 20
    heat = {"hottest": (free.hottest_inside_c - max(plain.hottest_c, of.around.outside_c), 0.2 + late_k)}
    return {"delivered": (given, most_wh), "charged": (taken, most_wh), "charge": (left, 0.001), **heat, **dark}


class Independent(TestCase):
    takes_long = True

    def agree(self, of: Lane) -> Course:
        """A run second by second in plain code and one with free steps give the same.

        Where something acts within a second, that decides the rest of a run: then the free one lies between it and a finer one.
        """
        free = simulate(of)
        told = [apart(free, run_plain(of), of)]
        if any(abs(more) > most for more, most in told[0].values()):
            told.append(apart(free, run_plain(of, FINER_S), of))
        for name in told[0]:
            ways = [one[name] for one in told if name in one]
            self.assertLessEqual(min(more - most for more, most in ways), 0, f"{name}: {ways}")
            self.assertGreaterEqual(max(more + most for more, most in ways), 0, f"{name}: {ways}")
        return free

    def test_a_run_second_by_second_in_plain_code_agrees(self) -> None:
        """With cut-offs, locks, trips and hiccups acting, for LFP, NMC and AGM."""
        every = lanes()
        told = " ".join(event.text for name in (every if PROVING else EACH_ACTS) for event in self.agree(every[name]).events)
        for what in ACTED:
            self.assertIn(what, told)
        self.assertIn("comes back, and drops again", told)

    def test_random_lanes_agree_too(self) -> None:
        chance = Random(10)
        every = [random_lane(chance) for _ in range(120)]
        for of in every if PROVING else [every[n] for n in TELLING[::2]]:
            self.agree(of)


class Lanes(TestCase):
    def test_one_lane_and_many_agree(self) -> None:
        seasons: tuple[Season, ...] = ("coldest", "hottest")
        built = [judge(demo(name)) for name in DEMO_NAMES]
        many = [lane_of(found, weather(found, season), plan_of(found, 2)) for found in built for season in seasons]
        told: list[int] = []
        together = list(simulate_many(many, lambda done: not told.append(done)))
        self.assertEqual(told, list(range(1, len(many) + 1)))
        for one, of in zip(together, many, strict=True):
            alone = simulate(of)
            self.assertEqual((one.delivered_wh, one.banks[0].last_charge), (alone.delivered_wh, alone.banks[0].last_charge))
            self.assertEqual(one.hour, [])
        self.assertEqual(len(list(simulate_many(many, lambda done: done < 2))), 2)

    def test_two_banks_warm_one_box(self) -> None:
        """What the second bank loses warms the first."""
        first = bank("lfp", 4, 100, 0.005)
        second = replace(first, name="the other", resistance_ohm=0.1)
        load = LoadDraw("lamp", 1, 200, ((0, 24),))
        parts = (Branch("out", 0, None, 0.0), Branch("out", 1, None, 0.0))
        course = simulate(
            lane(first, second, parts=parts, loads=(load,), around=Surroundings(20, 4, 6000), plan=Plan(0, 4, NEVER_H, NEVER_H))
        )
        self.assertEqual(course.banks[0].amps[-2], 0)
        self.assertGreater(course.banks[1].amps[-2], 15)
        self.assertGreater(course.banks[0].hottest_c, 20.5)
