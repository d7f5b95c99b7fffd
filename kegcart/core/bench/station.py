"""The station as the bench sees it: pack, main path and box as plain numbers, and which of them a test can find out.

The numbers are those of the simulation (`kegcart.core.simulation.inputs`); what is assumed of each, and how far it may be off, stands
beside it (doubts table).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from math import hypot

from kegcart.core.assess import Assessment
from kegcart.core.bench.learn.estimate import Doubted
from kegcart.core.bench.rehearse import Rehearsal
from kegcart.core.pack.document import CellPack
from kegcart.core.reference import constant
from kegcart.core.reference.bench import doubts, meter_of
from kegcart.core.simulation.inputs import Branch, Lane, Loss


@dataclass(frozen=True, slots=True)
class Unknown:
    """A figure that the bench can find out: what is assumed of it. doubt: its key in the table; part: of the path that it is about."""

    key: str
    label: str
    unit: str
    assumed: Doubted
    part: str = ""


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
    way = assessment.power.network.main_path()
    last = bench.inverter.key if bench.inverter else way[-1] if way else None
    ends = keys.index(last) if last else None
    points = tuple(Point(place, keys[place], lane.parts[place].name) for place in reversed(list(up(lane, ends))))
    inverter = ends if bench.inverter else None
    reclaimed = isinstance(assessment.pack.pack, CellPack) and assessment.pack.pack.cell.reclaimed
    load_w = bench.rating().number
    rated_w = bench.inverter.rating.number if bench.inverter else load_w
    unknowns = {u.key: u for u in unknowns_of(lane, points, inverter, rated_w, reclaimed)}
    return BenchStation(lane, bench.socket, points, inverter, load_w, rated_w, unknowns, doubts()["slope"].doubt)


def unknowns_of(
    lane: Lane, points: tuple[Point, ...], inverter: int | None, rated_w: float, reclaimed: bool
) -> Iterator[Unknown]:
    """What a test of a station can find out, with what is assumed of it. rated_w: of its inverter."""

    def unknown(key: str, label: str, unit: str, value: float, doubt: str = "", part: str = "") -> Unknown:
        return Unknown(key, label, unit, Doubted(value, doubts()[doubt or key].of(value)), part)

    bank, around = lane.banks[0], lane.around
    yield unknown("resistance", "resistance of the pack", "Ω", bank.resistance_ohm)
    yield unknown("late_share", "share of it that comes late", "share", bank.late_share)
    yield unknown("late_s", "time constant of the late part", "s", bank.late_s)
    yield unknown("capacity", "capacity at 25 °C", "Ah", bank.capacity_ah, "capacity_reclaimed" if reclaimed else "capacity")
    yield unknown("path", "main path, from the posts to its end", "Ω", path_ohm(lane, points))
    if inverter is not None:
        loss = lane.parts[inverter].loss
        assert loss is not None
        yield unknown("idle", "idle draw of the inverter", "W", loss.idle_w)
        yield unknown("linear", "its loss that grows with the power, of it", "share", loss.linear)
        yield unknown("square", "its loss that grows with the square, of full power", "share", loss.square * rated_w)
    if (standing := standing_w(lane)) > 0:
        yield unknown("standing", "draw while everything is off", "W", standing)
    yield unknown("walls", "heat through the walls of the box", "W/K", around.walls_w_k)
    yield unknown("box_heat", "heat capacity of the box", "J/K", around.box_j_k)
    yield unknown("pack_surface", "heat from the pack to the air inside", "W/K", bank.heat_w_k)
    yield unknown("pack_heat", "heat capacity of the pack", "J/K", bank.heat_j_k)
    off = hypot(meter_of("posts.a").gain, meter_of("clamp.a").gain)
    yield Unknown("gain", "what the shunt shows of what the clamp does", "share", Doubted(1.0, off))
    yield unknown("charger", "efficiency of the charger", "share", constant("charger_eta"))


def up(lane: Lane, place: int | None) -> Iterator[int]:
    """The parts from one on towards the posts, itself first."""
    while place is not None:
        yield place
        place = lane.parts[place].feed


def path_ohm(lane: Lane, points: tuple[Point, ...]) -> float:
    """Resistance from the posts to the end of the main path, Ω. Source: series resistances add (Kirchhoff)."""
    return sum(lane.parts[point.place].ohm for point in points)


def standing_w(lane: Lane) -> float:
    """What draws at the posts while everything is switched off, W: no-load draws of parts that hang on the path without a switch of their
    own, with the idle of converters."""
    return sum(
        part.draw_w + (part.loss.idle_w if part.loss and not part.inverts else 0.0) for part in lane.parts if part.bank == 0
    )


def with_values(station: BenchStation, values: Mapping[str, float]) -> Lane:
    """The lane of a station with other figures than the design's, by the keys of its unknowns; what is not named stays."""
    lane, assumed = station.lane, station.assumed
    now = assumed | dict(values)
    bank = replace(
        lane.banks[0],
        resistance_ohm=now["resistance"],
        late_share=now["late_share"],
        late_s=now["late_s"],
        capacity_ah=now["capacity"],
        heat_w_k=now["pack_surface"],
        heat_j_k=now["pack_heat"],
    )
    parts = list(lane.parts)
    longer = now["path"] / assumed["path"]
    for point in station.points:
        parts[point.place] = replace(parts[point.place], ohm=parts[point.place].ohm * longer)
    if station.inverter is not None:
        parts[station.inverter] = replace(
            parts[station.inverter], loss=Loss(now["idle"], now["linear"], now["square"] / station.rated_w)
        )
    if "standing" in now:
        parts = [drawing(part, now["standing"] / assumed["standing"]) for part in parts]
    freer = now["walls"] / assumed["walls"]
    around = replace(
        lane.around,
        walls_w_k=now["walls"],
        stirred_w_k=lane.around.stirred_w_k * freer,
        draught_w=lane.around.draught_w * freer,
        box_j_k=now["box_heat"],
    )
    return replace(lane, banks=(bank, *lane.banks[1:]), parts=tuple(parts), around=around)


def drawing(part: Branch, times: float) -> Branch:
    """A part whose own draw is so many times what it was; an inverter's idle draw is a figure of its own."""
    loss = part.loss
    if loss is not None and not part.inverts:
        loss = replace(loss, idle_w=loss.idle_w * times)
    return replace(part, draw_w=part.draw_w * times, loss=loss)
