"""The file of a load test: what was tested, how, what happened; its readings as CSV beside it. What comes in is checked line by line."""

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from math import isfinite
from typing import Annotated, Any, Final, Literal

from pydantic import AwareDatetime, Field, StringConstraints, ValidationError

from kegcart.core.bench.asking import known_channel
from kegcart.core.bench.live import LiveTest, TestEvent
from kegcart.core.bench.prepared import run_steps, watch_of
from kegcart.core.design import DesignError, problems_of
from kegcart.core.document import Decisions
from kegcart.core.text import Printable

FORMAT: Final = "kegcart/test"
VERSION: Final = 1
MOST_EVENTS = 20_000
MOST_READINGS = 4_000_000
LONGEST_S = 1e7
MOMENT = "time (s)"

Word = Annotated[str, StringConstraints(max_length=120), Printable]
Moment = Annotated[float, Field(ge=0, le=LONGEST_S, allow_inf_nan=False)]
Number = Annotated[float, Field(allow_inf_nan=False)]
EventKind = Literal[
    "begin", "end", "pause", "go on", "repeat", "skip", "stop", "finish", "note", "instrument", "gap", "turn", "out of band"
]  # fmt: skip
SAYS: Final[Mapping[str, tuple[str, ...]]] = {"begin": ("step",), "repeat": ("step",), "end": ("how",), "turn": ("channel",)}
"""What an event of a kind must say; a stop says its line with value, limit and where, or that it was by hand."""
AT_A_LINE = ("line", "value", "limit", "where")


class EventData(Decisions):
    """What an event says: each kind its own part of it."""

    step: Annotated[int, Field(ge=0, le=100)] | None = None
    how: Word | None = None
    by: Word | None = None
    line: Word | None = None
    at_s: Moment | None = None
    value: Number | None = None
    limit: Number | None = None
    where: Word | None = None
    text: Annotated[str, StringConstraints(max_length=500), Printable] | None = None
    name: Word | None = None
    said: Annotated[str, StringConstraints(max_length=300), Printable] | None = None
    seconds: Number | None = None
    channel: Word | None = None
    traces: Annotated[list[Word], Field(max_length=20)] | None = None


class EventRow(Decisions):
    """Something that happened: when, s since the test began."""

    at_s: Moment
    kind: EventKind
    data: EventData


class InstrumentRow(Decisions):
    """An instrument that was read, and where it was."""

    name: Word
    address: Word


class RunFile(Decisions):
    """A load test: the id by which photos of its build name it, the design that it is a test of, its steps in their order, its instruments, what happened."""

    format: Literal["kegcart/test"] = FORMAT
    version: Literal[1] = VERSION
    id: Word = ""
    begun_at: AwareDatetime
    over_at: AwareDatetime
    by_itself: bool = False
    design: dict[str, Any]
    steps: Annotated[list[Word], Field(min_length=1, max_length=40)]
    instruments: Annotated[list[InstrumentRow], Field(max_length=40)] = Field(default_factory=list)
    events: Annotated[list[EventRow], Field(max_length=MOST_EVENTS)] = Field(default_factory=list)


def write_run_file(run: RunFile) -> dict[str, Any]:
    """The file as plain JSON data."""
    return run.model_dump(mode="json", exclude_unset=False, exclude_none=True)


def read_run_file(data: Any) -> RunFile:
    """A file as it came in. Errors: DesignError with the pointer of each problem."""
    try:
        return RunFile.model_validate(data)
    except ValidationError as error:
        raise DesignError(problems_of(error, {})) from None


def read_events(run: RunFile, prepared: Mapping[str, Any]) -> list[TestEvent]:
    """The events of a test, each as its kind says, in an order that a test can go through. Errors: DesignError."""
    test = LiveTest(run_steps(prepared), watch_of(prepared), by_itself=run.by_itself)
    out = []
    for n, row in enumerate(run.events):
        said = row.data.model_dump(exclude_none=True)
        lacking = [name for name in SAYS.get(row.kind, ()) if name not in said]
        if row.kind == "stop" and "line" in said:
            lacking += [name for name in AT_A_LINE if name not in said]
            if said["line"] not in prepared["limits"]:
                raise DesignError([(f"/events/{n}/data/line", f"'{said['line'][:40]}' is no line of this test")])
        if lacking:
            raise DesignError([(f"/events/{n}/data", f"'{row.kind}' says nothing of its {lacking[0]}")])
        if said.get("step", 0) >= len(test.steps) or (row.kind == "end" and test.step is None):
            raise DesignError([(f"/events/{n}", "there is no such step")])
        out.append(test.happens(TestEvent(row.at_s, row.kind, said)))
    return out


def write_run_csv(rows: Iterable[tuple[float, Mapping[str, float]]], channels: Sequence[str]) -> str:
    """The readings of a test as CSV: a row each moment, a column each channel, empty where it was not read."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([MOMENT, *channels])
    for moment, read in rows:
        writer.writerow([f"{moment:.10g}", *(f"{read[c]:.17g}" if c in read else "" for c in channels)])
    return out.getvalue()


def read_run_csv(text: str, cells: int, points: int) -> Iterator[tuple[float, dict[str, float]]]:
    """The readings of a test at a station with so many cells in series and parts on its main path, moment by moment.

    Errors: DesignError with the line.
    """
    rows = csv.reader(io.StringIO(text))
    header = next(rows, [])
    channels = header[1:]
    if header[:1] != [MOMENT] or len(set(channels)) < len(channels):
        raise DesignError([("", f"the readings do not begin with '{MOMENT}' and a column each channel")])
    for channel in channels:
        if "*" in channel or not known_channel(channel, cells, points):
            raise DesignError([("", f"line 1 of the readings: '{channel[:40]}' is no channel of this station")])
    before, many = -1.0, 0
    for line, row in enumerate(rows, 2):
        try:
            moment = float(row[0])
            read = {c: float(cell) for c, cell in zip(channels, row[1:], strict=True) if cell}
        except (ValueError, IndexError):
            raise DesignError([("", f"line {line} of the readings is not a moment and a number each channel")]) from None
        many += len(read)
        if not before < moment <= LONGEST_S or not all(isfinite(value) for value in read.values()):
            raise DesignError([("", f"line {line} of the readings does not come after the one before it")])
        if many > MOST_READINGS:
            raise DesignError([("", f"more than {MOST_READINGS} readings in one test")])
        before = moment
        yield moment, read
