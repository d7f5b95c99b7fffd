"""A fault dialled into the rehearsal by hand: what the meters of a test would show of it, and what it does to the days."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Final, Literal

from kegcart.core.assess import Assessment
from kegcart.core.bench.asked import CannotDialError
from kegcart.core.bench.comparing import compare, stops_reached, write_reached, write_step
from kegcart.core.bench.dealt import Ill
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.station import BenchStation, station_of
from kegcart.core.bench.test_plan import TestPlanner
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth, ailing
from kegcart.core.figure import Figure, write_figure
from kegcart.core.forecast import days_foreseen
from kegcart.core.lane import SEASONS, lane_of, plan_of, weather
from kegcart.core.simulation.run import Course, simulate
from kegcart.core.units import read_quantity

Which = Literal["", "part", "group"]


@dataclass(frozen=True, slots=True)
class Dial:
    """A fault that can be dialled: what it is called, what its size is and in which unit, between which sizes it may be, what is usual, and
    whether it is of a part of the main path or of a group. ill: the station with it; which counts from 1."""

    label: str
    size: str
    unit: str
    least: float
    most: float
    usual: float
    of: Which
    ill: Callable[[BenchStation, int, float], Ill]


def at_part(field: Literal["loose", "thin"]) -> Callable[[BenchStation, int, float], Ill]:
    """More resistance at the terminals of a part, or of its run, Ω."""

    def ill(station: BenchStation, which: int, ohm: float) -> Ill:
        more = {station.points[which - 1].key: ohm}
        return Ill(Truth(loose=more) if field == "loose" else Truth(thin=more), which)

    return ill


def series_of(station: BenchStation) -> int:
    """How many groups of cells are in series."""
    return sum(round(g.cells) for g in station.lane.banks[0].groups)


def one_group(station: BenchStation, which: int, room: float, share: float) -> Ill:
    """A group that holds and resists so many times what it should."""
    many = range(1, series_of(station) + 1)
    rooms = tuple(room if n == which else 1.0 for n in many)
    return Ill(Truth(rooms=rooms, shares=tuple(share if n == which else 1.0 for n in many)), which)


def aged(station: BenchStation, which: int, lost: float) -> Ill:
    """Source: resistance rises 1.5 times as fast as capacity falls (typical)."""
    was = station.assumed
    return Ill(Truth({"capacity": was["capacity"] * (1 - lost), "resistance": was["resistance"] * (1 + 1.5 * lost)}))


def blocked(station: BenchStation, which: int, left: float) -> Ill:
    """Walls go on letting heat out; what draught and fans moved does so less."""
    return Ill(Truth(air=left))


def insulated(station: BenchStation, which: int, left: float) -> Ill:
    """Covered, or stood against other boxes: its walls let out less."""
    return Ill(Truth({"walls": station.assumed["walls"] * left}))


def meter(channel: str) -> Callable[[BenchStation, int, float], Ill]:
    """A meter that shows too much by a share."""
    return lambda station, which, share: Ill(Truth(), gains={channel: 1 + share})


DIALS: Final[Mapping[str, Dial]] = {
    "loose": Dial("loose joint", "resists", "Ω", 0.0001, 0.05, 0.002, "part", at_part("loose")),
    "thin": Dial("wire too thin, or too long", "resists more", "Ω", 0.0001, 0.2, 0.005, "part", at_part("thin")),
    "weak": Dial(
        "weak group", "holds less", "share", 0.01, 0.8, 0.2, "group", lambda s, n, lost: one_group(s, n, 1 - lost, 1.0)
    ),
    "wrong": Dial(
        "cell of another kind", "resists, times", "×", 1.05, 10, 2.0, "group", lambda s, n, times: one_group(s, n, 1.0, times)
    ),
    "corner": Dial(
        "places left empty in a group", "of its cells", "share", 0.01, 0.8, 0.25, "group",
        lambda s, n, gone: one_group(s, n, 1 - gone, 1 / (1 - gone)),
    ),
    "aged": Dial("aged pack", "has lost", "share", 0.01, 0.7, 0.2, "", aged),
    "low": Dial("not full", "charge at the start", "share", 0.1, 1.0, 0.7, "", lambda s, n, charge: Ill(Truth(charge=charge))),
    "draw": Dial("something draws besides", "takes", "W", 0.5, 2000, 20, "", lambda s, n, watts: Ill(Truth(draw_w=watts))),
    "blocked": Dial("vents blocked, fans still", "is left of its air", "share", 0.01, 1.0, 0.1, "", blocked),
    "covered": Dial("covered, or against a wall", "is let out by its walls", "share", 0.05, 1.0, 0.3, "", insulated),
    "meter:posts.a": Dial("shunt's meter", "shows more", "share", -0.5, 0.5, 0.08, "", meter("posts.a")),
    "meter:clamp.a": Dial("clamp", "shows more", "share", -0.5, 0.5, 0.1, "", meter("clamp.a")),
    "meter:posts.v": Dial("voltmeter at the posts", "shows more", "share", -0.2, 0.2, 0.02, "", meter("posts.v")),
    "meter:load.w": Dial("meter of the load", "shows more", "share", -0.5, 0.5, 0.08, "", meter("load.w")),
}  # fmt: skip
"""What can be dialled in, by its kind."""


def dials_of(assessment: Assessment) -> list[dict[str, Any]]:
    """What can be dialled into the rehearsal of a design, as plain JSON data; nothing where it has nothing to test."""
    if assessment.loads.peak.running.number <= 0 and not assessment.power.inverters:
        return []
    station = station_of(assessment)
    of: dict[Which, list[str]] = {
        "": [],
        "part": [point.name for point in station.points],
        "group": [f"group {n}" for n in range(1, series_of(station) + 1)],
    }
    return [
        {
            "kind": kind,
            "label": dial.label,
            "size": dial.size,
            "unit": dial.unit,
            "usual": Figure.of("x", dial.usual, dial.unit).text,
            "of": of[dial.of],
        }
        for kind, dial in DIALS.items()
        if not dial.of or of[dial.of]
    ]


def dialled(assessment: Assessment, kind: str, which: int, size: float) -> dict[str, Any]:
    """A design rehearsed with a fault, as plain JSON data: what each step would show, lines that would be reached, run time and days beside
    those of the sound station. which: the part or group that it is of, from 1. Errors: CannotDialError.
    """
    station, dial = station_of(assessment), dial_of(kind)
    many = {"": 0, "part": len(station.points), "group": series_of(station)}[dial.of]
    if dial.of and not 1 <= which <= many:
        raise CannotDialError("which", f"there are {many} to choose from (not {which})")
    if not dial.least <= size <= dial.most:
        raise CannotDialError("size", f"is between {dial.least:g} and {dial.most:g} (not {size:g})")
    ill = dial.ill(station, which, size)
    sound, told = rehearsed(station, Ill(Truth())), rehearsed(station, ill)
    lines = dict(TestPlanner(assessment).stop_lines())
    run_time = [lasted(readings) for readings in (sound, told)]
    return {
        "steps": [write_step(step) for step in compare(station, told, sound)],
        "stops": [write_reached(reached) for reached in stops_reached(lines, station, told)],
        "run_time": [write_figure(figure, top=True) for figure in run_time if figure is not None],
        "days": [] if kind.startswith("meter:") else days_with(assessment, station, ill),
    }


def dial_of(kind: str) -> Dial:
    """Errors: CannotDialError, where there is no such fault."""
    if kind not in DIALS:
        raise CannotDialError("kind", f"'{kind[:40]}' is no fault that can be dialled in")
    return DIALS[kind]


def read_size(kind: str, text: str) -> float:
    """The size of a fault as it was typed, in its unit. Errors: CannotDialError."""
    dial = dial_of(kind)
    try:
        return read_quantity(text, dial.unit)
    except ValueError as error:
        raise CannotDialError("size", str(error)) from None


def rehearsed(station: BenchStation, ill: Ill) -> Readings:
    """The whole test of a station, read by meters that are wrong only by the fault."""
    true = TrueStation(station, ill.hidden)
    meters = Meters.perfect(true.read())
    for channel, gain in ill.gains.items():
        if channel in meters.channels:
            meters.gain[meters.channels.index(channel)] *= gain
    return run_trial(true, meters, steps_of(station))


def lasted(readings: Readings) -> Figure | None:
    """How long the run-down of a test lasted, h; None where it was not reached."""
    span = readings.span("run-down")
    if span is None:
        return None
    return Figure.of("t", (span.end_s - span.begin_s) / 3600, "h", "run-down at half load", how="rehearsed, to the first cut-off")


def days_with(assessment: Assessment, station: BenchStation, ill: Ill) -> list[dict[str, Any]]:
    """Both seasons as they are and with the fault, as plain JSON data."""
    days = days_foreseen(assessment)
    out = []
    for season in SEASONS:
        plan = plan_of(assessment, days)
        lane = lane_of(assessment, weather(assessment, season), plan)
        worse = ailing(
            replace(lane, plan=replace(plan, start_charge=min(plan.start_charge, ill.hidden.charge))), station, ill.hidden
        )
        pairs = zip(summed(simulate(lane)), summed(simulate(worse)), strict=True)
        figures = [{"label": a.label, "before": write_figure(a, top=True), "after": write_figure(b, top=True)} for a, b in pairs]
        out.append({"season": season, "figures": figures})
    return out


def summed(course: Course) -> list[Figure]:
    """What a season comes to."""
    pack, how = course.banks[0], "simulated over the days of the bench"
    opened = sum(event.kind in ("cutoff", "trip") for event in course.events)
    return [
        Figure.of("s", pack.lowest_charge, "share", "lowest charge", how=how),
        Figure.of("V", pack.lowest_v, "V", "lowest voltage", how=how),
        Figure.of("T", course.hottest_inside_c, "°C", "hottest air inside", how=how),
        Figure.of("T_pack", pack.hottest_c, "°C", "hottest pack", how=how),
        Figure.of("E", course.delivered_wh, "Wh", "delivered", how=how),
        Figure.of("n", opened, "", "cut-offs and trips", how=how),
        Figure.of("t", max(course.dark_h, default=0.0), "h", "longest without power", how=how),
    ]
