"""The readings of a test as CSV: of a logger, whatever it calls its columns, or as they are written out here; and which step each belongs to."""

import re
from collections.abc import Iterator, Sequence

import numpy as np

from kegcart.core.bench.plan import PlanStep, steps_of
from kegcart.core.bench.readings import Readings, Series, Span
from kegcart.core.bench.station import BenchStation
from kegcart.core.reference.bench import meter_of
from kegcart.core.table import ColumnField, ParsedTable, Problems, TableError, TableProblem, parse_table, read_number, write_csv

VOLTS, AMPS, WATTS, DEGREES = {"V": 1.0, "mV": 0.001}, {"A": 1.0, "mA": 0.001}, {"W": 1.0, "kW": 1000.0}, {"°C": 1.0}
TIME, STEP = "time", "step"
FEWEST = 5
NEAR = 0.08
"""A load is that of a step when it comes so near to it, a share."""
LIGHT = 0.03
"""Less than this share of the full load is no load."""
SHORTEST_S = 45.0
"""What is held for less than this is a change from one step to the next."""
SOAKS_S = 1500.0
EVENED = 9
"""Readings whose mean tells whether an inverter idles: a shunt's noise at no load is as large."""
BEGINS_S = 600.0
"""A time column that begins later than this tells the time of day."""
CHARGES, IDLES = -1.0, -0.5
"""Levels that are no load: current that flows in, and an inverter that is on with nothing plugged in."""
_CLOCK = re.compile(r"(?:\d{4}-\d{2}-\d{2}[ T])?(\d{1,3}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?Z?")


def fields_of(station: BenchStation) -> list[ColumnField]:
    """The columns that a table of readings may have; those that are named the most closely first."""
    cells = int(sum(round(g.cells) for g in station.lane.banks[0].groups))
    points = [
        ColumnField(f"part.{n}.c", (f"part {n}", point.name, f"{point.name} temperature"), DEGREES)
        for n, point in enumerate(station.points, 1)
    ]
    return [
        ColumnField(TIME, ("time", "seconds", "t", "elapsed"), {"s": 1.0, "min": 60.0, "h": 3600.0, "ms": 0.001}),
        ColumnField(STEP, ("step",)),
        *(ColumnField(f"cell.{n}.v", (f"cell {n}", f"group {n}", f"c{n}"), VOLTS) for n in range(1, cells + 1)),
        ColumnField("clamp.a", ("clamp",), AMPS),
        ColumnField("end.v", ("end", "end of the path", "inverter input", "busbar"), VOLTS),
        ColumnField("wall.w", ("wall", "mains"), WATTS),
        ColumnField("supply.v", ("supply voltage", "charger voltage"), VOLTS),
        ColumnField("supply.a", ("supply current", "supply", "charger current"), AMPS),
        ColumnField("load.v", ("load voltage", "ac voltage"), VOLTS),
        ColumnField("load.w", ("load", "ac", "power", "watts"), WATTS),
        ColumnField("air.c", ("air", "inside"), DEGREES),
        ColumnField("outside.c", ("outside", "ambient", "room"), DEGREES),
        ColumnField("pack.c", ("pack temperature", "cells temperature", "pack °C", "temperature"), DEGREES),
        ColumnField("posts.a", ("shunt", "current", "amps"), AMPS),
        ColumnField("posts.v", ("posts", "voltage", "pack", "volts"), VOLTS),
        *points,
    ]


def read_time(cell: str, unit: str, known: ColumnField) -> float:
    """A moment in s: a number, or hours, minutes and seconds, with a day before them or without. Errors: ValueError."""
    if found := _CLOCK.fullmatch(cell.strip()):
        hours, minutes, seconds = found[1], found[2], (found[3] or "0").replace(",", ".")
        return int(hours) * 3600 + int(minutes) * 60 + float(seconds)
    return read_number(cell, known, unit)


def read_readings(text: str, station: BenchStation) -> Readings:
    """The readings of a table: time, voltage and current at the least.

    A cell that is empty is no reading. Steps are as the table names them, else as the loads tell. Errors: TableError with line and column.
    """
    known = {field.key: field for field in fields_of(station)}
    table = parse_table(text, list(known.values()))
    at = {column.field: i for i, column in enumerate(table.columns) if column.field}
    lacking = [words for key, words in ((TIME, "time"), ("posts.v", "voltage"), ("posts.a", "current")) if key not in at]
    if lacking:
        raise TableError([TableProblem(1, 1, f"a column is missing: {' and '.join(lacking)}")])
    problems, seconds = Problems(), list[float]()
    columns: dict[str, list[float]] = {key: [] for key in at if key not in (TIME, STEP)}
    for line, cells in table.rows:
        if problems.enough:
            break
        read_row(line, cells, table, known, seconds, columns, problems)
    if problems:
        raise TableError(problems)
    if len(seconds) < FEWEST:
        raise TableError([TableProblem(1, 1, f"{len(seconds)} readings are no test")])
    t = over_midnight(np.array(seconds))
    backwards = np.flatnonzero(np.diff(t) <= 0)
    if len(backwards):
        line = table.rows[int(backwards[0]) + 1][0]
        raise TableError([TableProblem(line, at[TIME] + 1, "this moment is not after the one before it")])
    if not 0 <= t[0] < BEGINS_S:
        t = t - t[0]
    channels = {key: np.array(values) for key, values in columns.items()}
    steps = [cells[at[STEP]] if at[STEP] < len(cells) else "" for _, cells in table.rows] if STEP in at else []
    spans = list(named_spans(t, steps)) if any(steps) else list(told_spans(t, channels, station))
    return Readings(t, channels, spans)


def read_row(
    line: int,
    cells: Sequence[str],
    table: ParsedTable,
    known: dict[str, ColumnField],
    seconds: list[float],
    columns: dict[str, list[float]],
    problems: Problems,
) -> None:
    """Read one row into the columns, or say what is wrong with it."""
    for i, column in enumerate(table.columns):
        key = column.field
        if key is None or key == STEP:
            continue
        cell = cells[i] if i < len(cells) else ""
        try:
            if key == TIME:
                seconds.append(read_time(cell, column.unit, known[TIME]))
            else:
                columns[key].append(read_number(cell, known[key], column.unit) if cell else float("nan"))
        except ValueError as error:
            problems.add(line, i + 1, str(error))


def over_midnight(seconds: Series) -> Series:
    """Moments of a clock that begins anew at midnight, as one course."""
    back = np.diff(seconds, prepend=seconds[:1]) < -12 * 3600
    course: Series = seconds + 24 * 3600 * np.cumsum(back)
    return course


def before(seconds: Series, n: int) -> float:
    """The moment of the reading before one; the beginning where it is the first."""
    return float(seconds[n - 1]) if n else min(0.0, float(seconds[0]))


def named_spans(seconds: Series, steps: Sequence[str]) -> Iterator[Span]:
    """Each step as the table names it, from the end of the one before it; what has no name belongs to none."""
    begin, name = 0, steps[0]
    for n in range(1, len(steps) + 1):
        if n == len(steps) or steps[n] != name:
            if name:
                ended = "cut off" if name == "run-down" else "full" if name == "recharge" else ""
                yield Span(name, before(seconds, begin), float(seconds[n - 1]), ended)
            if n < len(steps):
                begin, name = n, steps[n]


def told_spans(seconds: Series, channels: dict[str, Series], station: BenchStation) -> Iterator[Span]:
    """Steps as the loads tell them: each load of the plan the first time that it is held, one that is held for long a soak, the last of these a
    run-down; no load before any is what draws while all is off, after one a rest; current that flows in is a recharge.
    """
    volts, amps = channels["posts.v"], np.nan_to_num(channels["posts.a"])
    drawn = np.nan_to_num(volts * amps)
    watts = np.nan_to_num(channels["load.w"]) if "load.w" in channels else drawn
    level = watts / station.load_w
    if station.inverter is not None and "load.w" in channels:
        steadily = np.convolve(np.pad(drawn, EVENED // 2, mode="edge"), np.full(EVENED, 1 / EVENED), "valid")
        level[(level <= LIGHT) & (steadily > station.assumed["idle"] / 2)] = IDLES
    level[amps < -LIGHT * np.nanmax(np.abs(amps))] = CHARGES
    held = [piece for piece in pieces(seconds, level) if piece[1] - piece[0] >= SHORTEST_S]
    last = max((n for n, (begin, end, level) in enumerate(held) if level > LIGHT and end - begin > SOAKS_S), default=None)
    loads = [step for step in steps_of(station) if step.key.startswith("load-")]
    done: set[str] = set()
    for n, piece in enumerate(held):
        name = "run-down" if n == last else step_told(piece, loads, station.load_w, done)
        if name:
            done.add(name)
            ended = "cut off" if name == "run-down" else "full" if name == "recharge" else ""
            yield Span(name, piece[0], piece[1], ended)


def step_told(piece: tuple[float, float, float], loads: Sequence[PlanStep], load_w: float, done: set[str]) -> str:
    """Which step a load that was held is; empty where it is none."""
    begin, end, level = piece
    if level == CHARGES:
        return "recharge"
    if level == IDLES:
        return "" if "idle" in done else "idle"
    if "recharge" in done:
        return ""
    if level <= LIGHT:
        loaded = any(name.startswith("load") or name == "soak" for name in done)
        return "rest-empty" if "run-down" in done else "rest" if loaded else "" if "standing" in done else "standing"
    if end - begin > SOAKS_S:
        return "soak"
    near = [step for step in loads if step.key not in done and abs(level * load_w - step.watts) <= NEAR * load_w]
    return min(near, key=lambda step: abs(level * load_w - step.watts)).key if near else ""


def pieces(seconds: Series, level: Series) -> Iterator[tuple[float, float, float]]:
    """Stretches in which a level is held: from, to, the level."""
    begin = 0
    for n in range(1, len(level) + 1):
        so_far = float(np.median(level[begin:n]))
        if n == len(level) or abs(level[n] - so_far) > max(LIGHT, NEAR * abs(so_far)):
            yield before(seconds, begin), float(seconds[n - 1]), so_far
            begin = n


def write_readings_csv(readings: Readings) -> str:
    """Every reading as a row: the moment, the step, each channel. Read back, they are the same."""
    channels = list(readings.channels)
    units = {"v": "V", "a": "A", "w": "W", "c": "°C"}
    header = ["time (s)", "step", *(f"{called(c)} ({units[c.rsplit('.', 1)[1]]})" for c in channels)]

    def rows() -> Iterator[list[object]]:
        for n, t in enumerate(readings.seconds.tolist()):
            step = next((s.step for s in reversed(readings.spans) if s.begin_s < t <= s.end_s), "")
            values = [readings.channels[c][n] for c in channels]
            yield [f"{t:.10g}", step, *(None if np.isnan(v) else f"{v:.10g}" for v in values)]

    return write_csv(header, rows())


def called(channel: str) -> str:
    """A channel as a column is called, so that reading knows it again."""
    words = {
        "posts.v": "posts",
        "posts.a": "shunt",
        "clamp.a": "clamp",
        "end.v": "end of the path",
        "load.w": "load",
        "load.v": "load voltage",
        "air.c": "air",
        "outside.c": "outside",
        "pack.c": "pack temperature",
        "supply.v": "supply voltage",
        "supply.a": "supply current",
        "wall.w": "wall",
    }
    meter_of(channel)
    return words.get(channel) or channel.rsplit(".", 1)[0].replace(".", " ")
