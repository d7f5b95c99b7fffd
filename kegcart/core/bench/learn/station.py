"""Everything that the readings of a test say of its station: each figure as assumed, as measured, and both together."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, isfinite

import numpy as np

from kegcart.core.bench.learn.capacity import capacity_at_25
from kegcart.core.bench.learn.estimate import Doubted, Fit, RefusedError, combine
from kegcart.core.bench.learn.heat import heat_balance
from kegcart.core.bench.learn.inverter import inverter_losses
from kegcart.core.bench.learn.meters import charger_efficiency, gain, run_resistance
from kegcart.core.bench.learn.resistance import late_part_of_step, pack_resistance
from kegcart.core.bench.readings import Readings, Series, Span
from kegcart.core.bench.station import BenchStation
from kegcart.core.reference import cold_resistance, interpolate
from kegcart.core.reference.bench import doubts, meter_of

GAPS = "the readings have gaps there, or do not change"
SETTLED_S = 30.0
"""The end of a step that counts: its late part has come by then."""
TAIL_V = 0.005
"""By so much a cell's rested voltage may be off its curve: hysteresis, and makers that differ."""
CREEPS = 0.08
"""What answers more slowly still bends the course of the late part by so much."""
UNEVEN = 0.05
"""Air and cells are not equally warm all through, a thermometer sees one place."""
LATER = 2.0
"""What is doubted of the heat of a long run counts so much more for what is let out, which is seen at its end."""
CONTACTS = 0.03
"""Contacts that warm up resist a little more than when the test began."""


@dataclass(frozen=True, slots=True)
class Learned:
    """One figure: as assumed, as measured (None: refused, with the reason as a sentence without its full stop), and both together. rests_on:
    the steps whose readings it rests on."""

    key: str
    assumed: Doubted
    measured: Doubted | None
    combined: Doubted
    refused: str = ""
    rests_on: tuple[str, ...] = ()


class Learning:
    """A test that is learned from: its readings, zeros taken off, and the steps in which something was held steady."""

    def __init__(self, station: BenchStation, readings: Readings) -> None:
        self.station, self.readings = station, readings.filled()
        readings = self.readings
        self.bank = station.lane.banks[0]
        self.found: dict[str, Learned] = {}
        if not readings.has("posts.v", "posts.a"):
            self.refuse("voltage and current at the posts were not read", *station.unknowns)
            return
        zero = readings.span("zero")
        self.zero_a = readings.of(zero).mean("posts.a") if zero else 0.0
        self.amps: Series = readings.channels["posts.a"] - self.zero_a
        flows = np.nan_to_num(self.amps)
        steps = np.diff(readings.seconds, prepend=readings.seconds[:1])
        self.taken_ah: Series = np.cumsum(flows * steps) / 3600

    def loads(self) -> list[Span]:
        """The steps in which a steady load was held, in the order in which they were run."""
        return [s for s in self.readings.spans if s.step.startswith("load-")]

    def settled(self, span: Span) -> slice:
        """Where the last seconds of a step stand among the readings."""
        t = self.readings.seconds
        return slice(
            int(np.searchsorted(t, max(span.begin_s, span.end_s - SETTLED_S))), int(np.searchsorted(t, span.end_s, "right"))
        )

    def mean(self, channel: str, span: Span) -> float:
        """The mean of a channel over the end of a step."""
        return mean(self.readings.channels[channel][self.settled(span)])

    def flow(self, span: Span) -> float:
        """The mean current at the posts over the end of a step, A."""
        return mean(self.amps[self.settled(span)])

    def taken(self, span: Span) -> float:
        """What was taken out until the end of a step, Ah."""
        return mean(self.taken_ah[self.settled(span)])

    def known(self, key: str) -> float:
        """A figure as well as it is known by now."""
        return self.found[key].combined.value if key in self.found else self.station.unknowns[key].assumed.value

    def rested_v(self, charge: float) -> float:
        """Rested voltage of the pack at a charge, V."""
        return sum(g.cells * self.bank.cell_voltage(g, charge) for g in self.bank.groups)

    def charge_at(self, volts: float) -> float:
        """The charge at which the pack rests at so many V."""
        charges = np.linspace(0, 1, 201)
        return interpolate(volts, [self.rested_v(float(s)) for s in charges], [float(s) for s in charges])

    def keep(self, key: str, measured: Doubted, rests_on: Sequence[Span]) -> None:
        """Keep what was found of a figure."""
        assumed = self.station.unknowns[key].assumed
        if not (isfinite(measured.value) and isfinite(measured.sigma) and measured.sigma > 0):
            raise RefusedError(GAPS)
        if measured.sigma > assumed.sigma:
            self.refuse("the readings tell less of it than was known before", key)
        else:
            self.found[key] = Learned(key, assumed, measured, combine(assumed, measured), "", tuple(s.step for s in rests_on))

    def refuse(self, why: str, *keys: str) -> None:
        """Keep figures as they were assumed, with the reason."""
        for key in keys:
            assumed = self.station.unknowns[key].assumed
            self.found[key] = Learned(key, assumed, None, assumed, why)

    def run(self) -> list[Learned]:
        """Everything, in the order of the station's unknowns. What one figure rests on is found before it."""
        if self.found:
            return list(self.found.values())
        for find, keys in (
            (self.find_standing, ("standing",)),
            (self.find_resistance, ("resistance",)),
            (self.find_late_part, ("late_share", "late_s")),
            (self.find_capacity, ("capacity",)),
            (self.find_path, ("path",)),
            (self.find_losses, ("idle", "linear", "square")),
            (self.find_box, ("walls", "box_heat")),
            (self.find_pack_heat, ("pack_surface", "pack_heat")),
            (self.find_charger, ("charger",)),
            (self.find_gain, ("gain",)),
        ):
            wanted = [key for key in keys if key in self.station.unknowns]
            if wanted:
                try:
                    find()
                except RefusedError as error:
                    self.refuse(str(error), *wanted)
                except (np.linalg.LinAlgError, ValueError):  # of readings that are not there, or are all alike
                    self.refuse(GAPS, *wanted)
        return [self.found[key] for key in self.station.unknowns]

    def need(self, *steps: str) -> list[Span]:
        """The steps of these names as they were run. Errors: RefusedError where one was not."""
        spans = [self.readings.span(step) for step in steps]
        missing = [step for step, span in zip(steps, spans, strict=True) if span is None]
        if missing:
            raise RefusedError(f"the step '{missing[0]}' was not run")
        return [span for span in spans if span is not None]

    def need_channels(self, *channels: str) -> None:
        """Errors: RefusedError where one was not read."""
        for channel in channels:
            if not self.readings.has(channel):
                raise RefusedError(f"{meter_of(channel).label} was not read")

    def find_standing(self) -> None:
        """What draws while everything is off. Source: P = V·I, the zero of the shunt taken off."""
        zero, span = self.need("zero", "standing")
        here = self.settled(span)
        kind = meter_of("posts.a")
        watts = mean(self.readings.channels["posts.v"][here] * self.amps[here])
        many = max(1, here.stop - here.start)
        doubt_a = hypot(kind.noise / many**0.5, kind.noise / max(1, len(self.readings.of(zero).seconds)) ** 0.5, kind.step / 3)
        self.keep("standing", Doubted(watts, hypot(doubt_a * self.mean("posts.v", span), kind.gain * watts)), [zero, span])

    def find_resistance(self) -> None:
        """Resistance of the pack, at 25 °C. Source: regression over the steps (`pack_resistance`); cold table."""
        spans = self.loads()
        if rest := self.readings.span("rest"):
            spans = [*spans[1:], rest]
        amps = [self.flow(s) for s in spans]
        volts = [self.mean("posts.v", s) for s in spans]
        capacity, full = self.known("capacity"), self.rested_v(1.0)
        fallen = [full - self.rested_v(1 - self.taken(s) / capacity) for s in spans]
        ohm, _ = pack_resistance(amps, volts, fallen, 1.0)
        leans = float(np.polyfit(amps, fallen, 1)[0]) * self.station.slope
        warm = cold_resistance(self.mean("pack.c", spans[-1])) if self.readings.has("pack.c") else 1.0
        sure = Doubted(ohm.value, hypot(ohm.sigma, leans)).and_also(hypot(doubts()["slow"].doubt, meter_of("posts.a").gain))
        self.keep("resistance", sure.times(1 / warm), spans)

    def find_late_part(self) -> None:
        """What of the resistance comes late, by what comes back when the load goes off: no charge moves then, and the curve stands still."""
        (rest,) = self.need("rest")
        before = max((s for s in self.readings.spans if s.end_s <= rest.begin_s + 1e-6), key=lambda s: s.end_s, default=None)
        if before is None:
            raise RefusedError("nothing was loaded before the rest")
        part = self.readings.within(rest.begin_s - SETTLED_S, rest.end_s)
        zero = self.zero_a
        found = late_part_of_step(part.seconds - rest.begin_s - 1e-3, part.channels["posts.a"] - zero, part.channels["posts.v"])
        share = found.share
        whole = found.late.value + found.at_once.value
        doubt = hypot(found.late.sigma, found.at_once.sigma) / whole
        self.keep("late_share", Doubted(share, hypot(doubt, CREEPS * share)), [before, rest])
        self.keep("late_s", found.tau.and_also(CREEPS), [before, rest])

    def find_capacity(self) -> None:
        """Capacity at 25 °C, of all that was taken from full to the first cut-off."""
        (down,) = self.need("run-down")
        end = int(np.searchsorted(self.readings.seconds, down.end_s, "right")) - 2
        last = self.readings.within(down.end_s - 4 * SETTLED_S, down.end_s - 1e-3)
        cell_c = mean(last.channels["pack.c"]) if self.readings.has("pack.c") else 25.0
        amps = float(self.amps[end])
        sag = amps * self.known("resistance") * cold_resistance(cell_c)
        rested = float(self.readings.channels["posts.v"][end]) + sag
        left = self.charge_at(rested)
        off_v = hypot(0.1 * sag, TAIL_V * sum(g.cells for g in self.bank.groups))
        doubt = (self.charge_at(rested + off_v) - self.charge_at(rested - off_v)) / 2
        measured = capacity_at_25(float(self.taken_ah[end]), cell_c, full=True, ended=bool(down.ended), left=Doubted(left, doubt))
        self.keep("capacity", measured, [*self.readings.spans[: self.readings.spans.index(down)], down])

    def find_path(self) -> None:
        """Resistance of the main path, by its drop at each step."""
        self.need_channels("end.v")
        spans = [*self.loads(), *self.need("rest")]
        drops = [self.mean("posts.v", s) - self.mean("end.v", s) for s in spans]
        found = run_resistance([self.flow(s) for s in spans], drops)
        self.keep("path", found.and_also(hypot(CONTACTS, meter_of("posts.a").gain)), spans)

    def find_losses(self) -> None:
        """P0, a and b of the inverter, by AC against DC watts at each step; both meters' gains are doubted for all steps alike."""
        self.need_channels("load.w", "end.v")
        spans = [*self.need("idle"), *self.loads()]
        standing = self.known("standing") if "standing" in self.station.unknowns else 0.0
        dc = [self.mean("end.v", s) * self.flow(s) - standing for s in spans]
        rated = self.station.rated_w
        fit = inverter_losses([self.mean("load.w", s) for s in spans], dc, rated)
        off = hypot(meter_of("posts.a").gain, meter_of("load.w").gain)
        along = np.array([fit.values[0], 1 + fit.values[1], fit.values[2]])
        fit = Fit(fit.values, fit.covariance + off**2 * np.outer(along, along))
        keys = ("idle", "linear", "square")
        assumed = [self.station.unknowns[key].assumed for key in keys]
        together = fit.combined(assumed)
        for n, key in enumerate(keys):
            steps = tuple(s.step for s in spans)
            self.found[key] = Learned(key, assumed[n], fit.estimate(n), together.estimate(n), "", steps)

    def find_box(self) -> None:
        """What the box lets out and holds, until a fan starts or a charge begins. Source: `heat_balance`."""
        self.need_channels("air.c", "outside.c", "pack.c", "load.w")
        r, around = self.readings, self.station.lane.around
        charged = r.span("recharge")
        until = charged.begin_s if charged else float(r.seconds[-1])
        starts = min((fan.on_c for fan in around.fans), default=float("inf"))
        if any(fan.starts != "thermostat" for fan in around.fans):
            raise RefusedError("a fan runs all the time: what the walls let out alone is not seen")
        warm = r.seconds[r.channels["air.c"] > starts - 1]
        until = min(until, float(warm[0]) if len(warm) else until)
        keep = r.seconds < until
        air, outside = r.channels["air.c"][keep], r.channels["outside.c"][keep]
        drawn = r.channels["posts.v"][keep] * self.amps[keep]
        losses = drawn - r.channels["load.w"][keep]
        heat = losses + self.known("pack_surface") * (r.channels["pack.c"][keep] - air)
        over = air - outside - float(np.mean(air[:10] - outside[:10]))
        out = over + around.draught_w / around.walls_w_k * np.maximum(over, 0) ** 1.5
        holds, lets_out = heat_balance(r.seconds[keep], air, out, heat, meter_of("air.c").step)
        spans = [s for s in r.spans if s.begin_s < until]
        gains = (
            hypot(meter_of("posts.a").gain, meter_of("load.w").gain) * float(np.mean(drawn)) / max(float(np.mean(losses)), 1e-9)
        )
        self.keep("walls", lets_out.and_also(hypot(UNEVEN, gains)), spans)
        self.keep("box_heat", holds.and_also(hypot(UNEVEN, gains)), spans)

    def find_pack_heat(self) -> None:
        """What the pack lets out and holds, while it is discharged.

        Source: `heat_balance`; its heat is I²·R, and I times half of what its cells may stand below their curve (hysteresis is heat too).
        """
        self.need_channels("air.c", "pack.c")
        r = self.readings
        charged = r.span("recharge")
        keep = r.seconds < (charged.begin_s if charged else float("inf"))
        colder = np.array([cold_resistance(float(c)) for c in r.channels["pack.c"][keep]])
        below_v = TAIL_V / 2 * sum(g.cells for g in self.bank.groups)
        heat = self.amps[keep] * (self.amps[keep] * self.known("resistance") * colder + below_v)
        pack, air = r.channels["pack.c"][keep], r.channels["air.c"][keep]
        apart = float(np.mean(pack[:10] - air[:10]))
        holds, lets_out = heat_balance(r.seconds[keep], pack, pack - air - apart, heat, meter_of("pack.c").step)
        spans = [s for s in r.spans if charged is None or s.begin_s < charged.begin_s]
        doubt = below_v / (float(np.sqrt(np.mean(self.amps[keep] ** 2))) * self.known("resistance"))
        self.keep("pack_surface", lets_out.and_also(LATER * hypot(UNEVEN, doubt)), spans)
        self.keep("pack_heat", holds.and_also(hypot(UNEVEN, doubt)), spans)

    def find_charger(self) -> None:
        """Efficiency of the charger, until its current falls."""
        self.need_channels("wall.w", "supply.v", "supply.a")
        (span,) = self.need("recharge")
        part = self.readings.of(span)
        amps = part.channels["supply.a"]
        keep = amps > 0.9 * np.nanmax(amps)
        share = charger_efficiency(part.channels["wall.w"][keep], (part.channels["supply.v"] * amps)[keep])
        self.keep("charger", share.and_also(hypot(meter_of("wall.w").gain, hypot(*2 * [meter_of("supply.a").gain]))), [span])

    def find_gain(self) -> None:
        """What the shunt shows for each ampere of the clamp."""
        self.need_channels("clamp.a")
        (zero,), spans = self.need("zero"), self.loads()
        shunt = [self.flow(s) for s in spans]
        clamp = [self.mean("clamp.a", s) - self.mean("clamp.a", zero) for s in spans]
        self.keep("gain", gain(shunt, clamp, max((abs(a) for a in shunt), default=0.0)).and_also(0.001), [zero, *spans])


def mean(values: Series) -> float:
    """The mean of what was read. Errors: RefusedError where nothing was."""
    read = values[np.isfinite(values)]
    if not len(read):
        raise RefusedError(GAPS)
    return float(read.mean())


def learn(station: BenchStation, readings: Readings) -> list[Learned]:
    """All that a test says of its station, in the order of its unknowns."""
    return Learning(station, readings).run()
