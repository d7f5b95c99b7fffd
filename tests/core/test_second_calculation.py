"""The power path worked out a second time, part by part as on paper, and held against the program's own figures.

The calculator here reads the document and the tables of sizes sold, and shares nothing else with what it checks: a slip in
the tree of currents, in a derate or in a leg of cable would show as a difference between the two.
"""

from collections.abc import Iterator
from functools import cached_property
from itertools import pairwise, takewhile
from math import log, sqrt
from typing import Any
from unittest import TestCase

from hypothesis import given

from kegcart.core.assess import Assessment
from kegcart.core.electrical.protection import rides_through, stays_closed_from
from kegcart.core.reference import busbars, chemistries, connectors, families, inverter_classes, load_kinds, sizes, wires
from tests import tried
from tests.core.samples import demo, document, judge, put, window
from tests.core.test_power import SOUND, trees, two_banks

RHO_20, ALPHA = 0.017241, 0.00393
JOINTS = 4 * 0.0001
BEST_JOINTS, HALF = 4 * 0.00002, 0.5
"""What lugs, and what fuses and contacts, count for in a fault."""
SWITCH_OHM, PLUG_OHM = 0.0002, 0.0004
USB_ETA, CONVERTER_ETA, CONVERTER_IDLE_W, REGULATED = 0.9, 0.92, 1.0, 12.0
MARGIN, SELECTIVE, CLOSED_BOX = 1.25, 1.6, 0.8


def copper_ohm(length_m: float, area_mm2: float, celsius: float = 20) -> float:
    """Both legs."""
    return RHO_20 * (1 + ALPHA * (celsius - 20)) * 2 * length_m / area_mm2


class SecondCalculation:
    """One design, worked out by hand. Ratings that were chosen are taken as they stand; what follows from them is not."""

    def __init__(self, data: dict[str, Any], found: Assessment) -> None:
        self.data, self.found = data, found
        self.network: dict[str, Any] = data["power"]["network"]
        self.brief = data["brief"]
        rise = self.brief["inside_rise_k"]
        self.inside_c = self.brief["site_max_c"] + (10 if rise is None else rise)
        self.hangs = {key: [d.key for d in held] for key, held in found.power.plugged.items()}

    @cached_property
    def moments(self) -> list[float]:
        """The middle of each stretch between two times at which something is switched."""
        edges = {0.0, 24.0}
        for load in self.data["loads"]["items"].values():
            for w in load["windows"].values():
                edges |= {w["from_h"] % 24, w["to_h"] % 24}
        rising = sorted(edges)
        return [(a + b) / 2 for a, b in pairwise(rising)]

    def children(self, key: str) -> list[str]:
        return [k for k, node in self.network.items() if node["feed"] == key]

    def way_up(self, key: str) -> Iterator[str]:
        """The parts before one, nearest first."""
        while (key := self.network[key]["feed"]) in self.network:
            yield key

    def root(self, key: str) -> str:
        while key in self.network:
            key = self.network[key]["feed"]
        return key

    def low_v(self, key: str) -> float:
        """Lowest working voltage of the source of a part."""
        root = self.root(key)
        if root == "pack":
            return float(self.found.pack.v_low.number)
        bank = self.data["power"]["banks"][root]
        return float(bank["series"] * chemistries()[bank["chemistry"]].v_low)

    def supply(self, key: str) -> str:
        if self.network[key].get("usb"):
            return "usb"
        before = {self.network[k]["part"] for k in self.way_up(key)}
        return "ac" if "inverter" in before else "dc_12v" if "converter" in before else "pack"

    def is_on(self, load: str, at_h: float) -> bool:
        spans = [(w["from_h"], w["to_h"]) for w in self.data["loads"]["items"][load]["windows"].values()]
        return any(a <= at_h < b if a < b else at_h >= a or at_h < b for a, b in spans)

    def watts(self, outlet: str, at_h: float) -> float:
        out = 0.0
        for key in self.hangs.get(outlet, []):
            load = self.data["loads"]["items"][key]
            out += load["watts"] * load.get("count", 1) * self.is_on(key, at_h)
        return out

    def amps(self, key: str, at_h: float, inverters_full: bool = False) -> float:
        """What flows into a part at a moment: A, and W behind an inverter."""
        node, low = self.network[key], self.low_v(key)
        if node["part"] == "outlet":
            watts = self.watts(key, at_h)
            return watts / {"ac": 1, "dc_12v": REGULATED, "usb": USB_ETA * low, "pack": low}[self.supply(key)]
        if node["part"] == "input":
            return 0.0
        below = sum(self.amps(child, at_h, inverters_full) for child in self.children(key))
        if node["part"] == "inverter":
            inverter = self.found.power.inverters[key]
            rated, cutoff = inverter.rating.number, inverter.cutoff.number
            running = (below + self.inverter_loss(below, rated)) / cutoff if below > 0 or node["left_on"] else 0.0
            return max(running, rated / 0.88 / cutoff) if inverters_full else running
        if node["part"] == "converter":
            return (below * REGULATED / CONVERTER_ETA + CONVERTER_IDLE_W) / low
        return below

    def inverter_loss(self, watts: float, rated: float) -> float:
        """0.8 % idle, 92 % at 35 % load, 88 % at full load: a parabola through the three."""
        third, full = 0.35 * (1 / 0.92 - 1) - 0.008, 1 / 0.88 - 1 - 0.008
        b = (third - 0.35 * full) / (0.35 * 0.35 - 0.35)
        x = watts / rated
        return rated * (0.008 + (full - b) * x + b * x * x)

    def brought_in(self, key: str) -> float:
        node = self.network[key]
        if node["part"] == "input":
            source = node.get("source")
            if source is None:
                return 0.0
            pinned = self.data["charging"]["sources"][source]["current_a"]
            return float(pinned) if pinned else self.found.charging.sources[source].current.number
        return sum(self.brought_in(child) for child in self.children(key))

    def current(self, key: str) -> float:
        """The greatest running current."""
        if self.network[key]["part"] == "input":
            return self.brought_in(key)
        return max(self.brought_in(key), *(self.amps(key, t) for t in self.moments))

    def design(self, key: str) -> float:
        """What cable and fuse are sized for: inverters at their rating, or every charger at once."""
        return max(max(self.amps(key, t, inverters_full=True) for t in self.moments), self.brought_in(key))

    def limit_c(self, key: str) -> float:
        return min(self.stands_c(key), self.column(key)[0])

    def stands_c(self, key: str) -> float:
        run = self.network[key]["run"]
        return float(min(run["insulation_c"], run["terminal_c"] or run["insulation_c"]))

    def column(self, key: str, gauge: str = "") -> tuple[float, float]:
        """The column of the school's table for the insulation: the hottest that it stands."""
        part = self.found.power.parts[key].run
        assert part
        columns = dict(wires()[gauge or part.wire.key].columns[self.brief["wire_school"]])
        return max(
            ((c, a) for c, a in columns.items() if c <= self.stands_c(key)), default=min(columns.items(), default=(999, 0))
        )

    def ampacity(self, key: str, gauge: str) -> float:
        run = self.network[key]["run"]
        table_c, table_a = self.column(key, gauge)
        limit_c = min(self.stands_c(key), table_c)
        if not table_a or self.inside_c >= limit_c:
            return 0.0
        bundle = next(f for most, f in ((2, 1), (3, 0.7), (6, 0.6), (24, 0.5), (999, 0.4)) if run["bundled"] <= most)
        return run["parallel"] * table_a * sqrt((limit_c - self.inside_c) / (table_c - 30)) * bundle

    def drop_v(self, key: str, gauge: str) -> float:
        """Volts lost on both legs and four lugs at the design current, copper as warm as that makes it."""
        amps, able, run = self.design(key), self.ampacity(key, gauge), self.network[key]["run"]
        warm = self.limit_c(key)
        if able > 0:
            warm = self.inside_c + (self.limit_c(key) - self.inside_c) * (amps / able) ** 2
        return amps * (copper_ohm(run["length_m"], wires()[gauge].area_mm2 * run["parallel"], min(warm, 250)) + JOINTS)

    def path_to(self, socket: str) -> list[str]:
        """What lies on the way to a socket, back to the post or the converter that holds the voltage."""
        return [socket, *takewhile(lambda k: self.network[k]["part"] != "converter", self.way_up(socket))]

    def judged(self, key: str) -> bool:
        return self.network[key]["part"] == "outlet" and self.supply(key) in ("pack", "dc_12v")

    def has_cable(self, key: str) -> bool:
        return self.found.power.parts[key].run is not None

    def shunt_v(self, way: list[str], at_h: float) -> float:
        shunt = self.found.power.shunt
        if shunt is None or self.network[way[-1]]["feed"] != "pack":
            return 0.0
        return 0.05 * sum(self.amps(k, at_h) for k in self.children("pack")) / shunt.number

    def lost_before(self, socket: str) -> float:
        """Volts lost on the way up to the run to a socket, at the worst moment of what runs while something runs there."""
        way, ohms = self.path_to(socket), self.way_ohms(socket)
        losses = (
            sum(self.amps(k, t) * ohms[k] for k in way[1:]) + self.shunt_v(way, t)
            for t in self.moments
            if self.amps(socket, t) > 0
        )
        return max(losses, default=0.0)

    def path_lost(self, socket: str) -> float:
        """Volts lost up to a socket, at the moment at which most is lost before its own run."""
        way, ohms = self.path_to(socket), self.way_ohms(socket)
        on = [t for t in self.moments if self.amps(socket, t) > 0] or self.moments[:1]

        def before(t: float) -> float:
            return sum(self.amps(k, t) * ohms[k] for k in way[1:]) + self.shunt_v(way, t)

        worst = max(on, key=before)
        return before(worst) + self.amps(socket, worst) * ohms[socket]

    def way_ohms(self, socket: str) -> dict[str, float]:
        """Cables warm from their design current, lugs, fuses and contacts, by part of the way."""
        ohms = {}
        for k in self.path_to(socket):
            ohms[k] = self.series_ohm(k)
            if part := self.found.power.parts[k].run:
                ohms[k] += self.drop_v(k, part.wire.key) / self.design(k) if self.design(k) else JOINTS
        return ohms

    def spares(self, key: str, gauge: str) -> bool:
        """Whether the copper of a run leaves the rest of the way its share of 5 %: by length, of what lugs and contacts leave."""
        amps, design = self.current(key), self.design(key)
        copper_v = amps * (self.drop_v(key, gauge) / design - JOINTS) if design else 0.0
        if self.judged(key):
            return copper_v <= 0.05 * self.volts(key) - self.lost_before(key) - amps * JOINTS + 1e-9
        for socket in (k for k in self.network if self.judged(k) and key in self.path_to(k)):
            way, limit = self.path_to(socket), 0.05 * self.volts(socket)
            taken = 0.05 / MARGIN if self.found.power.shunt else 0.0
            for k in way:
                kind = self.network[k]["part"]
                in_block = kind == "protection" and self.network.get(self.network[k]["feed"], {}).get("part") == "fuse_block"
                taken += 0.0 if in_block else self.current(k) * JOINTS
                taken += 0.08 / MARGIN if kind == "protection" else self.current(k) * self.series_ohm(k)
            metres = sum(self.network[k]["run"]["length_m"] for k in way if self.has_cable(k) or k not in self.found.power.parts)
            if copper_v > max(limit - taken, limit / 5) * self.network[key]["run"]["length_m"] / metres + 1e-9:
                return False
        return True

    def volts(self, key: str) -> float:
        return REGULATED if any(self.network[k]["part"] == "converter" for k in self.way_up(key)) else self.low_v(key)

    def resistance_to(self, key: str) -> float:
        """From the cells up to and with the cable to a part, cold."""
        ohm = self.found.power.sources[self.root(key)].fault_resistance.number
        shunt = self.found.power.shunt
        if shunt and self.root(key) == "pack":
            ohm += 0.05 / shunt.number
        for k in [*reversed(list(self.way_up(key))), key]:
            part = self.found.power.parts[k]
            if part.run:
                run = self.network[k]["run"]
                ohm += copper_ohm(run["length_m"], part.run.wire.area_mm2 * run["parallel"]) + BEST_JOINTS
            if k != key:
                ohm += HALF * self.series_ohm(k)
        return ohm

    def ohm_at(self, key: str, before_its_cable: bool) -> float:
        """From the cells to a part; a first fuse stands at the end of what feeds it, before its own cable."""
        if not before_its_cable:
            return self.resistance_to(key)
        feed = self.network[key]["feed"]
        if feed not in self.network:
            return float(self.found.power.sources[feed].fault_resistance.number)
        return self.resistance_to(feed) + HALF * self.series_ohm(feed)

    def series_ohm(self, key: str) -> float:
        node, part = self.network[key], self.found.power.parts[key]
        if node["part"] == "protection":
            assert part.rating and part.family
            family = next(f for f in families().values() if f.label == part.family.value)
            return (0.1 if family.kind == "breaker" else 0.08) / part.rating.number
        return {"switch": SWITCH_OHM, "selector": SWITCH_OHM, "plug": PLUG_OHM}.get(node["part"], 0.0)

    def short_mm2(self, key: str) -> float:
        """The least section that survives a short at the beginning of the run to a part: the fault before it, until it is open."""
        # Through the run up to a first fuse, or a short tap, flows what that fuse lets through.
        both = (*self.way_up(key), *([key] if self.network[key]["part"] == "protection" else []))
        both = (key,) if self.is_tap(key) else both
        guard = next((k for k in both if self.network[k]["part"] in ("protection", "converter")), None)
        if guard is None or self.network[guard]["part"] == "converter":
            return 0.0
        part, feed = self.found.power.parts[guard], self.network[key]["feed"]
        assert part.rating and part.family
        family = next(f for f in families().values() if f.label == part.family.value)
        first = feed == guard and not any(self.network[k]["part"] in ("protection", "converter") for k in self.way_up(guard))
        first = first or (feed == guard and self.is_tap(guard))
        source = self.found.power.sources[self.root(key)]
        fault = source.v_max.number / (self.ohm_at(feed, first) if feed in self.network else source.fault_resistance.number)
        last, soonest = family.multiples[-1], family.fastest_s[-1]
        energy = fault**2 * 0.01 if family.kind == "breaker" else 2 * (last * part.rating.number) ** 2 * soonest
        before, after = self.stands_c(key), {200: 350, 125: 250}.get(self.network[key]["run"]["insulation_c"], 160)
        return float(sqrt(energy) / (226 * sqrt(log(1 + (after - before) / (234.5 + before)))))

    def circuit_a(self, key: str) -> float:
        """The greatest current of an AC circuit: what runs at once on all its sockets, in VA."""
        loads = self.data["loads"]["items"]
        behind = [k for k in self.network if k == key or key in self.way_up(k)]

        def amps(at_h: float) -> float:
            va = 0.0
            for load in (load for k in behind for load in self.hangs.get(k, []) if self.is_on(load, at_h)):
                row = loads[load]
                va += row["watts"] * row.get("count", 1) / (row["power_factor"] or load_kinds()[row["kind"]].power_factor)
            return va / {"120 V 60 Hz": 120, "120/240 V split-phase": 120}.get(self.brief["mains"], 230)

        return max(amps(t) for t in self.moments)

    def posts_w(self, at_h: float) -> float:
        """Power at the posts of the pack at a moment, cables left out: loads with what feeding them takes."""
        out = 0.0
        for key, node in self.network.items():
            if self.root(key) != "pack":
                continue
            if node["part"] == "inverter":
                out += self.amps(key, at_h) * self.found.power.inverters[key].cutoff.number
            elif node["part"] == "converter" or (node["part"] == "outlet" and self.supply(key) in ("usb", "pack")):
                out += self.amps(key, at_h) * self.low_v(key)
        return out

    def day_wh(self) -> float:
        """Energy at the posts in a day, cables left out."""
        edges = [0.0]
        for middle in self.moments:
            edges.append(2 * middle - edges[-1])
        return sum(self.posts_w(t) * (b - a) for t, (a, b) in zip(self.moments, pairwise(edges), strict=True))

    def is_tap(self, key: str) -> bool:
        """Whether the run to a part is a hand long, sheathed, and leads from a fused bar to a branch fuse."""
        node = self.network[key]
        feed = self.network.get(node["feed"], {"part": ""})
        if node["part"] != "protection" or feed["part"] != "busbar" or node["run"]["sheathed"] is False:
            return False
        guard = next((k for k in self.way_up(key) if self.network[k]["part"] in ("protection", "converter")), None)
        return guard is not None and self.network[guard]["part"] == "protection" and node["run"]["length_m"] <= 0.18

    def guard_a(self, key: str) -> float:
        """The fuse that a part must carry; a converter bounds its own output, and a short tap bears its own fuse."""
        if self.is_tap(key):
            own = self.found.power.parts[key].rating
            return own.number if own else 0.0
        guard = self.found.power.parts[key].guard
        rating = self.found.power.parts[guard].rating if guard else None
        return rating.number if rating else 0.0


class SecondReckoning(TestCase):
    def alike(self, ours: float, theirs: float, what: str) -> None:
        self.assertAlmostEqual(ours, theirs, delta=1e-6 * max(1.0, abs(theirs)), msg=what)

    def check(self, data: dict[str, Any]) -> int:
        """Every part of one design; returns how many runs were calculated."""
        found = judge(data)
        paper, runs = SecondCalculation(data, found), 0
        if not any(d.load.cycle for held in found.power.plugged.values() for d in held):
            taken = found.power.drawn_day.number - found.power.wiring_day.number
            standing = 24 * sum(part.watts.number for part in found.power.idle if not part.within)
            self.alike(taken, paper.day_wh() + standing, "energy of a day")
        for key, part in found.power.parts.items():
            self.alike(part.current.number, paper.current(key), f"{key}: running current")
            if paper.network[key]["part"] != "outlet" or paper.supply(key) != "ac":
                self.alike(part.design.number, paper.design(key), f"{key}: design current")
            if part.fault and not (part.guard is None and paper.network[key]["part"] == "protection"):
                fault = found.power.sources[paper.root(key)].v_max.number / paper.ohm_at(key, paper.is_tap(key))
                self.alike(part.fault.number, fault, f"{key}: fault current")
            if "circuit" in part.extra:
                circuit = paper.circuit_a(key)
                self.alike(part.extra["circuit"].number, circuit, f"{key}: AC circuit")
                if (breaker := part.extra.get("breaker")) and paper.network[key].get("breaker_a") is None:
                    socket = part.rating.number if part.rating and paper.network[key]["part"] == "outlet" else 999
                    sold = [s for s in (6, 10, 16, 20, 25, 32, 40) if s <= socket]
                    self.assertEqual(breaker.number, next((s for s in sold if s >= MARGIN * circuit - 1e-9), sold[-1]), key)
            if part.run is None:
                continue
            runs += 1
            gauge = str(part.run.gauge.value)
            self.alike(part.run.ampacity.number, paper.ampacity(key, gauge), f"{key}: ampacity")
            drop = paper.drop_v(key, gauge)
            self.alike(part.run.drop.number, drop / paper.volts(key), f"{key}: drop")
            self.alike(part.run.short.number if part.run.short else 0.0, paper.short_mm2(key), f"{key}: short-circuit withstand")
            if paper.judged(key) and any(paper.amps(key, t) > 0 for t in paper.moments):
                lost = found.figures[f"power/{key}/path_drop"].number
                self.alike(lost, paper.path_lost(key) / paper.volts(key), f"{key}: drop up to the socket")
            amps = paper.design(key)
            self.alike(part.run.heat.number, amps * drop - amps * amps * JOINTS, f"{key}: heat")
        return runs

    def test_the_sound_builds(self) -> None:
        self.assertGreater(sum(self.check(demo(name)) for name in SOUND), 25)

    def test_the_build_full_of_mistakes(self) -> None:
        self.assertGreater(self.check(demo("wobbly-stall")), 5)

    @tried(150)
    @given(trees(most=30))
    def test_any_tree(self, data: dict[str, Any]) -> None:
        self.check(data)

    def test_every_school_gauge_system_and_heat(self) -> None:
        for name in SOUND:
            for school in ("small_craft", "building"):
                for system in ("awg", "mm2"):
                    for site_c in (20, 45):
                        data = put(put(demo(name), "/brief/wire_school", school), "/brief/gauge_system", system)
                        self.check(put(data, "/brief/site_max_c", site_c))

    def test_runs_in_parallel_in_bundles_and_with_cool_terminals(self) -> None:
        run = {"length_m": 0.7, "parallel": 2, "bundled": 5, "terminal_c": 75, "insulation_c": 200}
        for key in ("inverter", "sound", "fuse-block"):
            data = demo("lantern-lane")
            data["power"]["network"][key]["run"] |= run
            self.check(data)

    def test_an_inverter_left_on_idles_round_the_clock(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/left_on", True)
        self.check(data)
        day = judge(data).figures["power/inverter/energy_day"].number
        off = judge(demo("lantern-lane")).figures["power/inverter/energy_day"].number
        # Lamps, projector and fog together are on for four hours: the inverter idles the other twenty.
        self.assertAlmostEqual(day - off, 20 * 16, delta=0.5)


class SmallestThatServes(TestCase):
    """Each auto choice holds, and the next one down would not."""

    def check(self, data: dict[str, Any]) -> dict[str, int]:
        found = judge(data)
        paper = SecondCalculation(data, found)
        seen: dict[str, int] = {}
        for key, part in found.power.parts.items():
            node = data["power"]["network"][key]
            behind_ac = any(data["power"]["network"][k]["part"] == "inverter" for k in paper.way_up(key))
            if behind_ac:
                continue
            carried = max(paper.guard_a(key), MARGIN * paper.design(key))
            if part.run and node["run"]["gauge"] is None:
                self.gauge(key, part.run.wire.key, carried, paper)
                seen["gauge"] = seen.get("gauge", 0) + 1
            if node["part"] in ("switch", "selector", "fuse_block") and node["rating_a"] is None:
                self.size(
                    key, part.rating.number, sizes("fuse-block" if node["part"] == "fuse_block" else "switch").sizes, carried
                )  # type: ignore[union-attr]
                seen[node["part"]] = seen.get(node["part"], 0) + 1
            if node["part"] == "busbar" and node["section"] is None:
                hot = min(1, max(0, (70 - paper.inside_c) / 30) ** 0.55)
                bars = sorted(CLOSED_BOX * hot * b.ampacity_a for b in busbars().values())
                self.size(key, part.rating.number, bars, carried)  # type: ignore[union-attr]
                seen["busbar"] = seen.get("busbar", 0) + 1
            if node["part"] == "converter" and node["rating_a"] is None:
                out = max(sum(paper.amps(c, t) for c in paper.children(key)) for t in paper.moments)
                self.size(key, part.rating.number, sizes("converter").sizes, MARGIN * out)  # type: ignore[union-attr]
                seen["converter"] = seen.get("converter", 0) + 1
            if node["part"] == "plug" and node["connector"] is None:
                hot = sqrt(min(1, max(0, 90 - paper.inside_c) / 40))
                able = sorted(hot * c.rating_a for c in connectors().values() if "pack" in c.supplies)
                self.size(key, part.rating.number, able, carried)  # type: ignore[union-attr]
                seen["plug"] = seen.get("plug", 0) + 1
        if found.power.shunt and data["power"]["shunt"]["rating_a"] is None:
            whole = max(sum(paper.amps(c, t, inverters_full=True) for c in paper.children("pack")) for t in paper.moments)
            whole = max(whole, sum(paper.brought_in(c) for c in paper.children("pack")))
            self.size("shunt", found.power.shunt.number, sizes("shunt").sizes, MARGIN * whole)
            seen["shunt"] = 1
        return seen

    def size(self, key: str, chosen: float, sold: Any, needed: float) -> None:
        """A size sold that carries what is needed, the least of them; the largest where none does."""
        serving = [s for s in sold if s >= needed - 1e-9]
        self.assertAlmostEqual(chosen, min(serving) if serving else max(sold), msg=key)

    def gauge(self, key: str, chosen: str, carried: float, paper: SecondCalculation) -> None:
        system = paper.brief["gauge_system"]
        sold = sorted((w for w in wires().values() if w.system == system), key=lambda w: w.area_mm2)
        share = 0.03 if paper.network[key]["part"] == "outlet" else 0.02
        fuse, parallel = paper.guard_a(key), paper.network[key]["run"]["parallel"]
        least = 0.0 if paper.network[key]["part"] != "outlet" else 1.0 if system == "mm2" else 1.3

        def holds(gauge: str) -> bool:
            most = wires()[gauge].max_fuse_a[paper.brief["wire_school"]]
            rating = self.own_rating(key, paper)
            within = most is None or parallel * most >= max(fuse, rating)
            able = paper.ampacity(key, gauge) >= max(carried, rating) - 1e-9
            able = able and wires()[gauge].area_mm2 >= max(paper.short_mm2(key), least) - 1e-9
            return within and able and paper.drop_v(key, gauge) <= share * paper.volts(key) + 1e-9

        place = next(i for i, w in enumerate(sold) if w.key == chosen)
        if place < len(sold) - 1:
            self.assertTrue(holds(chosen), f"{key}: {chosen} does not hold")
        frugal = paper.spares(key, chosen)
        thinner = [w.key for w in sold[:place] if holds(w.key) and (not frugal or paper.spares(key, w.key))]
        self.assertEqual(thinner, [], f"{key}: thinner than {chosen} would hold")

    def own_rating(self, key: str, paper: SecondCalculation) -> float:
        """The cable up to the first fuse is as thick as that fuse asks for."""
        part = paper.found.power.parts[key]
        first = paper.network[key]["part"] == "protection" and part.guard is None
        return part.rating.number if first and part.rating else 0.0

    def test_the_sound_builds_in_both_schools_and_systems(self) -> None:
        seen: dict[str, int] = {}
        for name in SOUND:
            for school in ("small_craft", "building"):
                for system in ("awg", "mm2"):
                    data = put(put(demo(name), "/brief/wire_school", school), "/brief/gauge_system", system)
                    for what, count in self.check(data).items():
                        seen[what] = seen.get(what, 0) + count
        self.assertLessEqual({"gauge", "switch", "fuse_block", "busbar", "converter", "shunt"}, set(seen))
        self.assertGreater(seen["gauge"], 100)

    @tried(150)
    @given(trees(most=30))
    def test_any_tree(self, data: dict[str, Any]) -> None:
        self.check(data)

    def test_fuses_are_the_next_size_that_carries_rides_through_and_stays_closed(self) -> None:
        checked = 0
        for name in SOUND:
            found = judge(demo(name))
            for key, part in found.power.parts.items():
                node = part.node
                if node.part != "protection" or node.rating_a or not (part.rating and part.family):
                    continue
                family = next(f for f in families().values() if f.label == part.family.value)
                smaller = [r for r in family.ratings_a if r < part.rating.number]
                hot = 1 - 0.006 * max(0, found.site.inside_c.number - 40)
                if family.kind == "fuse":
                    hot = 1 - 0.002 * max(0, found.site.inside_c.number - 25)
                self.assertGreaterEqual(hot * part.rating.number, MARGIN * part.design.number - 1e-9, f"{name}: {key}")
                self.assertTrue(rides_through(family, part.rating.number, part.flow.surges), f"{name}: {key}")
                if not smaller:
                    continue
                below = smaller[-1]
                behind = [
                    found.power.parts[k].rating.number  # type: ignore[union-attr]
                    for k in found.power.network.below(key)
                    if found.power.parts[k].node.part == "protection"
                ]
                too_small = hot * below < MARGIN * part.design.number or not rides_through(family, below, part.flow.surges)
                # What stands behind it may turn out to be a blade, slower than others of its rating.
                blade, fault = families()["blade"], part.fault.number if part.fault else 0.0
                asked = [max(SELECTIVE * amps, stays_closed_from(family, blade, amps, fault)) for amps in behind]
                not_selective = bool(behind) and below < max(asked)
                self.assertTrue(too_small or not_selective, f"{name}: {key} could be {below} A")
                checked += 1
        self.assertGreater(checked, 6)

    def test_inverters_are_the_smallest_of_their_class(self) -> None:
        sold = next(row.ratings_w for row in inverter_classes() if row.class_v == 24)
        for watts in (200, 450, 900, 1500):
            load = {"name": "Heater", "kind": "heater", "supply": "ac", "watts": watts, "windows": window(9, 10)}
            network = {
                "f": {"part": "protection", "name": "F", "feed": "pack"},
                "i": {"part": "inverter", "name": "I", "feed": "f"},
                "o": {"part": "outlet", "name": "O", "feed": "i"},
            }
            pack = {"form": "cells", "series": 8, "parallel": 2}
            data = document(
                brief={"site_max_c": 25, "growth": 0}, loads={"items": {"h": load}}, power={"network": network}, pack=pack
            )
            # A resistive load may take four fifths of the rating.
            rating = judge(data).figures["power/i/rating"].number
            self.assertEqual(rating, min(r for r in sold if r >= watts / 0.8), f"{watts} W")


class MoreIsNeverLess(TestCase):
    """What is asked of a part may grow; its auto choice never shrinks with it."""

    def rising(self, data: dict[str, Any], pointer: str, values: list[float], path: str) -> None:
        chosen = []
        for value in values:
            figure = judge(put(data, pointer, value)).figures[path]
            chosen.append(wires()[str(figure.value)].area_mm2 if path.endswith("gauge") else figure.number)
        self.assertEqual(chosen, sorted(chosen), f"{path} over {pointer}")

    def test_a_longer_run_is_never_thinner(self) -> None:
        for key in ("inverter", "sound", "fuse-block", "main-switch"):
            at = f"/power/network/{key}/run/length_m"
            self.rising(demo("lantern-lane"), at, [0.2, 0.5, 1, 2, 3, 5, 8], f"power/{key}/run/gauge")

    def test_a_hotter_box_never_has_thinner_cable(self) -> None:
        for key in ("inverter", "sound", "main-fuse"):
            self.rising(demo("lantern-lane"), "/brief/site_max_c", [15, 25, 35, 45, 55], f"power/{key}/run/gauge")

    def test_more_watts_never_get_a_smaller_fuse_or_thinner_cable(self) -> None:
        watts = [5.0, 20, 60, 100, 150, 200, 260]
        for path in ("power/pump-fuse/rating", "power/pump/run/gauge", "power/main-switch/rating"):
            self.rising(
                put(demo("tidewater"), "/loads/items/sample-pump/surge", 1), "/loads/items/sample-pump/watts", watts, path
            )

    def test_a_harder_start_never_gets_a_smaller_fuse(self) -> None:
        # Of one family: a slower one rides through the same start with less.
        blades = put(demo("tidewater"), "/power/network/pump-fuse/family", "blade")
        self.rising(blades, "/loads/items/sample-pump/surge", [1, 2, 3, 4, 5, 6, 7], "power/pump-fuse/rating")

    def test_a_larger_pack_never_gives_less_fault_current(self) -> None:
        for path in ("pack/fault", "power/main-fuse/fault", "power/busbar/fault", "power/sound-fuse/fault"):
            data = put(demo("lantern-lane"), "/power/network/main-fuse/rating_a", 150)
            self.rising(data, "/pack/parallel", [1, 2, 3, 4], path)

    def test_more_cells_in_series_never_raise_the_current(self) -> None:
        amps = [judge(put(demo("lantern-lane"), "/pack/series", s)).figures["power/current"].number for s in (7, 8, 9)]
        self.assertEqual(amps, sorted(amps, reverse=True))


class TwoBanksReckoned(TestCase):
    def test_a_selector_lets_either_source_bear_its_branch(self) -> None:
        found = judge(two_banks())
        winch = 400 / (4 * 2.8)
        for key in ("main-fuse", "main-switch", "choice", "winch-plug", "winch", "house-fuse"):
            self.assertGreaterEqual(found.power.parts[key].design.number, winch - 1e-9, key)
        self.assertAlmostEqual(found.power.parts["light"].design.number, 30 / (4 * 2.8))

    def test_what_charges_in_counts_on_the_way_to_its_own_bank_only(self) -> None:
        data = put(two_banks(), "/charging/sources/shore/current_a", 70)
        found = judge(data).power.parts
        self.assertAlmostEqual(found["house-fuse"].design.number, 70)
        self.assertAlmostEqual(found["main-fuse"].design.number, 400 / (4 * 2.8))
