"""The pack worked out a second time: cells, boards, links and strings added up by hand, for any pack the document allows.

Tables of chemistries are read; nothing else is shared with what is checked. Counts that were chosen are taken as they stand,
and shown apart to be the fewest that serve.
"""

from itertools import pairwise
from math import log, sqrt
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.assess import Assessment
from kegcart.core.design import Design, write_design
from kegcart.core.reference import Chemistry, chemistries, families, sizes, wires
from tests import tried
from tests.core.samples import LITHIUM, batteries, cell_packs, designs, document, judge, window

DC_RATIO, AGE = 1.8, 0.9
BOARD_DROP_V, BOARD_KG, BOARD_MONEY = 0.08, 0.6, 60
COLD_C, COLD_SHARE = (-20, -10, 0, 10, 25, 40), (0.60, 0.75, 0.88, 0.95, 1.0, 1.0)


def cold_share(celsius: float) -> float:
    """Capacity left, straight between the rows of the table."""
    if celsius <= COLD_C[0]:
        return COLD_SHARE[0]
    for (a, x), (b, y) in pairwise(zip(COLD_C, COLD_SHARE, strict=True)):
        if celsius <= b:
            return x + (y - x) * (celsius - a) / (b - a)
    return 1.0


def mean_v(row: Chemistry, low: float, high: float) -> float:
    """Mean rested voltage of a cell between two charges, V: trapezoids under the curve."""
    points = np.array(sorted({low, high, *(s for s in row.soc if low < s < high)}))
    return float(np.trapezoid(np.interp(points, row.soc, row.ocv_v), points) / (high - low))


class Calculated(TestCase):
    def alike(self, found: Assessment, path: str, value: float) -> None:
        self.assertAlmostEqual(found.figures[path].number, value, delta=1e-6 * max(1e-3, abs(value)), msg=path)

    def of_all_forms(self, data: dict[str, Any], found: Assessment) -> None:
        """What holds of a pack whatever it is made of."""
        pack, row, brief = data["pack"], chemistries()[data["pack"]["chemistry"]], data["brief"]
        series = found.figures["pack/series"].number
        self.alike(found, "pack/v_nom", series * row.v_nom)
        self.alike(found, "pack/v_max", series * row.v_max)
        self.alike(found, "pack/v_min", series * row.v_min)
        self.alike(found, "pack/v_low", series * row.v_low)
        nominal = found.figures["pack/capacity"].number * series * row.v_nom
        self.alike(found, "pack/nominal", nominal)
        depth = pack["depth"] if pack["depth"] is not None else row.window_high - row.window_low
        age = pack["age_factor"] if pack["age_factor"] is not None else AGE
        rate = found.figures["pack/peukert"].number if row.peukert else 1.0
        bottom = max(row.window_high, depth) - depth
        over_nominal = mean_v(found.pack.chemistry, bottom, bottom + found.pack.reached.number) / row.v_nom
        warm = nominal * over_nominal * depth * age * rate
        self.alike(found, "pack/usable_warm", warm)
        self.alike(found, "pack/usable", warm * cold_share(brief["site_min_c"]))
        self.alike(found, "pack/fault", series * row.v_max / found.figures["pack/fault_resistance"].number)
        limits = [limit[0].number for limit in found.pack.build.limits.values()]
        bursts = [limit[1].number for limit in found.pack.build.limits.values()]
        self.alike(found, "pack/continuous", min(limits))
        self.alike(found, "pack/burst", min(bursts))
        self.alike(found, "pack/cost_per_kwh", 1000 * found.figures["pack/cost"].number / found.figures["pack/usable"].number)


class CellsCalculated(Calculated):
    def check(self, data: dict[str, Any]) -> None:
        found = judge(data)
        self.of_all_forms(data, found)
        pack, cell, row = data["pack"], data["pack"]["cell"], chemistries()[data["pack"]["chemistry"]]
        s, p = found.figures["pack/series"].number, found.figures["pack/parallel"].number
        if p > 1:
            # Of the middle half the group comes from either side: copper for half of what cells and board give.
            gives = min(found.figures["pack/limit_cells"].number, found.figures["pack/board"].number)
            width, thickness = (float(x) for x in str(found.figures["pack/collector"].value).split()[2].split("×"))
            self.alike(found, "pack/collector_rating", 2.5 * width * thickness)
            if width * thickness < 320:  # the largest there is
                self.assertGreaterEqual(2.5 * width * thickness, gives / 2 - 1e-9)
            self.alike(found, "pack/limit_collector", 2 * 2.5 * width * thickness)
        else:
            self.assertNotIn("pack/collector", found.figures)
        groups = list(pack["groups"].values())
        sorted_in = len(groups) == s and all(len(g["cells"]) == p for g in groups)
        by_dc = DC_RATIO if cell["resistance_by"] == "dc" else 1.0
        typical_ohm = row.r_ah_mohm / cell["capacity_ah"] / 1000
        one_ohm = cell["resistance_mohm"] / 1000 / by_dc if cell["resistance_mohm"] else typical_ohm
        if sorted_in:
            self.alike(found, "pack/capacity", min(sum(c["capacity_ah"] for c in g["cells"]) for g in groups))
            cells_ohm = sum(
                1 / sum(1 / ((c["resistance_mohm"] / 1000 / by_dc) if c["resistance_mohm"] else typical_ohm) for c in g["cells"])
                for g in groups
            )
        else:
            self.alike(found, "pack/capacity", p * cell["capacity_ah"])
            cells_ohm = s / p * one_ohm
        links_ohm = s * found.figures["pack/link_resistance"].number / p
        board_a = found.figures["pack/board"].number
        self.alike(found, "pack/resistance", cells_ohm * DC_RATIO + links_ohm + BOARD_DROP_V / board_a)
        self.alike(found, "pack/fault_resistance", cells_ohm + links_ohm)
        rate = row.c_cylindrical if cell["shape"] == "cylindrical" else row.c_prismatic
        one_a = cell["continuous_a"] or rate * cell["capacity_ah"]
        self.alike(found, "pack/limit_cells", p * one_a)
        self.alike(found, "pack/limit_links", p * found.figures["pack/link_rating"].number)
        self.alike(found, "pack/cells", s * p)
        one_kg = cell["mass_kg"] or cell["capacity_ah"] * row.v_nom / row.wh_per_kg
        self.alike(found, "pack/mass", s * p * one_kg + BOARD_KG)
        one_money = cell["price"] if cell["price"] is not None else cell["capacity_ah"] * row.v_nom / 1000 * row.price_per_kwh
        self.alike(found, "pack/cost", s * p * one_money + BOARD_MONEY)
        charge = min(p * (cell["charge_a"] or row.charge_rate * cell["capacity_ah"]), 0.5 * board_a)
        self.alike(found, "pack/charge_limit", charge)

    @tried(200)
    @given(designs(cell_packs))
    def test_any_pack_of_cells(self, design: Design) -> None:
        self.check(write_design(design))

    def test_a_link_of_nickel_by_hand(self) -> None:
        pack = {
            "form": "cells",
            "chemistry": "nmc",
            "series": 10,
            "parallel": 6,
            "cell": {"shape": "cylindrical", "capacity_ah": 2.5, "width_mm": 18.4},
            "link": {"material": "nickel", "width_mm": 8, "thickness_mm": 0.2, "layers": 2},
        }
        found = judge(document(pack=pack))
        # 0.070 Ω·mm²/m over the diameter of a cell, and the two joints.
        self.alike(found, "pack/link_resistance", 0.070 * 0.0184 / (8 * 0.2 * 2) + 0.00002)
        self.alike(found, "pack/link_rating", 5.5 * 8 * 0.2 * 2)

    @tried(200)
    @given(st.sampled_from(LITHIUM), st.floats(50, 3000), st.floats(5, 300))
    def test_cells_in_parallel_are_the_fewest_that_serve(self, chemistry: str, watts: float, ah: float) -> None:
        heater = {"name": "Heater", "kind": "heater", "supply": "pack", "watts": watts, "windows": window(10, 12)}
        cell = {"shape": "prismatic", "capacity_ah": ah}
        data = document(
            brief={"site_min_c": 25, "ready_h": 0, "hours_away": 24, "reserve": 0.1},
            loads={"items": {"h": heater}},
            pack={"form": "cells", "chemistry": chemistry, "cell": cell},
        )
        found, row = judge(data), chemistries()[chemistry]
        s, p = found.figures["pack/series"].number, found.figures["pack/parallel"].number

        def serves(p: float) -> bool:
            usable = p * ah * s * mean_v(row, row.window_low, row.window_high) * (row.window_high - row.window_low) * AGE
            return bool(
                usable >= 2 * watts / 0.9 * 1.03 - 1e-6 and p * row.c_prismatic * ah >= 1.25 * watts / (s * row.v_low) - 1e-6
            )

        if p < 200:
            self.assertTrue(serves(p))
        self.assertFalse(p > 1 and serves(p - 1), f"{p - 1:g} would serve too")

    @tried(200)
    @given(st.floats(20, 3500))
    def test_the_board_is_the_smallest_that_serves(self, watts: float) -> None:
        pump = {"name": "Pump", "kind": "pump", "supply": "pack", "watts": watts, "surge": 4, "windows": window(10, 12)}
        found = judge(document(loads={"items": {"p": pump}}, pack={"form": "cells", "chemistry": "lfp"}))
        low = found.figures["pack/v_low"].number
        needed = max(1.25 * watts / low, 1.03 * 4 * watts / low / 2)
        sold = sizes("board").sizes
        serving = [a for a in sold if a >= needed - 1e-9]
        self.assertEqual(found.figures["pack/board"].number, serving[0] if serving else sold[-1])


class BanksCalculated(Calculated):
    def check(self, data: dict[str, Any]) -> None:
        found = judge(data)
        self.of_all_forms(data, found)
        pack, unit, row = data["pack"], data["pack"]["battery"], chemistries()[data["pack"]["chemistry"]]
        in_series = pack.get("in_series", 1)
        n = found.figures["pack/parallel"].number
        self.assertEqual(found.figures["pack/series"].number, unit["series"] * in_series)
        total = n * in_series
        energy = unit["capacity_ah"] * unit["series"] * row.v_nom
        if unit["mass_kg"]:
            self.alike(found, "pack/mass", total * unit["mass_kg"])
        else:
            self.assertGreater(found.figures["pack/mass"].number, total * energy / row.wh_per_kg)
        charge = unit["charge_a"] or row.charge_rate * unit["capacity_ah"]
        self.alike(found, "pack/charge_limit", n * charge)
        cells_ohm = unit["series"] * row.r_ah_mohm / unit["capacity_ah"] / 1000
        own = unit["resistance_mohm"]
        one_fault = cells_ohm
        if own:
            board = 0.0 if row.kind == "lead" else min(BOARD_DROP_V / unit["continuous_a"], own / 2000)
            one_fault = (own / 1000 - board) / DC_RATIO
        self.alike(found, "pack/fault_resistance", in_series * one_fault / n)
        if total == 1:
            board = 0.0 if row.kind == "lead" else BOARD_DROP_V / unit["continuous_a"]
            one = own / 1000 if own else cells_ohm * DC_RATIO + board
            self.alike(found, "pack/resistance", one)
            self.alike(found, "pack/capacity", unit["capacity_ah"])
            self.alike(found, "pack/continuous", unit["continuous_a"])
            return
        shares = [found.figures[f"pack/share/{i}"].number for i in range(1, int(n) + 1)]
        self.assertAlmostEqual(sum(shares), 1, places=9)
        self.alike(found, "pack/limit_strings", unit["continuous_a"] / max(shares))
        weakest = []
        for i in range(1, int(n) + 1):
            units = pack["strings"].get(f"s{i}", {}).get("units", {})
            weakest.append(
                min((units.get(f"u{k}", {}).get("capacity_ah") or unit["capacity_ah"]) for k in range(1, in_series + 1))
            )
        self.assertLessEqual(found.figures["pack/capacity"].number, sum(weakest) + 1e-6)
        self.alike(found, "pack/string_fault", unit["series"] * in_series * row.v_max * (n - 1) / (in_series * one_fault))

        if n > 1:
            for i in range(1, int(n) + 1):
                self.lead(f"pack/string/{i}/run", f"s{i}", data, found)

    def lead(self, path: str, key: str, data: dict[str, Any], found: Assessment) -> None:
        """The lead of one string: what it carries by the table, what a short asks of it, that its fuse is within both."""
        brief, figures = data["brief"], found.figures
        inside_c = brief["site_max_c"] + 10
        wire = wires()[str(figures[f"{path}/gauge"].value)]
        columns = [(c, a) for c, a in wire.columns[brief["wire_school"]] if c <= 105]
        able = 0.0
        if columns and inside_c < columns[-1][0]:
            able = columns[-1][1] * sqrt((columns[-1][0] - inside_c) / (columns[-1][0] - 30))
        self.alike(found, f"{path}/ampacity", able)
        own = data["pack"]["strings"].get(key, {}).get("protected", True)
        if not own or "pack/string_fuse" not in figures:
            self.assertNotIn(f"{path}/withstand", figures)
            return
        fuse, fault = figures["pack/string_fuse"].number, figures["pack/string_fuse_fault"].number
        family = next(f for f in families().values() if f.label == figures["pack/string_family"].value)
        energy = 2 * (family.multiples[-1] * fuse) ** 2 * family.fastest_s[-1]
        if family.kind == "breaker":
            energy = fault**2 * 0.01
        k = 226 * sqrt(log(1 + (160 - 105) / (234.5 + 105)))
        self.alike(found, f"{path}/withstand", sqrt(energy) / k)
        thickest = max(w.area_mm2 for w in wires().values() if w.system == wire.system)
        if wire.area_mm2 < thickest:
            self.assertGreaterEqual(able, fuse - 1e-9)
            self.assertGreaterEqual(wire.area_mm2, sqrt(energy) / k - 1e-9)

    @tried(200)
    @given(designs(batteries))
    def test_any_bank_of_batteries(self, design: Design) -> None:
        self.check(write_design(design))

    def test_strings_alike_give_all_their_capacity_when_they_share_evenly(self) -> None:
        bank = {
            "form": "batteries",
            "chemistry": "lfp",
            "battery": {"series": 4, "capacity_ah": 50},
            "parallel": 3,
            "takeoff": "equal leads",
        }
        found = judge(document(pack=bank))
        self.alike(found, "pack/capacity", 150)
        for i in (1, 2, 3):
            self.alike(found, f"pack/share/{i}", 1 / 3)

    def test_a_shorter_lead_takes_more_of_the_current_by_just_its_copper(self) -> None:
        bank = {
            "form": "batteries",
            "chemistry": "lfp",
            "battery": {"series": 4, "capacity_ah": 50, "resistance_mohm": 10},
            "parallel": 2,
            "takeoff": "equal leads",
            "lead": {"length_m": 0.5},
            "strings": {"s2": {"lead_m": 1.5}},
        }
        found = judge(document(pack=bank))
        strings = found.pack.build.strings
        assert strings
        first, second = strings.ohm
        self.assertAlmostEqual((second - 0.010) / (first - 0.010), 3, places=6)
        self.alike(found, "pack/share/1", second / (first + second))


class Waterfall(TestCase):
    """From the nominal energy down to the loads, nothing is lost twice or forgotten."""

    @tried(150)
    @given(designs())
    def test_the_way_to_the_loads_adds_up(self, design: Design) -> None:
        found = judge(write_design(design))
        ways = {
            name: found.figures[f"power/way/{name}"].number
            for name in ("wiring", "inverter", "idle", "converters", "standing", "reaches")
        }
        if found.power.drawn_away.number > 0:
            self.assertAlmostEqual(
                sum(ways.values()), found.power.available.number, delta=1e-6 * (1 + found.power.available.number)
            )
        for name, wh in ways.items():
            self.assertGreaterEqual(wh, -1e-6, name)
        self.assertLessEqual(found.power.available.number, found.pack.usable.number + 1e-9)
        self.assertLessEqual(found.pack.usable.number, found.pack.usable_warm.number + 1e-9)

    def test_each_loss_grows_with_what_causes_it(self) -> None:
        def way(name: str, **changes: Any) -> float:
            heater = {"name": "Heater", "kind": "heater", "supply": "ac", "watts": 300, "windows": window(10, 12)}
            network: dict[str, Any] = {
                "f": {"part": "protection", "name": "F", "feed": "pack", "run": {"length_m": changes.get("length_m", 0.1)}},
                "i": {"part": "inverter", "name": "I", "feed": "f", "rating_w": 600, "left_on": changes.get("left_on", False)},
                "o": {"part": "outlet", "name": "O", "feed": "i"},
            }
            pack = {"form": "cells", "chemistry": "lfp", "series": 8, "parallel": 2}
            return (
                judge(document(loads={"items": {"h": heater}}, power={"network": network}, pack=pack))
                .figures[f"power/way/{name}"]
                .number
            )

        self.assertGreater(way("idle", left_on=True), 5 * way("idle"))
        self.assertGreater(way("wiring", length_m=0.4), way("wiring"))
        self.assertEqual(way("converters"), 0)
        self.assertGreater(way("reaches"), way("reaches", left_on=True))
