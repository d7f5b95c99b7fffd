"""Shapes of requests and answers. The document's own shape is the core's `Design`."""

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

from kegcart.core.design import Design


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
