"""What every reading of a test should be for a station of given figures, and how far off each is: the residuals that faults are fitted to.

Where it can be, a reading is held against other readings rather than against the design: cells against the posts, the end of the path
against its beginning, AC watts against DC watts. What remains is held against pack, path and box with the figures in question.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from kegcart.core.bench.diagnose.air import carry_air
from kegcart.core.bench.diagnose.probes import probes_of
from kegcart.core.bench.diagnose.windows import Windows, followed, windows_of
from kegcart.core.bench.readings import Readings, Series
from kegcart.core.bench.station import BenchStation
from kegcart.core.bench.truth import COPPER, JOINT_S, TYPICAL_JOINT_K_W, TYPICAL_LAG_V, TYPICAL_SLOW_S
from kegcart.core.reference import cold_resistance, constant
from kegcart.core.reference.bench import doubts, meter_of

KNEE_FROM = 0.3
"""Below so much charge, as it is assumed or as a cell shows it, its voltage is read as charge: round the knee that is what it tells."""
GRID_S = 60.0
SAG_DOUBT, WATT_DOUBT, RISE_DOUBT = 0.01, 0.003, 0.04
"""What no figure of the model says: shares of the sag, the power and the rise."""
CELL_V, AIR_K = 0.002, 0.4
CHARGE_DOUBT = 0.004
HALF = 0.5
"""Below so much of its greatest voltage the pack was cut off: what is read then is of no pack."""
THERMOSTATS_K = (0.0, 0.7, -0.7)
"""By so much the thermostat of a fan may see another air than the thermometer."""
LARGE = 0.2
TURNED = 0.005
"""After so much of the charge a cell stands below its curve."""
LEAST_SLOPE = 0.05
"""V of a cell for the whole charge: below it, its voltage says nothing of the charge."""


HEATS = ("gain.posts.a", "gain.posts.v", "gain.load.w", "resistance", "walls", "air", "box_heat", "pack_surface", "pack_heat")
"""What the heat of box and pack depends on."""


@dataclass(frozen=True, slots=True)
class Free:
    """A figure that readings depend on: what is assumed of it, and its standard uncertainty; 0: only a fault moves it."""

    mean: float
    sigma: float


class TestModel:
    """A test of a station, ready to be explained."""

    def __init__(self, station: BenchStation, readings: Readings, probed: Mapping[str, float]) -> None:
        """probed: what was measured besides, by the keys of the probes, as the sum of its figures."""
        self.station, self.probed = station, probed
        self.bank = station.lane.banks[0]
        spans = [s for s in readings.spans if s.step != "recharge"]
        self.windows: Windows = windows_of(readings, spans)
        zero = self.windows.first("zero")
        means = self.windows.means
        self.zero_a = float(means["posts.a"][zero]) if zero is not None else 0.0
        self.zero_clamp = float(means["clamp.a"][zero]) if zero is not None and "clamp.a" in means else 0.0
        self.series = int(sum(round(g.cells) for g in self.bank.groups))
        self.cells = all(f"cell.{n}.v" in means for n in range(1, self.series + 1))
        self.noise = {channel: self._noise(channel) for channel in means}
        if self.cells:
            self.cell_v = np.array([means[f"cell.{n}.v"] for n in range(1, self.series + 1)])
            self.cell_noise = np.hypot(self.noise["cell.1.v"], CELL_V)
        else:
            self.cell_v = means["posts.v"][None, :] / self.series
            self.cell_noise = np.hypot(self.noise["posts.v"] / self.series, CELL_V)
        self.of_cells = [[f"{name}.{n}" for n in range(1, self.series + 1)] for name in ("room", "share")]
        self._course(readings)
        self.free = dict(self._free())
        self.names = list(self.free)
        self.mean = np.array([f.mean for f in self.free.values()])
        self.sigma = np.array([f.sigma for f in self.free.values()])
        self.at = {name: n for n, name in enumerate(self.names)}
        self.probes = [(p.figures, p.sigma, probed[p.key]) for p in probes_of(self) if p.key in probed]
        self.count = self.residuals(self.mean[None, :]).shape[1]

    def _course(self, readings: Readings) -> None:
        """What drives everything, at each window: current, charge taken, what follows the current slowly, and the heat of the box."""
        ends = max(s.end_s for s in readings.spans if s.step != "recharge")
        t = readings.seconds[readings.seconds <= ends]
        amps = np.nan_to_num(readings.channels["posts.a"][: len(t)]) - self.zero_a
        at, means = self.windows.ends_s, self.windows.means
        self.amps = means["posts.a"] - self.zero_a
        steps = np.diff(t, prepend=t[:1])
        self.taken_ah = np.interp(at, t, np.cumsum(amps * steps) / 3600)
        self.slow_a = followed(t, amps, float(np.mean(TYPICAL_SLOW_S)), at)
        self.heat_a2 = followed(t, amps**2, JOINT_S, at)
        self.colder = np.array([cold_resistance(c) for c in means["pack.c"]]) if "pack.c" in means else np.ones(len(at))
        u = self.station.unknowns
        drop = u["resistance"].assumed.value / self.series * self.colder * self.amps
        told = np.interp(self.cell_v + drop, self.bank.curve.rest_v, self.bank.curve.charge)
        self.low = (told < KNEE_FROM) | (1 - self.taken_ah / u["capacity"].assumed.value < KNEE_FROM)
        steps_run = self.windows.steps
        self.off = np.array([step == "standing" or step.startswith("rest") for step in steps_run])
        self.on = np.array([step == "idle" or step.startswith(("load", "soak", "run-down")) for step in steps_run])
        self.grid = np.arange(t[0], ends, GRID_S)
        lost = np.nan_to_num(readings.channels["posts.v"][: len(t)] * amps)
        gone = np.nan_to_num(readings.channels["load.w"][: len(t)]) if "load.w" in readings.channels else 0 * lost
        so_far = [np.concatenate([[0.0], np.cumsum(values[1:] * np.diff(t))]) for values in (lost, gone, amps**2)]
        mean_of = [np.diff(np.interp(self.grid, t, whole)) / GRID_S for whole in so_far]
        self.grid_dc, self.grid_ac, self.grid_a2 = mean_of
        air_c = np.interp(self.grid, t, readings.channels["air.c"][: len(t)]) if "air.c" in means else np.zeros(len(self.grid))
        self.fans = [self._fans(air_c + off) for off in THERMOSTATS_K]
        self.fan_w_k = self.fans[0]
        self.live = means["posts.v"] > HALF * float(np.nanmax(means["posts.v"]))
        if "end.v" in means:  # behind an open main switch, or a board that has opened, there is nothing
            self.live &= means["end.v"] > HALF * means["posts.v"]
        self.outside = float(np.nanmean(means["outside.c"])) if "outside.c" in means else 20.0

    def _fans(self, air_c: Series) -> Series:
        """W/K that fans carry from one moment of the grid to the next, by the air that was read: whether they really do is another matter."""
        carried = np.zeros(len(air_c))
        for fan in self.station.lane.around.fans:
            runs = False
            for n, celsius in enumerate(air_c.tolist()):
                runs = fan.starts != "thermostat" or celsius >= fan.on_c or (runs and celsius > fan.off_c)
                carried[n] += fan.w_k * runs
        return carried

    def _noise(self, channel: str) -> Series:
        """What is uncertain of the mean of a channel over each window, in its unit."""
        kind = meter_of(channel)
        return np.hypot(kind.noise / np.sqrt(self.windows.many), kind.step / 2)

    def _free(self) -> list[tuple[str, Free]]:
        """Every figure that the readings depend on."""
        u, joint = self.station.unknowns, 2 * constant("joint_resistance")
        out = [
            (key, Free(u[key].assumed.value, u[key].assumed.sigma))
            for key in u
            if key not in ("path", "gain", "charger", "late_s", "late_share")
        ]
        out += [("charge", Free(1.0, 0.01)), ("draw", Free(0.0, 0.0)), ("air", Free(1.0, 0.15)), ("air_off", Free(0.0, 0.5))]
        out += [("slow", Free(doubts()["slow"].doubt, 0.02)), ("below_v", Free(float(np.mean(TYPICAL_LAG_V)), 0.002))]
        out.append(("joint_k_w", Free(float(np.mean(TYPICAL_JOINT_K_W)), 1.5)))
        for n, group in enumerate((g for g in self.bank.groups for _ in range(round(g.cells))), 1):
            out += [(f"share.{n}", Free(1.0, 0.07)), (f"room.{n}", Free(group.room, 0.012))]
        for n, point in enumerate(self.station.points, 1):
            ohm = self.station.lane.parts[point.place].ohm
            out += [(f"path.{n}", Free(ohm, 0.35 * ohm)), (f"loose.{n}", Free(0.0, 0.3 * joint)), (f"thin.{n}", Free(0.0, 0.0))]
            out.append((f"off.{n}", Free(0.0, 0.5)))
        for channel in ("posts.v", "end.v", "posts.a", "clamp.a", "load.w", "cells"):
            gain = meter_of("cell.1.v" if channel == "cells" else channel).gain
            out.append((f"gain.{channel}", Free(1.0, gain)))
        return out

    def moved(self, which: Series, by: Series) -> Series:
        """Figures moved by so many of their uncertainties; what may be off by a large share is off by a factor, as likely half as double."""
        mean, sigma = self.mean[which], self.sigma[which]
        share = np.where(mean != 0, sigma / np.where(mean != 0, np.abs(mean), 1.0), 0.0)
        factor = (share >= LARGE) & (by < 0)
        moved: Series = np.where(factor, mean / (1 - np.where(factor, by, 0.0) * share), mean + by * sigma)
        return moved

    def residuals(self, figures: Series) -> Series:
        """How far each reading is from what figures make it, in its own uncertainty; in an order of its own.

        figures: rows of them, each in the order of `names`. Returns as many rows.
        """
        f = {name: figures[:, [n]] for n, name in enumerate(self.names)}
        m, parts = self.windows.means, list[Series]()
        amps = self.amps / f["gain.posts.a"]
        self._pack(figures, f, amps, parts)
        end = self._path(f, amps, parts)
        self._watts(f, amps, end, parts)
        if "clamp.a" in m:
            seen = (m["clamp.a"] - self.zero_clamp) / f["gain.clamp.a"]
            parts.append((seen - amps) / self.noise["clamp.a"])
        if "air.c" in m and "pack.c" in m:
            self._heat(f, parts)
        for names, sigma, value in self.probes:
            parts.append((np.sum([f[name] for name in names], axis=0) - value) / sigma)
        whole: Series = np.nan_to_num(np.concatenate(parts, axis=1))
        return whole

    def _pack(self, figures: Series, f: Mapping[str, Series], amps: Series, parts: list[Series]) -> None:
        """Cells against their curve: as voltage while they are full enough, as charge round the knee; the posts against the cells."""
        taken = self.taken_ah / f["gain.posts.a"]
        gone = taken / f["capacity"]
        slow = self.slow_a / f["gain.posts.a"]
        sag = f["resistance"] / self.series * self.colder * (amps + f["slow"] * slow)
        rooms, shares = (figures[:, [self.at[name] for name in names]][:, :, None] for names in self.of_cells)
        if not self.cells:  # one cell that stands for all
            rooms, shares = rooms.mean(axis=1, keepdims=True), shares.mean(axis=1, keepdims=True)
        gain = f["gain.cells" if self.cells else "gain.posts.v"][:, :, None]
        volts, own = self.cell_v / gain, 1 - (1 - f["charge"] + gone)[:, None, :] / rooms
        drop = shares * sag[:, None, :] + (f["below_v"] * (gone > TURNED))[:, None, :]
        off_v = np.hypot(self.cell_noise, SAG_DOUBT * drop)
        low, high, curve = self.low, ~self.low, self.bank.curve
        at_rest = np.interp(own[:, high], curve.charge, curve.rest_v)
        parts.append((volts[:, high] - (at_rest - drop[:, high])) / off_v[:, high])
        told = np.interp((volts + drop)[:, low], curve.rest_v, curve.charge)
        around = np.interp(told + 0.01, curve.charge, curve.rest_v) - np.interp(told - 0.01, curve.charge, curve.rest_v)
        slope = np.maximum(around / 0.02, LEAST_SLOPE)
        parts.append((told - own[:, low]) / np.hypot(CHARGE_DOUBT, off_v[:, low] / slope))
        if self.cells:
            off = self.windows.means["posts.v"] / f["gain.posts.v"] - volts.sum(axis=1)
            parts.append((off / np.hypot(self.noise["posts.v"], CELL_V * self.series**0.5))[:, self.live])

    def _path(self, f: Mapping[str, Series], amps: Series, parts: list[Series]) -> Series:
        """The end of the main path against the posts; returns its voltage. Terminals against the air inside."""
        m, joint = self.windows.means, 2 * constant("joint_resistance")
        drop, air = np.zeros(amps.shape), m.get("air.c")
        heat = self.heat_a2 / f["gain.posts.a"] ** 2 * f["joint_k_w"]
        for n in range(1, len(self.station.points) + 1):
            local = joint + f[f"loose.{n}"]
            cold = heat * local
            rise = cold * (1 + COPPER * cold)
            drop += amps * (f[f"path.{n}"] + f[f"thin.{n}"] + f[f"loose.{n}"] + local * COPPER * rise)
            if air is not None and f"part.{n}.c" in m:
                off = m[f"part.{n}.c"] - air - rise - f[f"off.{n}"]
                parts.append(off / np.hypot(AIR_K, RISE_DOUBT * np.maximum(rise, 0)))
        posts = m["posts.v"] / f["gain.posts.v"]
        if "end.v" not in m:
            return posts - drop
        end = m["end.v"] / f["gain.end.v"]
        noise = np.hypot(np.hypot(self.noise["posts.v"], self.noise["end.v"]), 0.003)
        parts.append(((posts - end - drop) / np.hypot(noise, SAG_DOUBT * drop))[:, self.live])
        return np.where(self.live, end, posts)

    def _watts(self, f: Mapping[str, Series], amps: Series, end: Series, parts: list[Series]) -> None:
        """AC watts against what the DC watts leave after the inverter; and what flows while everything is off."""
        m, away = self.windows.means, f["draw"] + f.get("standing", 0.0)
        noise_a = np.hypot(self.noise["posts.a"], 0.01)
        behind = np.where(self.live & (end > 0), end, np.inf)
        parts.append(((amps - away / behind) / noise_a)[:, self.off & self.live])
        if "load.w" not in m:
            return
        dc = end * amps - away
        ac = dc
        if self.station.inverter is not None:
            b, a, c = 1 + f["linear"], np.maximum(f["square"] / self.station.rated_w, 1e-12), f["idle"] - dc
            ac = (-b + np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))) / (2 * a)
        off_w = np.hypot(np.hypot(self.noise["load.w"], noise_a * end), WATT_DOUBT * np.abs(dc))
        parts.append(((m["load.w"] / f["gain.load.w"] - np.maximum(ac, 0.0)) / off_w)[:, self.on & self.live])

    def _heat(self, f: Mapping[str, Series], parts: list[Series]) -> None:
        """The air inside, and the pack, carried on from the heat that was lost."""
        m, around, at = self.windows.means, self.station.lane.around, self.windows.ends_s
        first, colder = float(m["air.c"][0]), float(np.mean(self.colder))
        rows = np.concatenate([f[name] for name in HEATS], axis=1)
        distinct, which = np.unique(rows, axis=0, return_inverse=True)
        told = np.empty((2, len(distinct), len(at)))
        for n, (gain_a, gain_v, gain_w, ohm, walls, air, box_heat, surface, pack_heat) in enumerate(distinct.tolist()):
            lost = self.grid_dc / gain_a / gain_v - self.grid_ac / gain_w
            own = self.grid_a2 / gain_a**2 * ohm * colder
            freer = walls / around.walls_w_k
            box = np.array([walls, freer * around.stirred_w_k, freer * around.draught_w * air, box_heat])
            held = np.array([surface, pack_heat])
            for k, course in enumerate(carry_air(GRID_S, lost, own, first, self.outside, box, held, self.fan_w_k * air)):
                told[k, n] = np.interp(at, self.grid, course[: len(self.grid)])
        for channel, courses, off in (("air.c", told[0], f["air_off"]), ("pack.c", told[1], 0.0)):
            course = courses[which.ravel()]
            parts.append((m[channel] - course - off) / np.hypot(AIR_K, RISE_DOUBT * np.abs(course - first)))
