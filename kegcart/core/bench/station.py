"""The station as the bench sees it: pack, main path and box as plain numbers, and which of them a test can find out.

The numbers are those of the simulation (`kegcart.core.simulation.inputs`); what is assumed of each, and how far it may be off, stands
beside it (doubts table).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import hypot, isclose

from kegcart.core.assess import Assessment
from kegcart.core.bench.learn.estimate import Doubted
from kegcart.core.bench.rehearse import Rehearsal
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.lane_figures import numbers_of, with_numbers
from kegcart.core.measured import LABELS, UNITS, MeasuredFigures
from kegcart.core.pack.document import CellPack
from kegcart.core.power.fed import PACK
from kegcart.core.reference import constant
from kegcart.core.reference.bench import doubts, meter_of
from kegcart.core.simulation.inputs import Lane


@dataclass(frozen=True, slots=True)
class Unknown:
    """A figure that the bench can find out: what is assumed of it."""

    key: str
    label: str
    unit: str
    assumed: Doubted


@dataclass(frozen=True, slots=True)
class Point:
    """A part that the main path leads through, with its terminals: where a thermometer is taped on and where probes are held. place: in
    the lane; key: in the design, or what it is called there."""

    place: int
    key: str
    name: str


@dataclass(frozen=True, slots=True)
class BenchStation:
    """A station on the bench, with one load of the test and nothing else on it.

    lane: pack, path and box for the simulation. socket: the part that the test load hangs on. points: the parts from the posts to the end
    of the main path, in order. inverter: its place in the lane, the last of them; None: the load is DC.
    load_w: the load that it carries for long; rated_w: what the inverter is rated for, or that load. unknowns: by their keys, in the order in which they are shown. slope: how far the slope of the rested curve may be off, a share.
    """

    lane: Lane
    socket: int
    points: tuple[Point, ...]
    inverter: int | None
    load_w: float
    rated_w: float
    unknowns: Mapping[str, Unknown]
    slope: float

    @property
    def assumed(self) -> dict[str, float]:
        """What the design assumes of each unknown."""
        return {key: unknown.assumed.value for key, unknown in self.unknowns.items()}


def station_of(assessment: Assessment) -> BenchStation:
    """The station of a design as it is put on the bench."""
    bench = Rehearsal(assessment)
    lane, keys = bench.lane, bench.places.keys
    points = tuple(Point(place, keys[place], lane.parts[place].name) for place in bench.places.tested_way())
    inverter = points[-1].place if bench.inverter else None
    reclaimed = isinstance(assessment.pack.pack, CellPack) and assessment.pack.pack.cell.reclaimed
    load_w = bench.rating().number
    rated_w = bench.inverter.rating.number if bench.inverter else load_w
    numbers = numbers_of(lane, [point.place for point in points], inverter, rated_w)
    charger = tested_charger(assessment)
    eta = charger.efficiency.number if charger else constant("charger_eta")
    unknowns = {u.key: u for u in unknowns_of(numbers, reclaimed, assessment.design.bench.measured, eta)}
    return BenchStation(lane, bench.socket, points, inverter, load_w, rated_w, unknowns, doubts()["slope"].doubt)


def unknowns_of(
    numbers: Mapping[str, float], reclaimed: bool, measured: MeasuredFigures, charger_eta: float
) -> Iterator[Unknown]:
    """What a test of a station can find out, with what is assumed of it, or known of it since an earlier test. numbers: those of its lane.
    reclaimed: whether its cells had a life before."""
    for key, label in LABELS.items():
        if key not in numbers:
            continue
        value, doubt = numbers[key], doubts()["capacity_reclaimed" if reclaimed and key == "capacity" else key]
        known = measured.get(key)
        sigma = known.doubt if known is not None and isclose(known.value, value, rel_tol=1e-9) else None
        yield Unknown(key, label, UNITS[key], Doubted(value, sigma or doubt.of(value)))
    off = hypot(meter_of("posts.a").gain, meter_of("clamp.a").gain)
    yield Unknown("gain", "what the shunt shows of what the clamp does", "share", Doubted(1.0, off))
    yield Unknown("charger", "efficiency of the charger", "share", Doubted(charger_eta, doubts()["charger"].of(charger_eta)))


def up(lane: Lane, place: int | None) -> Iterator[int]:
    """The parts from one on towards the posts, itself first."""
    while place is not None:
        yield place
        place = lane.parts[place].feed


def tested_charger(assessment: Assessment) -> SourceSizing | None:
    """The charger with which a station is charged again after its test, where it has just one."""
    own = [source for source in assessment.charging.of_bank(PACK) if source.source.kind == "mains"]
    return own[0] if len(own) == 1 else None


def with_values(station: BenchStation, values: Mapping[str, float]) -> Lane:
    """The lane of a station with other figures than the design's, by the keys of its unknowns; what is not named stays."""
    return with_numbers(station.lane, [point.place for point in station.points], station.inverter, station.rated_w, values)
