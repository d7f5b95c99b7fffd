"""A true station: the simulation of a design with figures of its own, that is switched and loaded from outside and carried on in time.

What a fit of its readings does not know stands here besides: a part of the resistance that answers more slowly, voltages that lag
behind the charge (hysteresis), contacts that warm up and so resist more. The equations are those of the simulation; the state is carried
on slice by slice, and whoever asks reads it as meters would, were they perfect.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import exp, inf
from random import Random
from typing import Any

import numpy as np

from kegcart.core.bench.plan import Setting
from kegcart.core.bench.station import BenchStation, up, with_values
from kegcart.core.lane_figures import numbers_of, with_numbers
from kegcart.core.reference import constant
from kegcart.core.simulation import equations as eq
from kegcart.core.simulation.arrays import arrays_of
from kegcart.core.simulation.inputs import CellGroup, Feed, Lane, LoadDraw, Plan
from kegcart.core.simulation.run import Event
from kegcart.core.simulation.told import ARRAYS, in_words

FOREVER_H = 1e6
CHANGES = ARRAYS.index("change_s")
FORGETS = 0.02
"""A voltage that lags has turned round after so much charge, a share of the capacity."""
JOINT_S = 240.0
"""Typical time constant of a lug with its cable: some minutes."""


@dataclass(frozen=True, slots=True)
class Truth:
    """What of a station is otherwise than its design has it.

    values: of its unknowns, by key. rooms, shares: capacity and resistance of each group of cells in series, over what the design has;
    empty: as there.
    slow_share, slow_s: a part of the resistance, over it, that answers with this time constant besides. hysteresis_v: by which a cell stands
    below its curve while discharged and above it while charged. joint_k_w: rise of each part's terminals over the air inside for each W
    in them. warms: how much more they resist for each K. loose, thin: more resistance at the terminals of a part on the way, and of the run
    to it, Ω, by key. draw_w: what draws besides, where the main path begins. charge: at the start. air: share of its draught and its fans'
    that the box still has.
    """

    values: Mapping[str, float] = field(default_factory=dict)
    rooms: tuple[float, ...] = ()
    shares: tuple[float, ...] = ()
    slow_share: float = 0.0
    slow_s: float = 900.0
    hysteresis_v: float = 0.0
    joint_k_w: float = 5.0
    warms: float = 0.0
    loose: Mapping[str, float] = field(default_factory=dict)
    thin: Mapping[str, float] = field(default_factory=dict)
    air: float = 1.0
    draw_w: float = 0.0
    charge: float = 1.0
    outside_c: float = 20.0


MOST_OFF = 2.2
"""No figure is drawn further from what is assumed of it, in its standard uncertainties."""
TYPICAL_SLOW, TYPICAL_SLOW_S = (0.02, 0.06), (600.0, 1500.0)
TYPICAL_LAG_V, TYPICAL_JOINT_K_W, COPPER = (0.0, 0.005), (3.0, 7.0), 0.00393


def drawn(station: BenchStation, chance: Random, spread: float = 1.0) -> Truth:
    """A true station by chance: each figure as far from what is assumed as that may be off, times `spread`; cells that differ by a twentieth
    in resistance, and what a fit does not know of (typical)."""
    values = {}
    for key, unknown in station.unknowns.items():
        off, assumed = spread * max(-MOST_OFF, min(MOST_OFF, chance.gauss(0, 1))), unknown.assumed
        share = assumed.sigma / assumed.value
        # What may be off by a large share is off by a factor: as likely half as double, and never below nothing.
        values[key] = assumed.value * (1 + off * share if off > 0 or share < 0.2 else 1 / (1 - off * share))
    cells = sum(round(g.cells) for g in station.lane.banks[0].groups)
    return Truth(
        values,
        shares=tuple(1 + chance.gauss(0, 0.05) for _ in range(cells)),
        slow_share=chance.uniform(*TYPICAL_SLOW),
        slow_s=chance.uniform(*TYPICAL_SLOW_S),
        hysteresis_v=chance.uniform(*TYPICAL_LAG_V),
        joint_k_w=chance.uniform(*TYPICAL_JOINT_K_W),
        warms=COPPER,
        outside_c=chance.uniform(15, 28),
    )


def grouped(lane: Lane, hidden: Truth) -> Lane:
    """A lane whose first bank has its groups one by one, as they truly are."""
    bank = lane.banks[0]
    apart = [
        CellGroup(g.room, g.share / g.cells if len(bank.groups) == 1 else g.share, 1.0)
        for g in bank.groups
        for _ in range(round(g.cells))
    ]
    if len(bank.groups) == 1:
        apart = [CellGroup(1.0, 1 / len(apart), 1.0) for _ in apart]
    rooms = [g.room * (hidden.rooms[n] if hidden.rooms else 1.0) for n, g in enumerate(apart)]
    shares = [g.share * (hidden.shares[n] if hidden.shares else 1.0) for n, g in enumerate(apart)]
    whole, least = sum(shares), min(rooms)
    groups = tuple(CellGroup(room / least, share / whole, 1.0) for room, share in zip(rooms, shares, strict=True))
    return replace(
        lane,
        banks=(
            replace(bank, groups=groups, capacity_ah=bank.capacity_ah * least, resistance_ohm=bank.resistance_ohm * whole),
            *lane.banks[1:],
        ),
    )


def aired(lane: Lane, hidden: Truth) -> Lane:
    """A lane whose draught and fans move as much air as they truly do."""
    fans = tuple(replace(fan, w_k=fan.w_k * hidden.air) for fan in lane.around.fans)
    return replace(lane, around=replace(lane.around, draught_w=lane.around.draught_w * hidden.air, fans=fans))


def ailing(lane: Lane, station: BenchStation, hidden: Truth) -> Lane:
    """Any lane of a station's design, as it runs in its days, with what is otherwise of it. Joints are taken as they are when cold."""
    at = [point.place for point in station.points], station.inverter, station.rated_w
    was, assumed = numbers_of(lane, *at), station.assumed
    lane = with_numbers(lane, *at, {key: was[key] * v / assumed[key] for key, v in hidden.values.items() if key in was})
    lane = aired(lane, hidden)
    parts = list(lane.parts)
    for n, point in enumerate(station.points):
        more = hidden.loose.get(point.key, 0.0) + hidden.thin.get(point.key, 0.0)
        draws = hidden.draw_w if n == 0 else 0.0
        part = parts[point.place]
        parts[point.place] = replace(part, ohm=part.ohm + more, draw_w=part.draw_w + draws)
    return grouped(replace(lane, parts=tuple(parts)), hidden)


class TrueStation:
    """A station that lives: set it, let time go by, read it."""

    def __init__(self, station: BenchStation, hidden: Truth) -> None:
        self.station, self.hidden = station, hidden
        lane = aired(grouped(with_values(station, hidden.values), hidden), hidden)
        volts = next((p.output_v for p in [lane.parts[i] for i in up(lane, station.socket)] if p.output_v), 0.0)
        self.nominal_v = volts or sum(lane.banks[0].cell_voltage(g, 0.5) for g in lane.banks[0].groups)
        loads = tuple(
            LoadDraw("load", station.socket, 0.0, (), law=law, volts=self.nominal_v) for law in ("power", "current", "resistance")
        )
        feed = Feed("supply", 0, 0.0, 0.0, 0.0, ends="never", hours=())
        plan = Plan(0.0, FOREVER_H, FOREVER_H, FOREVER_H, FOREVER_H, hidden.charge)
        around = replace(lane.around, outside_c=hidden.outside_c)
        self.lane = replace(lane, loads=loads, feeds=(feed,), plan=plan, around=around)
        self.arrays = arrays_of(self.lane)
        self._given = [getattr(self.arrays, name) for name in ARRAYS]
        # Fields of the records as arrays, taken out once: asking a record for one costs as much as a step of the equations.
        self._parts = {name: getattr(self.arrays.parts, name) for name in self.arrays.parts.dtype.names}
        self._bank = {name: getattr(self.arrays.banks, name)[:1] for name in self.arrays.banks.dtype.names}
        self.seconds, self.setting, self.events = 0.0, Setting(), list[Event]()
        self.way = np.array([point.place for point in station.points], dtype=int)
        self.keys = [point.key for point in station.points]
        self.posts = np.array([i for i, part in enumerate(self.lane.parts) if part.bank == 0 and part.feed is None], dtype=int)
        loose, thin = (np.array([there.get(key, 0.0) for key in self.keys]) for there in (hidden.loose, hidden.thin))
        self.own_ohm = self._parts["ohm"][self.way] + loose + thin
        self.joint_ohm = 2 * constant("joint_resistance") + loose
        self.rises = np.zeros(len(self.way))
        self.rooms = np.array([g.room for g in self.lane.banks[0].groups])
        self.shares = np.array([g.share for g in self.lane.banks[0].groups])
        curve = self.lane.banks[0].curve
        self.curve = np.array([curve.charge, curve.rest_v, curve.fill_v])
        self.slow_v = self.lag_v = 0.0
        if hidden.draw_w:
            self._parts["draw_w"][self.way[0] if len(self.way) else station.socket] += hidden.draw_w
        self.set(Setting())
        self.advance(1e-3)

    def set(self, setting: Setting) -> None:
        """Switch and load it from now on."""
        self.setting = setting
        for place, part in enumerate(self.lane.parts):
            if part.with_loads:
                if self._parts["on"][place] and not setting.inverter:
                    self._parts["tripped"][place], self._parts["closed"][place] = False, True
                self._parts["on"][place] = setting.inverter
        self._parts["on"][self.way[:1]] = setting.main
        feed: Any = self.arrays.feeds[0]
        feed.on = setting.supply_a > 0
        feed.watts, feed.current_a, feed.set_v = inf, setting.supply_a, setting.supply_v
        feed.stage = eq.FILLING

    def reset(self) -> None:
        """Close by hand what has opened."""
        self._parts["tripped"][:], self._parts["closed"][:] = False, True
        self._bank["open"][0], self._bank["under_s"][0] = eq.SHUT, 0.0

    def advance(self, seconds: float) -> None:
        """Let time go by, with everything set as it is; what opens by itself is added to `events`."""
        now, arrays = self.setting, self.arrays
        self._bank["slow_v"][0] = self.slow_v + self.lag_v
        self._parts["ohm"][self.way] = self.own_ohm + self.joint_ohm * self.hidden.warms * self.rises
        plan = arrays.plan[0]
        plan.begin_s, plan.end_s = self.seconds, self.seconds + seconds
        begun, wants = self.charge, (now.watts, now.amps * self.nominal_v, now.heater_w)
        changes = (np.full(len(wants), self.seconds), np.arange(len(wants)), np.array(wants))
        given = [*self._given]
        given[CHANGES : CHANGES + len(changes)] = changes
        compiled: Any = eq.run
        _, events, _, _ = compiled(*given, 0.0, False)
        self.events += [in_words(row, self.lane) for row in events.tolist()]
        self.seconds += seconds
        self._carry(seconds, begun)

    def _carry(self, seconds: float, begun: float) -> None:
        """Carry on what the equations do not know: slow voltages, and the warmth of the terminals."""
        bank, hidden = self._bank, self.hidden
        ohm = float(bank["r0"][0] + bank["r1"][0])
        goes = exp(-seconds / hidden.slow_s)
        self.slow_v = self.slow_v * goes + float(bank["amps"][0]) * ohm * hidden.slow_share * (1 - goes)
        moved = self.charge - begun
        if moved:
            reach = hidden.hysteresis_v * len(self.rooms)
            aim = reach if moved < 0 else -reach
            self.lag_v = aim + (self.lag_v - aim) * exp(-abs(moved) / FORGETS)
        ends = hidden.joint_k_w * self._parts["amps"][self.way] ** 2 * self.joint_ohm * (1 + hidden.warms * self.rises)
        self.rises = ends + (self.rises - ends) * exp(-seconds / JOINT_S)

    @property
    def values(self) -> dict[str, float]:
        """The true figures, by the keys of the station's unknowns; that of the meters apart, which are not the station's."""
        bank = self.lane.banks[0]
        of_bank = {"resistance": bank.resistance_ohm, "capacity": bank.capacity_ah}
        return {key: v for key, v in {**self.station.assumed, **self.hidden.values, **of_bank}.items() if key != "gain"}

    def read(self) -> dict[str, float]:
        """What perfect meters would show now, by channel: what `meters.csv` names, a cell or a part by its number."""
        parts, bank, feeds = self._parts, self._bank, self.arrays.feeds
        supply_a, post_v = float(feeds.amps[0]), float(bank["post_v"][0])
        inside, socket = float(self.arrays.air.inside_c[0]), self.station.socket
        out = {
            "posts.v": post_v,
            "posts.a": float(parts["amps"][self.posts].sum()) - supply_a,
            "air.c": inside,
            "outside.c": self.hidden.outside_c,
            "pack.c": float(bank["temperature_c"][0]),
        }
        out["clamp.a"] = out["posts.a"]
        if len(self.way):
            out["end.v"] = float(parts["volts"][self.way[-1]])
        live = bool(parts["live"][socket])
        out["load.v"] = float(parts["volts"][socket]) if live else 0.0
        out["load.w"] = self._load_w(out["load.v"])
        for n, volts in enumerate(self.cell_volts().tolist(), 1):
            out[f"cell.{n}.v"] = volts
        for n, rise in enumerate(self.rises.tolist(), 1):
            out[f"part.{n}.c"] = inside + rise
        eta = self.hidden.values.get("charger", self.station.assumed["charger"])
        out["supply.v"] = post_v if self.setting.supply_a > 0 else 0.0
        out["supply.a"] = supply_a
        out["wall.w"] = out["supply.v"] * supply_a / eta
        return out

    def _load_w(self, volts: float) -> float:
        """W that the load takes at its socket of so many V."""
        now = self.setting
        if not volts:
            return 0.0
        return float(self._bank["fed"][0]) * (now.watts + now.amps * volts + now.heater_w * (volts / self.nominal_v) ** 2)

    def cell_volts(self) -> Any:
        """Voltage of each cell in series, V."""
        bank = self._bank
        charge, amps = float(bank["charge"][0] - bank["bound"][0]), float(bank["amps"][0])
        drop = float(bank["late_v"][0]) + float(bank["r0"][0]) * amps + self.slow_v + self.lag_v
        return np.interp(1 - (1 - charge) / self.rooms, self.curve[0], self.curve[2 if amps < 0 else 1]) - self.shares * drop

    @property
    def charge(self) -> float:
        """How full it is."""
        return float(self._bank["charge"][0])

    @property
    def opened(self) -> bool:
        """Whether something has opened by itself, and stands open."""
        return bool(self._bank["open"][0] != eq.SHUT or self._parts["tripped"].any() or not self._parts["closed"].all())
