"""Why readings are out of band: single faults are put into true stations, and must be found; sound ones must be left in peace."""

from dataclasses import replace
from random import Random
from unittest import TestCase

from kegcart.core.bench.dealt import DEALT, Ill, true_figure
from kegcart.core.bench.diagnose.explain import Diagnosis, diagnose
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.station import BenchStation, station_of
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth, drawn
from kegcart.core.reference.bench import meter_of
from tests import PROVING
from tests.core.samples import demo, judge

STATIONS = ("lantern-lane", "hollow-oak", "tidewater")
MOST_ASKED = 5


WARM = ("lantern-lane", "hollow-oak")
"""Where the box becomes warm at all."""


class Case:
    """A station with a fault, or none, and what its test read."""

    def __init__(self, station: BenchStation, seed: int, fault: str = "") -> None:
        chance = Random(seed)
        sound = drawn(station, chance)
        self.station, self.chance = station, chance
        self.ill = DEALT[fault](station, sound, chance) if fault else Ill(sound)
        true = TrueStation(station, self.ill.hidden)
        self.meters = self.ill.meters(true, seed)
        steps = [step for step in steps_of(station) if step.key != "recharge"]
        self.readings: Readings = run_trial(true, self.meters, steps)

    def answer(self, diagnosis: Diagnosis) -> float:
        """What a hand meter finds of what was proposed."""
        probe = diagnosis.next
        assert probe is not None
        true = sum(true_figure(name, self.station, self.ill, self.meters) for name in probe.figures)
        return true + self.chance.gauss(0, probe.sigma)


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
            fault = list(DEALT)[n % len(DEALT)]
            among = WARM if fault == "blocked" else STATIONS
            case = Case(self.stations[among[n // len(DEALT) % len(among)]], 40_000 + n, fault)
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
            for channel in TrueStation(station, Truth()).read():
                self.assertGreater(meter_of(channel).step, 0, channel)
