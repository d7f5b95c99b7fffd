"""A lane run second by second in plain code: the independent reference that the compiled equations are held against.

It shares nothing with them but the inputs. Each second, or part of one: switch what is due, settle the voltages by going round the tree, let act
what must, count, and carry charge and heat on by Euler's rule.
"""

from dataclasses import dataclass, field
from math import exp, pi, sin

from kegcart.core.reference import interpolate
from kegcart.core.simulation.inputs import CellBank, Feed, Lane, LoadDraw


def asks(load: LoadDraw, second: float, pattern_s: float) -> float:
    """What a load wants at a second of the run, W."""
    here = second % pattern_s
    for begin_h, end_h in load.spans_h:
        since = here - begin_h * 3600
        if 0 <= since < (end_h - begin_h) * 3600:
            if load.cycle_s:
                since %= sum(load.cycle_s)
                if since >= load.cycle_s[0]:
                    return 0.0
            return load.watts + (load.surge_w if since < load.surge_s else 0.0)
    return 0.0


@dataclass
class Bank:
    """A bank as it stands."""

    of: CellBank
    charge: float
    celsius: float
    lost: float = 0.0
    late: float = 0.0
    polar: float = 0.0
    open: str = ""
    under: float = 0.0
    wait: float = 0.0
    hot: float = 0.0
    filling: str = ""
    barred: str = ""
    over: float = 0.0
    amps: float = 0.0
    volts: float = 0.0
    tree_a: float = 0.0
    moved_wh: float = 0.0

    def emf(self, charge: float, filling: bool = False) -> float:
        return sum(g.cells * self.of.cell_voltage(g, charge, filling) for g in self.of.groups)

    def cells(self, ohm: float) -> list[float]:
        drop = self.amps * ohm + self.late
        return [self.of.cell_voltage(g, self.charge - self.lost, drop < 0) - drop * g.share for g in self.of.groups]


@dataclass
class Source:
    """A source as it stands."""

    of: Feed
    watts: float = 0.0
    filling: bool = False
    held_s: float = 0.0
    amps: float = 0.0
    given_wh: float = 0.0

    def most(self, volts: float) -> float:
        return min(self.of.current_a, self.watts / (volts + self.of.threshold_v))

    def at(self, volts: float, holds: float) -> float:
        return min(max(0.0, (holds - volts) / max(self.of.ohm, 1e-5)), self.most(volts)) if holds > 0 else 0.0


@dataclass
class Told:
    """What came of it: Wh, hours by part without power, first second of each thing that happened."""

    hottest_c: float = -1e9
    delivered_wh: float = 0.0
    charged_wh: float = 0.0
    lost_wh: float = 0.0
    charges: list[float] = field(default_factory=list)
    dark_h: dict[int, float] = field(default_factory=dict)
    happened: list[tuple[float, str]] = field(default_factory=list)


class Plain:
    """The lane, stepped by `tick` seconds."""

    def __init__(self, lane: Lane, tick: float = 1.0) -> None:
        self.lane, self.told, self.tick = lane, Told(), tick
        self.banks = [Bank(b, lane.plan.start_charge, lane.around.outside_c) for b in lane.banks]
        self.feeds = [Source(feed) for feed in lane.feeds]
        self.plugged = False
        self.air = lane.around.outside_c
        self.blows = [False for _ in lane.around.fans]
        n = len(lane.parts)
        self.volts, self.amps = [0.0] * n, [0.0] * n
        self.shut, self.tripped, self.under, self.wait, self.hot = [True] * n, [False] * n, [0.0] * n, [0.0] * n, [0.0] * n
        self.children: list[list[int]] = [[k for k, p in enumerate(lane.parts) if p.feed == i] for i in range(n)]
        self.second, self.moved = 0.0, 0.0

    def wanted(self) -> None:
        """What each part's loads ask, and which inverters are on."""
        pattern = self.lane.plan.pattern_h * 3600
        at = self.lane.plan.begin_h * 3600 + self.second
        self.loads: list[list[tuple[LoadDraw, float]]] = [[] for _ in self.lane.parts]
        self.on = [not p.with_loads for p in self.lane.parts]
        for load in self.lane.loads:
            if (watts := asks(load, at, pattern)) > 0:
                self.loads[load.part].append((load, watts))
            if any(a * 3600 <= at % pattern < b * 3600 for a, b in load.spans_h):
                here: int | None = load.part
                while here is not None:
                    self.on[here] = True
                    here = self.lane.parts[here].feed
        for i, on in enumerate(self.on):
            if not on:
                self.shut[i], self.tripped[i] = True, False

    def passes(self, i: int) -> bool:
        return self.on[i] and self.shut[i] and not self.tripped[i]

    def current(self, i: int, feeding_v: float) -> float:
        """A into a part that is fed at so many V, going round its tree once."""
        part = self.lane.parts[i]
        if not self.passes(i):
            self.volts[i], self.amps[i] = feeding_v, 0.0
            return 0.0
        volts = feeding_v - self.amps[i] * part.ohm
        behind = sum(self.current(k, part.output_v or volts) for k in self.children[i])
        if part.output_v and part.loss:
            out = part.output_v * behind
            amps = (out + part.loss.idle_w + part.loss.linear * out + part.loss.square * out**2 + part.draw_w) / volts
        else:
            amps = behind + part.draw_w / volts
            for load, watts in self.loads[i]:
                law = {"power": watts / volts}
                if load.law != "power":
                    law = {"resistance": watts * volts / load.volts**2, "current": watts / load.volts}
                amps += law[load.law] * load.taken
        self.moved = max(self.moved, abs(amps - self.amps[i]))
        self.volts[i], self.amps[i] = volts, amps
        return amps

    def solve(self, b: int) -> None:
        """Voltage at the posts and current of a bank."""
        bank = self.banks[b]
        capacity, ohm = self.of_temperature(bank)
        r0 = ohm * (1 - bank.of.late_share)
        rest = bank.emf(bank.charge - bank.lost) - bank.late
        roots = [i for i, p in enumerate(self.lane.parts) if p.bank == b and p.feed is None]
        bank.volts = bank.volts or rest
        if bank.open:
            bank.amps, bank.tree_a, bank.volts = 0.0, 0.0, rest
            for feed in self.feeds:
                feed.amps = 0.0 if self.banks[feed.of.bank] is bank else feed.amps
            return
        for _ in range(20 if bank.barred else 80):
            self.moved = 0.0
            bank.tree_a = sum(self.current(i, bank.volts) for i in roots) + bank.of.own_w / bank.volts
            volts = self.at_the_posts(bank, rest, capacity, r0)
            moved, bank.volts = abs(volts - bank.volts), volts
            if max(moved, self.moved) < 1e-8:
                return
        self.float(bank, rest, roots)

    def float(self, bank: Bank, rest: float, roots: list[int]) -> None:
        """What going round swings about, where nothing flows into the bank or out of it: the voltage at which its sources give what
        its loads take there."""
        able = [(feed, holds) for feed in self.feeds if self.banks[feed.of.bank] is bank and (holds := self.holds(feed)) > 0]
        if not bank.barred or not able:
            return
        top = max(rest, *(holds for _, holds in able))
        low, high = rest, top
        for _ in range(40):
            volts = (low + high) / 2
            for _ in range(8):
                taken = sum(self.current(i, volts) for i in roots) + bank.of.own_w / volts
            given = sum(feed.at(volts, holds) for feed, holds in able)
            low, high = (volts, high) if given > taken else (low, volts)
        if rest < low and high < top:
            bank.volts, bank.tree_a, bank.amps = volts, taken, 0.0
            for feed, holds in able:
                feed.amps = feed.at(volts, holds) * taken / given

    def at_the_posts(self, bank: Bank, rest: float, capacity: float, r0: float) -> float:
        """The voltage at which what the sources give is what the loads and the bank take; sets the currents of all."""
        feeds = [feed for feed in self.feeds if self.banks[feed.of.bank] is bank]
        fill = bank.emf(bank.charge - bank.lost, True) - bank.late
        able = [(feed, holds) for feed in feeds if (holds := self.holds(feed)) > 0]

        def given(volts: float) -> float:
            return sum(feed.at(volts, holds) for feed, holds in able)

        def into(volts: float) -> float:
            return (volts - rest) / r0 if volts < rest else 0.0 if bank.barred else max(0.0, volts - fill) / r0

        low, high = rest - r0 * bank.tree_a - 1e-6, max([rest + 1e-6, *(holds for _, holds in able)])
        for _ in range(36 if able else 0):
            middle = (low + high) / 2
            low, high = (middle, high) if given(middle) - bank.tree_a > into(middle) else (low, middle)
        volts = min(low, high) if able else rest - r0 * bank.tree_a
        bank.amps, shared = -into(volts), given(volts)
        accepted = bank.of.lead.acceptance * (1 - bank.charge) * capacity if bank.of.lead else 1e9
        bank.amps = max(bank.amps, -accepted)
        for feed in feeds:
            feed.amps = 0.0
        for feed, holds in able:
            feed.amps = feed.at(volts, holds) * max(0.0, bank.tree_a - bank.amps) / shared if shared > 0 else 0.0
        if bank.amps < 0:
            volts = fill - bank.amps * r0
            volts += max(0.0, max(holds for _, holds in able) - volts) * bank.polar**2
        return volts

    def holds(self, feed: Source) -> float:
        """What a source would hold at the posts now, V; 0 where it gives nothing."""
        of, through = feed.of, feed.of.part
        while through is not None:
            if not self.passes(through):
                return 0.0
            through = self.lane.parts[through].feed
        if feed.watts <= 0 or feed.given_wh >= of.holds_wh:
            return 0.0
        return max(0.0, (of.set_v if feed.filling else of.float_v) - of.threshold_v)

    def of_temperature(self, bank: Bank) -> tuple[float, float]:
        xs, capacity, ohm = zip(*self.lane.cold, strict=True)
        c = interpolate(bank.celsius, xs, capacity) * bank.of.capacity_ah
        return c, interpolate(bank.celsius, xs, ohm) * bank.of.resistance_ohm

    def say(self, what: str) -> None:
        self.told.happened.append((self.second, what))

    def plug(self) -> None:
        plan = self.lane.plan
        since = self.second % round(plan.period_h * 3600)
        charging = plan.away_h < plan.period_h and since >= plan.away_h * 3600
        if charging and not self.plugged:
            self.tripped = [False] * len(self.tripped)
        self.plugged = charging
        for feed in self.feeds:
            hours, hour = feed.of.hours, (plan.begin_h + self.second / 3600) % feed.of.repeats_h
            now = (1e12 if charging else 0.0) if hours is None else sum(w for a, b, w in hours if a <= hour + 1e-9 < b)
            if now > 0 and feed.watts <= 0:
                feed.filling, feed.held_s, bank = True, 0, self.banks[feed.of.bank]
                bank.open, bank.wait, bank.barred, bank.over = "", 0, "", 0
            feed.watts = now
        for bank in self.banks:
            bank.filling = self.does(bank)

    def does(self, bank: Bank) -> str:
        """Whether any of its sources fills it, or only holds it."""
        able = [feed for feed in self.feeds if self.banks[feed.of.bank] is bank and feed.watts > 0]
        return "filling" if any(f.filling and self.holds(f) > 0 for f in able) else "holding" if able else ""

    def act(self, b: int) -> bool:
        """Whether anything of a bank or its parts acted."""
        bank, board = self.banks[b], self.banks[b].of.board
        r0 = self.of_temperature(bank)[1] * (1 - bank.of.late_share)
        cells = bank.cells(r0)
        if not bank.open:
            if board and (bank.amps > board.burst_a * (1 + 1e-9) or bank.hot >= 1):
                bank.open, bank.hot, bank.wait, bank.under = "over", 0.0, 0, 0
                self.say("over-current")
                return True
            low = board is not None and min(cells) < board.cell_min_v and bank.under >= board.delay_s
            if bank.amps > 0 and (low or bank.charge - bank.lost <= 0):
                bank.open, bank.wait, bank.under, bank.hot = "under" if board else "empty", 0, 0, 0.0
                self.say("board opens" if board else "empty")
                return True
            if board and bank.filling and bank.amps < 0 and max(cells) > board.cell_max_v:
                bank.barred = "full"
                return True
        elif (bank.open == "empty" and bank.charge - bank.lost >= 0.02) or (
            bank.open != "empty" and board and bank.wait >= board.restart_s
        ):
            bank.open, bank.wait = "", 0
            self.say("board closes")
            return True
        return self.act_on_charge(bank) or self.act_on_parts(b)

    def act_on_charge(self, bank: Bank) -> bool:
        board = bank.of.board
        if not bank.filling:
            return False
        if board and bank.barred in ("cold", "hot"):
            if board.lock_below_c + 2 <= bank.celsius <= board.lock_above_c - 2:
                bank.barred = ""
                self.say("lock free")
                return True
            return False
        if board and bank.filling == "filling" and not board.lock_below_c <= bank.celsius <= board.lock_above_c:
            bank.barred = "cold" if bank.celsius < board.lock_below_c else "hot"
            self.say("locked")
            return True
        if board and bank.barred == "much":
            if bank.wait < board.restart_s:
                return False
            bank.barred, bank.wait = "", 0
            return True
        if board and bank.filling == "filling" and -bank.amps > board.charge_a * (1 + 1e-9) and bank.over >= board.delay_s:
            bank.barred, bank.over, bank.wait = "much", 0, 0
            self.say("charge stopped")
            return True
        if bank.barred:
            return False
        return self.act_on_feeds(bank)

    def act_on_feeds(self, bank: Bank) -> bool:
        acted = False
        for feed in self.feeds:
            if self.banks[feed.of.bank] is not bank or feed.watts <= 0:
                continue
            if not feed.filling:
                if not bank.open and bank.volts < feed.of.recharge_v:
                    feed.filling, feed.held_s, acted = True, 0, True
                continue
            if self.holds(feed) <= 0:
                continue
            tail = feed.amps if feed.of.ends == "its current" else -bank.amps
            tapers = self.at_its_voltage(feed, bank)
            late = feed.of.ends != "never" and feed.held_s >= feed.of.absorb_s
            if bank.charge >= 1 - 1e-9 or late or (tapers and feed.of.ends.endswith("current") and tail <= feed.of.end_a):
                feed.filling, acted = False, True
                self.say("charged")
        bank.filling = self.does(bank)
        return acted

    def at_its_voltage(self, feed: Source, bank: Bank) -> bool:
        there = bank.volts + feed.amps * max(feed.of.ohm, 1e-5) >= 0.995 * self.holds(feed)
        tapers = feed.amps < feed.most(bank.volts) * (1 - 1e-9)
        return self.holds(feed) > 0 and not bank.open and not bank.barred and there and tapers

    def act_on_parts(self, b: int) -> bool:
        """Whether any part of a bank acted: all of them at one moment."""
        acted = [self.act_on_part(i) for i, part in enumerate(self.lane.parts) if part.bank == b]
        return any(acted)

    def act_on_part(self, i: int) -> bool:
        part = self.lane.parts[i]
        if not self.live(i) or not self.on[i]:
            self.under[i] = self.wait[i] = 0
            self.hot[i] = 0.0
            return False
        cut = part.threshold
        if cut and self.shut[i] and self.volts[i] < cut.volts and self.under[i] >= cut.delay_s:
            self.shut[i], self.under[i], self.wait[i] = False, 0, 0
            self.say(f"{part.name} cuts off")
            return True
        if cut and not self.shut[i] and self.wait[i] >= cut.restart_s and self.volts[i] >= cut.restart_v:
            self.shut[i], self.wait[i] = True, 0
            self.say(f"{part.name} is on again")
            return True
        if part.overload and not self.tripped[i] and (self.hot[i] >= 1 or self.loaded(i) > part.overload.surge_va * (1 + 1e-9)):
            self.tripped[i], self.hot[i] = True, 0.0
            self.say(f"{part.name} trips")
            return True
        return False

    def live(self, i: int) -> bool:
        part = self.lane.parts[i]
        if part.feed is None:
            return not self.banks[part.bank].open
        return self.live(part.feed) and self.passes(part.feed)

    def loaded(self, i: int) -> float:
        """Apparent power that runs behind a part, or with a start the power."""
        va = watts = 0.0
        waiting = [i]
        while waiting:
            k = waiting.pop()
            if not self.live(k) or not self.passes(k):
                continue
            va += sum(min(w, load.watts) * load.va for load, w in self.loads[k])
            watts += sum(w for _, w in self.loads[k])
            waiting += self.children[k]
        return max(va, watts)

    def count(self) -> float:
        """Enter a tick in the account; returns the heat into the air, W."""
        heat, hours = 0.0, self.tick / 3600
        for feed in self.feeds:
            bank, lost = self.banks[feed.of.bank], feed.amps * (feed.amps * max(feed.of.ohm, 1e-5) + feed.of.threshold_v)
            out = feed.amps * bank.volts + lost
            feed.held_s += self.tick if self.at_its_voltage(feed, bank) and feed.filling else 0.0
            feed.given_wh += out * hours
            self.told.charged_wh += out * hours
            heat += lost + out * feed.of.inside
        for i, part in enumerate(self.lane.parts):
            fed = self.live(i) and self.passes(i)
            if self.loads[i] and not fed:
                self.told.dark_h[i] = self.told.dark_h.get(i, 0.0) + hours
            if not fed:
                continue
            heat += self.amps[i] ** 2 * part.ohm
            if part.output_v:
                out = part.output_v * sum(self.amps[k] for k in self.children[i])
                heat += self.volts[i] * self.amps[i] - out
                continue
            heat += part.draw_w
            for load, watts in self.loads[i]:
                ratio = {"power": 1.0, "resistance": (self.volts[i] / (load.volts or 1)) ** 2}
                reaches = watts * (ratio.get(load.law) or self.volts[i] / load.volts)
                self.told.delivered_wh += reaches * hours
                heat += reaches * (load.taken - 1)
        return heat + sum(bank.of.own_w for bank in self.banks if not bank.open)

    def leaves(self) -> float:
        """W that the air inside loses to the outside now, less what the sun brings; the fans switched as they must."""
        around, rise = self.lane.around, self.air - self.lane.around.outside_c
        inverts = any(p.inverts and self.live(i) and self.passes(i) for i, p in enumerate(self.lane.parts))
        for n, fan in enumerate(around.fans):
            if fan.starts == "thermostat":
                off_c = min(fan.off_c, fan.on_c - 1)
                self.blows[n] = self.air > off_c if self.blows[n] else self.air >= fan.on_c
            else:
                self.blows[n] = fan.starts == "always" or inverts
        out = sum(f.w_k for f, on in zip(around.fans, self.blows, strict=True) if on and f.outward)
        into = sum(f.w_k for f, on in zip(around.fans, self.blows, strict=True) if on and not f.outward)
        walls = (around.stirred_w_k or around.walls_w_k) if any(self.blows) else around.walls_w_k
        carried = max(out, into) or around.draught_w * abs(rise) ** 0.5
        hour = (self.lane.plan.begin_h + self.second / 3600) % 24
        shines = max(0.0, sin(pi * (hour - around.rises_h) / (around.sets_h - around.rises_h)))
        sun = around.sun_w * shines if around.rises_h < hour < around.sets_h else 0.0
        return (walls + carried) * rise - sun * walls / around.walls_w_k

    def carry(self) -> None:
        """One tick on."""
        heat, around, tick = self.count(), self.lane.around, self.tick
        flows = heat - self.leaves()
        for b, bank in enumerate(self.banks):
            capacity, ohm = self.of_temperature(bank)
            of, amps, board = bank.of, bank.amps, bank.of.board
            cells = bank.cells(ohm * (1 - of.late_share))
            if board:
                bank.under = bank.under + tick if not bank.open and amps > 0 and min(cells) < board.cell_min_v else 0
                bank.over = bank.over + tick if -amps > board.charge_a * (1 + 1e-9) else 0
                whole = max((board.burst_a / board.continuous_a) ** 2 - 1, 1e-6) * board.burst_s
                bank.hot = 0.0 if bank.open else max(0.0, bank.hot + ((amps / board.continuous_a) ** 2 - 1) / whole * tick)
                back = bank.open == "over" or bank.barred == "much"
                if bank.open == "under":
                    rested = [of.cell_voltage(g, bank.charge - bank.lost) - bank.late * g.share for g in of.groups]
                    back = min(rested) >= board.release_v or (bank.filling == "filling" and not bank.barred)
                bank.wait = bank.wait + tick if back else 0
            warms = (
                next((f for f in self.feeds if f.of.bank == b and f.watts > 0), None) if bank.celsius < of.pad_until_c else None
            )
            pad = min(of.pad_w, warms.watts) if warms else 0.0
            if warms:
                warms.given_wh += pad * tick / 3600
                self.told.charged_wh += pad * tick / 3600
            inside = bank.emf(bank.charge)
            stored = inside * (amps if amps > 0 else amps * of.coulombic)
            own_heat = stored - amps * bank.volts
            self.told.lost_wh += own_heat * tick / 3600
            if of.lead and amps > of.lead.rated_a:
                bank.lost += amps * ((amps / of.lead.rated_a) ** (of.lead.peukert - 1) - 1) * tick / 3600 / capacity
            elif of.lead:
                bank.lost *= exp(-tick / of.lead.recovery_s)
            if of.lead:
                accepted = of.lead.acceptance * (1 - bank.charge) * capacity
                goal = min(1.0, -amps / max(accepted, 1e-9)) if amps < 0 else 0.0
                bank.polar = goal + (bank.polar - goal) * exp(-tick / of.lead.polar_s)
            settled = amps * ohm * of.late_share
            bank.late = settled + (bank.late - settled) * exp(-tick / of.late_s)
            bank.charge = min(1.0, max(0.0, bank.charge - (amps if amps > 0 else amps * of.coulombic) * tick / 3600 / capacity))
            gives = of.heat_w_k * (bank.celsius - self.air)
            flows += gives
            bank.celsius += (own_heat + pad - gives) * tick / of.heat_j_k
            if b == 0:
                self.told.charges.append(bank.charge)
        for i, part in enumerate(self.lane.parts):
            live, cut = self.live(i) and self.on[i], part.threshold
            self.under[i] = self.under[i] + tick if live and cut and self.passes(i) and self.volts[i] < cut.volts else 0
            self.wait[i] = self.wait[i] + tick if live and cut and not self.shut[i] and self.volts[i] >= cut.restart_v else 0
            if part.overload and live and self.passes(i):
                o = part.overload
                lasting = o.rated_va * max(0.1, 1 - o.derate * max(0.0, self.air - o.derate_c))
                whole = max((o.surge_va / lasting) ** 2 - 1, 1e-6) * o.surge_s
                self.hot[i] = max(0.0, self.hot[i] + ((self.loaded(i) / lasting) ** 2 - 1) / whole * tick)
        self.air += flows * tick / around.box_j_k
        self.told.hottest_c = max(self.told.hottest_c, self.air)

    def run(self) -> Told:
        plan = self.lane.plan
        for count in range(round((plan.end_h - plan.begin_h) * 3600 / self.tick)):
            self.second = count * self.tick
            self.wanted()
            self.plug()
            for b in range(len(self.banks)):
                self.solve(b)
                for _ in range(20):
                    if not self.act(b):
                        break
                    self.solve(b)
            self.carry()
        return self.told


def run_plain(lane: Lane, tick: float = 1.0) -> Told:
    """A lane run second by second, or by ticks of so many seconds."""
    return Plain(lane, tick).run()
