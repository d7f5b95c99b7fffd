"""Why readings are out of band: single faults are put into true stations, and must be found; sound ones must be left in peace."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from random import Random
from unittest import TestCase

import numpy as np

from kegcart.core.bench.diagnose.explain import Diagnosis, diagnose
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.station import BenchStation, path_ohm, station_of
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import Hidden, TrueStation, drawn
from kegcart.core.reference.bench import meter_of
from tests import PROVING
from tests.core.samples import demo, judge

STATIONS = ("lantern-lane", "hollow-oak", "tidewater")
MOST_ASKED = 5


@dataclass
class Ill:
    """A true station with one fault, and meters of which one may be wrong."""

    hidden: Hidden
    which: int = 0
    gains: dict[str, float] = field(default_factory=dict)
    offs: dict[str, float] = field(default_factory=dict)


def amps_of(station: BenchStation) -> float:
    """About the current at the full load of the test, A."""
    bank = station.lane.banks[0]
    return station.load_w / sum(g.cells * bank.cell_voltage(g, 0.5) for g in bank.groups)


def loose(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    """Ten kelvins and more at a joint."""
    which = chance.randrange(len(station.points)) + 1
    return Ill(replace(sound, loose={station.points[which - 1].key: chance.uniform(3, 6) / amps_of(station) ** 2}), which)


def thin(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    which = chance.randrange(len(station.points)) + 1
    more = chance.uniform(1.2, 2) * path_ohm(station.lane, station.points)
    return Ill(replace(sound, thin={station.points[which - 1].key: more}), which)


def weak(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    which = chance.randrange(len(sound.shares)) + 1
    rooms = [1.0] * len(sound.shares)
    rooms[which - 1] -= chance.uniform(0.15, 0.35)
    return Ill(replace(sound, rooms=tuple(rooms)), which)


def wrong(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    which = chance.randrange(len(sound.shares)) + 1
    shares = list(sound.shares)
    shares[which - 1] *= 1 + chance.uniform(0.6, 1.5)
    return Ill(replace(sound, shares=tuple(shares)), which)


def aged(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    """Five times as far as its capacity may be off."""
    assumed = station.unknowns["capacity"].assumed
    lost = chance.uniform(5.5, 7) * assumed.sigma / assumed.value
    values = {"capacity": assumed.value * (1 - lost), "resistance": sound.values["resistance"] * (1 + 1.5 * lost)}
    return Ill(replace(sound, values={**sound.values, **values}))


def low(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    return Ill(replace(sound, charge=chance.uniform(0.6, 0.85)))


def draw(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    return Ill(replace(sound, draw_w=chance.uniform(0.08, 0.2) * max(40.0, station.load_w * 0.1)))


def blocked(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    """What the box lets out falls to a third."""
    walls = station.assumed["walls"] * chance.uniform(0.25, 0.36)
    return Ill(replace(sound, values={**sound.values, "walls": walls}, air=chance.uniform(0.05, 0.3)))


def meter(channel: str, least: float, most: float) -> Callable[[BenchStation, Hidden, Random], Ill]:
    def off(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
        return Ill(sound, gains={channel: 1 + chance.choice((-1, 1)) * chance.uniform(least, most)})

    return off


def thermometer(station: BenchStation, sound: Hidden, chance: Random) -> Ill:
    which = chance.randrange(len(station.points)) + 1
    return Ill(sound, which, offs={f"part.{which}.c": chance.choice((-1, 1)) * chance.uniform(4, 10)})


FAULTS: dict[str, Callable[[BenchStation, Hidden, Random], Ill]] = {
    "loose": loose,
    "thin": thin,
    "weak": weak,
    "wrong": wrong,
    "aged": aged,
    "low": low,
    "draw": draw,
    "blocked": blocked,
    "meter:posts.a": meter("posts.a", 0.06, 0.15),
    "meter:clamp.a": meter("clamp.a", 0.08, 0.2),
    "meter:posts.v": meter("posts.v", 0.01, 0.03),
    "meter:end.v": meter("end.v", 0.01, 0.03),
    "meter:load.w": meter("load.w", 0.06, 0.15),
    "thermometer": thermometer,
}
WARM = ("lantern-lane", "hollow-oak")
"""Where the box becomes warm at all."""


class Case:
    """A station with a fault, or none, and what its test read."""

    def __init__(self, station: BenchStation, seed: int, fault: str = "") -> None:
        chance = Random(seed)
        sound = drawn(station, chance)
        self.station, self.chance = station, chance
        self.ill = FAULTS[fault](station, sound, chance) if fault else Ill(sound)
        self.true = TrueStation(station, self.ill.hidden)
        self.meters = Meters(self.true.read(), np.random.default_rng(seed))
        for channel, gain in self.ill.gains.items():
            self.meters.gain[self.meters.channels.index(channel)] *= gain
        for channel, off in self.ill.offs.items():
            self.meters.zero[self.meters.channels.index(channel)] += off
        steps = [step for step in steps_of(station) if step.key != "recharge"]
        self.readings: Readings = run_trial(self.true, self.meters, steps)

    def answer(self, diagnosis: Diagnosis) -> float:
        """What a hand meter finds of what was proposed."""
        probe = diagnosis.next
        assert probe is not None
        return sum(self.value(name) for name in probe.figures) + self.chance.gauss(0, probe.sigma)

    def value(self, name: str) -> float:
        """The true value of a figure of the model."""
        hidden, kind, _, rest = self.ill.hidden, *name.partition(".")
        of_station = self.true.values
        if kind == "gain":
            return float(self.meters.gain[self.meters.channels.index(rest)])
        if kind in ("room", "share"):
            group = [g for g in self.station.lane.banks[0].groups for _ in range(round(g.cells))][int(rest) - 1]
            if kind == "share":
                return hidden.shares[int(rest) - 1]
            return group.room * (hidden.rooms[int(rest) - 1] if hidden.rooms else 1.0)
        if kind in ("path", "loose", "thin", "off"):
            point = self.station.points[int(rest) - 1]
            if kind == "off":
                return float(self.meters.zero[self.meters.channels.index(f"part.{rest}.c")])
            if kind == "path":
                longer = hidden.values["path"] / self.station.assumed["path"]
                return self.station.lane.parts[point.place].ohm * longer
            return (hidden.loose if kind == "loose" else hidden.thin).get(point.key, 0.0)
        if name == "capacity":
            return hidden.values["capacity"]
        return {"charge": hidden.charge, "draw": hidden.draw_w, "air": hidden.air}.get(name, of_station.get(name, 0.0))


def ranks(diagnosis: Diagnosis) -> list[tuple[str, int]]:
    return [(cause.fault.kind, cause.fault.which) for cause in diagnosis.causes]


class Diagnoses(TestCase):
    takes_long = True

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.stations = {name: station_of(judge(demo(name))) for name in STATIONS}

    def test_single_faults_are_found_and_those_alike_are_told_apart_by_what_is_proposed(self) -> None:
        """The true cause first in 85 %, among the first three in 97 %, alike ones counted as one; 95 % of those settled by measuring."""
        first, three, settled, missed = 0, 0, [], []
        many = 200 if PROVING else 20
        for n in range(many):
            fault = list(FAULTS)[n % len(FAULTS)]
            among = WARM if fault == "blocked" else STATIONS
            case = Case(self.stations[among[n // len(FAULTS) % len(among)]], 40_000 + n, fault)
            told = diagnose(case.station, case.readings)
            true, alike = (fault, case.ill.which), [(c.fault.kind, c.fault.which) for c in told.alike]
            first += true in alike
            three += true in alike or true in ranks(told)[:3]
            if true not in alike:
                missed.append((n, true, ranks(told)[:4]))
            if true in alike and len(alike) > 1:
                probed: dict[str, float] = {}
                for _ in range(MOST_ASKED):
                    if told.next is None or len(told.alike) < 2:
                        break
                    probed[told.next.key] = case.answer(told)
                    told = diagnose(case.station, case.readings, probed)
                settled.append(ranks(told)[:1] == [true])
        self.assertGreaterEqual(first, 0.85 * many, missed)
        self.assertGreaterEqual(three, 0.97 * many, missed)
        self.assertGreaterEqual(sum(settled), 0.95 * len(settled), (settled, missed))
        self.assertGreater(len(settled), 0)

    def test_sound_stations_are_left_in_peace(self) -> None:
        claims = []
        for n in range(100 if PROVING else 10):
            case = Case(self.stations[STATIONS[n % len(STATIONS)]], 50_000 + n)
            if told := ranks(diagnose(case.station, case.readings)):
                claims.append((n, told[0]))
        self.assertLessEqual(len(claims), 1, claims)

    def test_without_a_cell_logger_and_a_thermometer_what_can_be_told_still_is(self) -> None:
        case = Case(self.stations["lantern-lane"], 3, "meter:posts.a")
        kept = {c: v for c, v in case.readings.channels.items() if not c.startswith(("cell.", "part.", "air", "pack", "outside"))}
        told = diagnose(case.station, replace(case.readings, channels=kept))
        self.assertEqual(told.causes[0].fault.kind, "meter:posts.a")
        true = case.ill.gains["posts.a"] - 1
        self.assertAlmostEqual(told.causes[0].amount, true, delta=0.03)

    def test_every_channel_that_is_modelled_has_a_meter(self) -> None:
        for station in self.stations.values():
            for channel in TrueStation(station, Hidden()).read():
                self.assertGreater(meter_of(channel).step, 0, channel)
