"""Shapes of requests and answers. The document's own shape is the core's `Design`."""

from datetime import date
from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

from kegcart.core.design import Design
from kegcart.core.loads.document import Load
from kegcart.core.pack.document import Battery, Cell, ChemistryKey, ResistanceBy


class Strict(Schema):
    """A request body in which an unknown field is an error."""

    model_config = ConfigDict(extra="forbid")


class Operation(Strict):
    """One operation of a JSON Patch (RFC 6902)."""

    op: Literal["add", "remove", "replace", "move", "copy", "test"]
    path: Annotated[str, Field(max_length=300)]
    value: Any = None
    from_: Annotated[str | None, Field(alias="from", max_length=300)] = None

    def plain(self) -> dict[str, Any]:
        out: dict[str, Any] = {"op": self.op, "path": self.path}
        if self.op in ("add", "replace", "test"):
            out["value"] = self.value
        if self.op in ("move", "copy"):
            out["from"] = self.from_ or ""
        return out


Patch = Annotated[list[Operation], Field(min_length=1, max_length=200)]


class ChangeIn(Strict):
    base_revision: int
    patch: Patch
    label: Annotated[str, Field(max_length=200)] = ""
    merge_key: Annotated[str, Field(max_length=200)] = ""


class StepIn(Strict):
    base_revision: int


class PreviewIn(Strict):
    patch: Patch
    complete: Annotated[bool, Field(description="add what else it takes, so that it brings no new stop")] = False


class NewIn(Strict):
    name: Annotated[str, Field(min_length=1, max_length=80)]


class Problem(Schema):
    """What is wrong where: a JSON pointer and a sentence."""

    pointer: str
    message: str


class ErrorOut(Schema):
    message: str
    problems: Annotated[list[Problem], Field(default_factory=list)]


class FigureOut(Schema):
    """A figure with its working. An input is a figure, or `{path}` of one on the sheet."""

    symbol: str = ""
    value: float | str = 0
    unit: str = ""
    text: Annotated[str, Field(description="value and unit as a sentence says them")] = ""
    label: str = ""
    formula: str = ""
    how: str = ""
    pointer: str = ""
    choice: Literal["auto", "pinned"] | None = None
    options: str = ""
    basis: Literal["computed", "decision", "standard", "typical", "maker"] = "computed"
    source: str = ""
    path: str = ""
    inputs: Annotated[dict[str, "FigureOut"], Field(default_factory=dict)]


class RemedyOut(Schema):
    label: str
    patch: list[Operation]


class FindingOut(Schema):
    id: str
    station: str
    severity: Literal["stop", "mend", "note"]
    place: str
    text: str
    sentence: str
    why: str
    figures: dict[str, FigureOut]
    remedies: list[RemedyOut]


class Verdict(Schema):
    stop: int
    mend: int
    note: int


class AssessmentOut(Schema):
    figures: dict[str, FigureOut]
    findings: list[FindingOut]
    verdict: Verdict
    offers: list[RemedyOut]


class BoxOut(Schema):
    key: str
    what: Literal["symbol", "run", "text"]
    part: str
    x: float
    y: float
    w: float
    h: float
    folded: int


class LineOut(Schema):
    key: str
    pole: Literal["+", "-", "~"]
    points: list[list[float]]
    bypass: bool


class DiagramOut(Schema):
    width: float
    height: float
    boxes: list[BoxOut]
    lines: list[LineOut]


class DayOut(Schema):
    """The day by steps between edges (h): which load is on, and the running sum (W)."""

    edges_h: list[float]
    on: dict[str, list[bool]]
    running_w: list[float]


class History(Schema):
    """Labels of what undo and redo would do; null where there is nothing."""

    undo: str | None
    redo: str | None


class DesignOut(Schema):
    id: str
    revision: int
    document: Design
    assessment: AssessmentOut
    diagram: DiagramOut
    day: DayOut
    plugged: dict[str, list[str]]
    history: History


class StaleOut(Schema):
    message: str
    current: DesignOut


class ShelfItem(Schema):
    id: str
    revision: int
    name: str
    purpose: str
    demo: str
    updated_at: str
    verdict: Verdict
    figures: dict[str, FigureOut]
    diagram: DiagramOut
    worst: str


class EffectOut(Schema):
    class Change(Schema):
        label: str
        before: str
        after: str

    verdict: Verdict
    gone: list[str]
    new: list[str]
    new_stops: int
    changes: list[Change]
    patch: list[Operation]


class EventOut(Schema):
    hour: float
    kind: Literal["cutoff", "restart", "charge"]
    text: str


class SeriesOut(Schema):
    hour: list[float]
    charge: list[float]
    voltage_v: list[float]
    current_a: list[float]
    pack_c: list[float]
    inside_c: list[float]
    load_w: list[float]


class SimulationOut(Schema):
    series: SeriesOut
    events: list[EventOut]
    figures: dict[str, FigureOut]


class StepOut(Schema):
    name: str
    do: str
    ends: str
    figures: dict[str, FigureOut]


class OptionOut(Schema):
    value: str | float
    label: str


class KindOut(Schema):
    key: str
    label: str
    surge: float
    surge_s: float
    power_factor: float


class ReferenceOut(Schema):
    """Lists to choose from, by the `options` of a figure."""

    options: dict[str, list[OptionOut]]
    kinds: list[KindOut]
    chemistries: list[OptionOut]


class ApplianceOut(Schema):
    key: str
    label: str
    kind: str
    supply: str
    watts_low: float
    watts: float
    watts_high: float
    on_min: float | None
    off_min: float | None
    power_factor: float | None
    surge: float | None
    hours: float
    direct: str | None
    source: str
    basis: str


class PackPartOut(Schema):
    """A generic cell, battery or module, or one of the builder's own: its figures as the design writes them."""

    key: str
    label: str
    kind: Literal["cell", "battery", "module"]
    chemistry: str
    figures: dict[str, Any]
    source: str
    own: int | None


class OwnPartIn(Strict):
    kind: Literal["cell", "battery", "module"]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    chemistry: ChemistryKey
    figures: Cell | Battery


class SuggestionOut(Schema):
    best_at: str
    name: str
    reason: str
    cost: FigureOut
    mass: FigureOut
    usable: FigureOut
    cycles: FigureOut
    patch: list[Operation]


class ColumnOut(Schema):
    header: str
    field: str | None
    unit: str
    guessed: bool


class TableProblemOut(Schema):
    line: int
    column: int
    text: str


class TextIn(Strict):
    text: Annotated[str, Field(max_length=900_000)]


class CurveIn(TextIn):
    current_a: Annotated[float, Field(ge=0, le=1000)] = 0
    cells: Annotated[int, Field(ge=1, le=32)] = 1


class CurveOut(Schema):
    current_a: float
    points: list[dict[str, float]]


class LoadTableOut(Schema):
    columns: list[ColumnOut]
    problems: list[TableProblemOut]
    loads: list[Load]


class WhatIfIn(Strict):
    growth: Annotated[float, Field(gt=0, le=5)]


class WhatIfOut(Schema):
    """What every load grown by a share would break, with every size as it now stands."""

    verdict: Verdict
    new: list[FindingOut]
    changes: list[EffectOut.Change]


Amount = Annotated[float, Field(gt=0, le=10_000)]
CellVolts = Annotated[float, Field(ge=0, le=6)]


class CellIn(Strict):
    """A measured cell. Capacity in Ah, resistance in mΩ, voltages in V; without a label the next one is given."""

    label: Annotated[str, Field(max_length=40)] = ""
    format: Annotated[str, Field(max_length=20)] = ""
    chemistry: ChemistryKey = "nmc"
    capacity_ah: Amount | None = None
    rated_ah: Amount | None = None
    resistance_mohm: Amount | None = None
    resistance_by: ResistanceBy = "1khz"
    resting_v: CellVolts | None = None
    resting_on: date | None = None
    later_v: CellVolts | None = None
    later_on: date | None = None
    source: Annotated[str, Field(max_length=80)] = ""
    remarks: Annotated[str, Field(max_length=300)] = ""
    damaged: bool = False


class CellsIn(Strict):
    cells: Annotated[list[CellIn], Field(min_length=1, max_length=5000)]


class CellChange(CellIn):
    """What changes of a cell; a field left out stays."""

    label: Annotated[str, Field(min_length=1, max_length=40)] = ""


class BuildOut(Schema):
    design_id: str
    name: str
    group: int
    place: int


class CellOut(CellIn):
    id: int
    reasons: list[str]
    build: BuildOut | None


class CellsOut(Schema):
    cells: list[CellOut]
    next_label: str


class LimitsIn(Strict):
    """Limits of rejection; what is left out stands at its typical figure."""

    capacity_share: Annotated[float, Field(ge=0, le=2)] | None = None
    resistance_multiple: Annotated[float, Field(ge=0.1, le=100)] | None = None
    arrival_v: Annotated[float, Field(ge=0, le=6)] | None = None
    drop_v: Annotated[float, Field(ge=0, le=6)] | None = None


class LimitsOut(Schema):
    capacity_share: float
    resistance_multiple: float
    arrival_v: float
    drop_v: float


class RackOut(Schema):
    cells: list[CellOut]
    median_mohm: dict[str, float]
    limits: LimitsOut
    next_label: str


class IdsIn(Strict):
    ids: Annotated[list[Annotated[int, Field(ge=1, le=2**62)]], Field(min_length=1, max_length=20_000)]


class ColumnIn(Strict):
    index: Annotated[int, Field(ge=0, le=200)]
    field: str | None
    unit: Annotated[str, Field(max_length=8)] = ""


class TableIn(TextIn):
    format: Annotated[str, Field(max_length=20)] = ""
    chemistry: ChemistryKey = "nmc"
    rated_ah: Amount | None = None
    resistance_by: ResistanceBy = "1khz"
    source: Annotated[str, Field(max_length=80)] = ""
    columns: Annotated[list[ColumnIn], Field(max_length=60, default_factory=list)]


class TableOut(Schema):
    class Known(Schema):
        key: str
        units: list[str]

    columns: list[ColumnOut]
    problems: list[TableProblemOut]
    count: int
    first: list[CellIn]
    fields: list[Known]


class ImportedOut(Schema):
    added: int


class SortIn(Strict):
    design_id: Annotated[str, Field(max_length=12)]
    series: Annotated[int, Field(ge=1, le=32)]
    parallel: Annotated[int, Field(ge=1, le=200)]
    holder: Annotated[int, Field(ge=1, le=16)] = 1
    kept_out: Annotated[list[int], Field(max_length=20_000, default_factory=list)]
    pinned: Annotated[
        dict[Annotated[str, Field(pattern=r"^\d{1,18}$")], Annotated[int, Field(ge=1, le=32)]], Field(default_factory=dict)
    ]
    limits: LimitsIn | None = None
    resistance_by: ResistanceBy | None = None
    thorough: bool = False


class SortOut(Schema):
    class LeftOut(Schema):
        reason: str
        count: int

    class Result(Schema):
        groups: list[list[int]]
        capacity_ah: list[float]
        spread: float
        spread_ah: float
        conductance_spread: float
        stopped: bool

    job: str
    done: bool
    progress: float
    spread_ah: float | None
    error: str
    good: int
    left_out: list[LeftOut]
    result: Result | None


class RefillIn(Strict):
    design_id: Annotated[str, Field(max_length=12)]


class RefillOut(Schema):
    groups: list[list[int]]
    moved: int
    spread: float


class PlaceIn(Strict):
    design_id: Annotated[str, Field(max_length=12)]
    base_revision: int
    groups: Annotated[list[Annotated[list[int], Field(min_length=1, max_length=200)]], Field(min_length=1, max_length=32)]
    holder: Annotated[int, Field(ge=1, le=16)] = 1
    reclaimed: bool = True


class StandbyOut(Schema):
    """Cut-offs in their order, pack voltage over charge (V), and what draws with all loads off."""

    class Cutoff(Schema):
        rank: int
        name: str
        place: str
        volts: FigureOut

    class Point(Schema):
        soc: float
        rested: float
        running: float
        surge: float

    class Drain(Schema):
        place: str
        name: str
        switched: bool
        watts: FigureOut

    cutoffs: list[Cutoff]
    scale: list[Point]
    idle: list[Drain]


class CurrentsOut(Schema):
    """What flows into each part in each step of the schedule: A, or W behind an inverter."""

    moments: list[str]
    parts: dict[str, list[float]]


class PathPartOut(Schema):
    """A part of the power path: generic with its typical price, or one's own."""

    label: str
    kind: str
    figures: dict[str, Any]
    price: float | None
    source: str
    own: int | None
    owned: int


class PathPartIn(Strict):
    kind: Annotated[str, Field(max_length=20)]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    figures: Annotated[dict[Annotated[str, Field(max_length=40)], str | float | int | bool | None], Field(max_length=12)]
    owned: Annotated[int, Field(ge=0, le=999)] = 0
