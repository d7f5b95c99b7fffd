"""Shapes of requests and answers. The document's own shape is the core's `Design`."""

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import AfterValidator, ConfigDict, Field, StringConstraints

from kegcart.core.box.document import Case
from kegcart.core.design import Design
from kegcart.core.drawing import Anchor, Role
from kegcart.core.finding import Station
from kegcart.core.loads.document import Kind as LoadKind
from kegcart.core.loads.document import Load
from kegcart.core.loads.supplies import Direct, Supply
from kegcart.core.log.life import AnyEntry
from kegcart.core.log.record import MOST_VALUES
from kegcart.core.pack.document import Battery, Cell, CellLabel, ChemistryKey, MeasuredCapacity, ResistanceBy
from kegcart.core.pack.rack import Measured
from kegcart.core.reference.hardware import label_sheets
from kegcart.core.text import Name, Printable, Remark


def may_be_left_out(schema: dict[str, Any]) -> None:
    """Say in the API's description that fields with a default may be left out, by whoever sends them."""
    for field in schema.get("properties", {}).values():
        field.pop("default", None)


class Sparse(Schema):
    """Part of an answer in which what is at its default is left out."""

    model_config = ConfigDict(json_schema_extra=may_be_left_out)


class Strict(Schema):
    """A request body in which an unknown field is an error."""

    model_config = ConfigDict(extra="forbid", json_schema_extra=may_be_left_out)


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


Act = Annotated[
    str, Field(max_length=40, description="an id for this change: sent again because the answer was lost, it is not done twice")
]


class ChangeIn(Strict):
    base_revision: int
    patch: Patch
    label: Annotated[str, Field(max_length=200), Printable] = ""
    merge_key: Annotated[str, Field(max_length=200)] = ""
    act: Act = ""


class StepIn(Strict):
    base_revision: int
    act: Act = ""


class GoBackIn(Strict):
    to: Annotated[int, Field(description="id of an earlier revision")]


class PreviewIn(Strict):
    patch: Patch


class NewIn(Strict):
    name: Name | None = None
    start: Annotated[str, Field(max_length=40, description="kind of station it starts from; empty: nothing but a name")] = ""


class Problem(Schema):
    """What is wrong where: a JSON pointer and a sentence."""

    pointer: str
    message: str


ErrorKind = Literal["refused", "missing", "deleted", "unreadable", "busy", "cannot-write", "broken"]


class ErrorOut(Schema):
    """What is wrong. reference: under which the log file tells more, where the program has failed."""

    kind: ErrorKind
    message: str
    problems: Annotated[list[Problem], Field(default_factory=list)]
    reference: str = ""


class FigureOut(Sparse):
    """A figure with its working. An input is a figure, or `{path}` of one on the sheet."""

    symbol: str = ""
    value: float | str = 0
    unit: str = ""
    text: Annotated[str, Field(description="value and unit as a sentence says them")] = ""
    worked_in: Annotated[str, Field(description="the same in the units of its formula, where those are not the builder's")] = ""
    label: str = ""
    formula: str = ""
    how: str = ""
    pointer: str = ""
    choice: Literal["auto", "pinned"] | None = None
    options: str = ""
    key: Annotated[str, Field(description="what the design writes for this choice, where the value is only its label")] = ""
    basis: Literal["computed", "decision", "standard", "typical", "maker", "measured"] = "computed"
    source: str = ""
    path: str = ""
    inputs: Annotated[dict[str, "FigureOut"], Field(default_factory=dict)]


class RemedyOut(Schema):
    label: str
    patch: list[Operation]


class AdditionOut(RemedyOut):
    """What can be added behind a source: the pack, or a further bank by its id; for all loads that wait, where that is empty."""

    source: str


class TakenOut(Schema):
    """What takes a part out of the power path."""

    joined: Annotated[
        list[Operation] | None, Field(description="it alone, what was before and behind it joined; null where they cannot be")
    ]
    whole: Annotated[list[Operation], Field(description="with all behind it")]
    behind: Annotated[int, Field(description="how many parts hang behind it")]


class FindingOut(Schema):
    id: str
    station: Station
    severity: Literal["stop", "mend", "note"]
    place: str
    text: str
    sentence: str
    why: str
    figures: dict[str, FigureOut]
    remedies: Annotated[list[RemedyOut] | None, Field(description="null: to be asked for, as each is tried out first")]


class VerdictCounts(Schema):
    stop: int
    mend: int
    note: int


class NextOut(Schema):
    """The next thing to do on a build."""

    text: str
    station: Station
    place: str


class SourceOut(Schema):
    """A charging source: its kind, the hours of the day in which it gives, where it joins, what it charges."""

    key: str
    kind: str
    hours: list[list[float]]
    joins: Annotated[str | None, Field(description="the input or outlet that names it; null: none does")]
    bank: Annotated[str, Field(description="`pack`, or the id of a further bank")]


class AssessmentOut(Schema):
    figures: dict[str, FigureOut]
    findings: list[FindingOut]
    checks: list["CheckOut"]
    verdict: VerdictCounts
    next: NextOut
    begun: Annotated[list[Station], Field(description="the stations at which something was decided")]
    charging: list[SourceOut]
    suits_12v: Annotated[list[str], Field(description="pack and banks whose whole range stands what is made for 12 V")]
    offers: list[AdditionOut]


class LineItem(Sparse):
    """A stroke along points. What is left out of an item is at its default."""

    kind: Literal["line"]
    points: list[list[float]]
    role: Role
    width: float
    of: str = ""


class BoxItem(Sparse):
    kind: Literal["box"]
    x: float
    y: float
    w: float
    h: float
    role: Role
    width: float
    radius: float
    of: str = ""
    title: str = ""


class CircleItem(Sparse):
    kind: Literal["circle"]
    x: float
    y: float
    r: float
    role: Role
    width: float
    of: str = ""
    title: str = ""


class TextItem(Sparse):
    kind: Literal["text"]
    x: float
    y: float
    words: str = ""
    size: float
    role: Role
    anchor: Anchor
    bold: bool = False
    figure: Annotated[str, Field(description="path of the figure that the words say")] = ""
    whole: Annotated[str, Field(description="what was cut short")] = ""
    of: str = ""


class AreaOut(Schema):
    """What can be picked in a drawing."""

    pointer: str
    name: str
    x: float
    y: float
    w: float
    h: float
    mark: list[float]
    hits: list[list[float]]
    fold: str
    behind: int


class DrawingOut(Schema):
    """A drawing as primitives with roles: the screen, SVG, PDF and the shelf all draw from it."""

    width: float
    height: float
    unit: Literal["px", "mm"]
    items: list[Annotated[LineItem | BoxItem | CircleItem | TextItem, Field(discriminator="kind")]]
    areas: list[AreaOut]


class HollowOut(Schema):
    """The inside of a box, mm; each side leans in by `taper` down to the floor."""

    length: float
    width: float
    height: float
    taper: float


class ViewOut(Schema):
    """A view of the box: where its origin is in the drawing, px for each mm, and what runs to the right and up."""

    key: str
    drawing: DrawingOut
    origin: list[float]
    scale: float
    axes: Literal["xy", "xz", "yz", "face"]


class HandleOut(Sparse):
    """Something solid in the box, or in a face of it; mm. `moves` says along which axes its place counts; empty where it is fixed. `over`:
    what comes out before it; null where it does not come out: of the box itself, or opening with its lid."""

    place: str
    name: str
    role: str
    solid: list[float]
    rooms: list[list[float]]
    moves: Literal["xy", "xz", "yz", "xyz", "face", ""]
    face: str = ""
    outline: Annotated[list[float | bool] | None, Field(description="x, y, width, height, whether it is round")] = None
    deep: float = 0.0
    over: list[str] | None = None
    with_lid: bool = False


class FeatureOut(Schema):
    """What the box has on a face, as a plate without depth where the wall is, mm."""

    kind: str
    face: str
    solid: list[float]
    with_lid: bool


class RunWayOut(Schema):
    """A run of the power path as it goes in the box between the places of two things, mm, from corner to corner: the way by which its
    length there is counted."""

    of: str
    ends: list[str]
    points: list[list[float]]


class ThingOut(Schema):
    """Something that may stand in the box. `of` is the pointer of its part in the design."""

    key: str
    name: str
    place: str
    of: str
    where: Literal["inside", "face", "nowhere", "outside"]
    faced: bool
    how: str
    ups: list[str]
    figures: dict[str, FigureOut]


class HoleOut(Schema):
    """A hole in a face, mm from its left edge and over the inner floor, seen from outside; `at` is the place of what sits in it."""

    face: str
    at: str
    name: str
    screw: bool
    size: str
    bit: str
    x_mm: float
    y_mm: float


class BoxOut(Schema):
    """Every view of the box, and what is in it; nothing where none is chosen. `order_out`: in what order all that is loose comes out."""

    hollow: HollowOut | None
    views: list[ViewOut]
    handles: list[HandleOut]
    order_out: list[str]
    runs: list[RunWayOut]
    features: list[FeatureOut]
    things: list[ThingOut]
    holes: list[HoleOut]


class AssemblyOut(Schema):
    """Lists and steps of a build. digest: SHA-256 of its design file, as its papers say it."""

    digest: str

    class GroupOut(Schema):
        key: str
        name: str

    class LineOut(Schema):
        """A line of what it is made of. need, buy: how many, or m."""

        key: str
        group: str
        what: str
        rating: str
        unit: str
        places: list[str]
        need: FigureOut
        owned: float
        price: FigureOut | None
        packet: Annotated[int, Field(description="how many are sold together; 0: any number")]
        buy: FigureOut
        cost: FigureOut | None
        comes_with: Annotated[bool, Field(description="sold with something else")]

    class RollOut(Schema):
        """A length of wire as bought or owned, and what is cut from it."""

        length: str
        owned: bool
        cuts: list[str]
        left: str
        shares: list[float]

    class CutFromOut(Schema):
        line: str
        roll: "AssemblyOut.RollOut"

    class EndOut(Schema):
        at: str
        name: str
        terminal: str
        kind: str
        die: str
        barrel: str
        hole: str
        torque: str
        label: str

    class PieceOut(Schema):
        key: str
        pole: str
        colour: str
        gauge: str
        cores: int
        count: int
        cut: FigureOut
        ends: list["AssemblyOut.EndOut"]
        place: str

    class MeasureOut(Schema):
        """What is measured at the end of a step; without a unit it is only looked at."""

        key: str
        label: str
        unit: str
        expected: FigureOut | None
        least: FigureOut | None
        most: FigureOut | None
        causes: list[str]

    class StageOut(Schema):
        key: str
        name: str
        why: str

    class ReasonOut(Schema):
        """Why a step stands where it does: after a step, or before one; without one, as its stage has it."""

        step: str
        title: str
        before: bool
        why: str

    class BuildStepOut(Schema):
        number: int
        evening: int
        key: str
        stage: str
        title: str
        text: str
        places: list[str]
        pieces: list[str]
        tools: list[str]
        minutes: float
        caution: str
        measures: list["AssemblyOut.MeasureOut"]
        needs: list[str]
        reasons: list["AssemblyOut.ReasonOut"]

    class NeededToolOut(Schema):
        key: str
        what: str
        sizes: str
        why: str
        owned: bool

    groups: list[GroupOut]
    lines: list[LineOut]
    rolls: list[CutFromOut]
    sold: str
    pieces: list[PieceOut]
    tools: list[NeededToolOut]
    stages: list[StageOut]
    steps: list[BuildStepOut]
    circles: list[list[str]]


class StepDrawingOut(Schema):
    drawing: DrawingOut | None


class ToolOut(Schema):
    key: str
    owned: bool


class LayingOut(Schema):
    class Laid(Schema):
        """A patch that takes the layout, null where nothing fits; the box, where that is another; the length of all runs; why nothing fits."""

        patch: list[Operation] | None
        case: str
        cables_m: float
        before_m: float | None
        reasons: list[str]

    job: str
    done: bool
    progress: float
    error: str
    result: Laid | None


class PlacesOut(Schema):
    """The patch that stands things in clear places, and the names of those for which there is none."""

    patch: list[Operation]
    left: list[str]


class CaseOut(Schema):
    """A generic box, or one of the builder's own, as the design writes it."""

    key: str
    label: str
    figures: dict[str, Any]
    price: float | None
    source: str
    own: int | None


class CaseIn(Strict):
    case: Case


class WireOut(Schema):
    """A row of the wire table. `at` is the pointer of its run, empty where it mirrors another; `figures` the path of its figures."""

    key: str
    at: str
    length_at: str
    place: str
    judged_at: str
    figures: str
    current_figure: str
    to: str
    length_m: float
    parallel: int
    start: str
    usual_colour: str
    fuse: str
    fuse_figure: str
    start_stud: str
    end_stud: str
    mirrors: Annotated[str, Field(description="key of the positive run that it goes back beside; empty for all others")]


class CheckOut(Sparse):
    """What was judged: a figure against a limit, or something that is as it should be, or cannot be judged yet."""

    id: str
    place: str
    about: Annotated[str, Field(description="what it speaks of, in words")]
    station: Station
    verdict: Literal["holds", "fails", "open"]
    figure: FigureOut | None = None
    limit: FigureOut | None = None
    bound: Literal["at most", "at least", "as many as"] | None = None
    used: Annotated[float | None, Field(description="share of what is allowed that is used: 1 where it just holds")] = None
    missing: Annotated[str, Field(description="what must be known before it can be judged")] = ""


class CheckChange(Schema):
    """A check that is judged anew: its place in the list before, and a JSON Merge Patch (RFC 7396) on what stood there."""

    was: int
    now: dict[str, Any]


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
    diagram: DrawingOut
    wires: list[WireOut]
    day: DayOut
    plugged: dict[str, list[str]]
    history: History


class DrawingChanges(Schema):
    """A drawing as it differs: a number stands for that item or area of the drawing before."""

    width: float
    height: float
    unit: Literal["px", "mm"]
    items: list[int | Annotated[LineItem | BoxItem | CircleItem | TextItem, Field(discriminator="kind")]]
    areas: list[int | AreaOut]


class ChangesOut(Schema):
    """What a change has changed: apply it to the answer of revision `since`. In lists a number stands for that entry of before."""

    since: int
    revision: int
    document: Annotated[list[Operation], Field(description="JSON Patch on the document")]
    figures: Annotated[dict[str, dict[str, Any]], Field(description="a JSON Merge Patch (RFC 7396) for each figure that differs")]
    gone: Annotated[list[str], Field(description="paths of figures that are no more")]
    findings: list[int | FindingOut]
    checks: list[int | CheckChange | CheckOut]
    verdict: VerdictCounts
    next: NextOut
    begun: list[Station]
    charging: list[SourceOut]
    suits_12v: list[str]
    offers: list[int | AdditionOut]
    diagram: DrawingChanges
    wires: list[int | WireOut]
    day: DayOut | None
    plugged: dict[str, list[str]]
    history: History


class StaleOut(Schema):
    message: str
    current: DesignOut


class ShownOut(Schema):
    verdict: VerdictCounts
    next: NextOut
    figures: dict[str, FigureOut]
    diagram: DrawingOut
    worst: str


class ShelfItem(Schema):
    id: str
    revision: int
    name: str
    purpose: str
    demo: str
    updated_at: str
    problem: Annotated[str, Field(description="why it cannot be read; then nothing is shown of it")]
    shown: ShownOut | None
    due: Annotated[str, Field(description="which visits are due or soon will be, in words; empty where none is")]


class ShelfOut(Schema):
    """A part of the shelf. count: builds of this search; off: builds taken off the shelf."""

    builds: list[ShelfItem]
    count: int
    off: int


class EarlierOut(Schema):
    """A revision that can be gone back to. at: when it was made (ISO 8601)."""

    id: int
    label: str
    at: str


class EffectOut(Schema):
    class Change(Schema):
        label: str
        before: str
        after: str

    verdict: VerdictCounts
    gone: list[str]
    new: list[str]
    new_stops: int
    changes: list[Change]
    patch: list[Operation]


class OfferOut(EffectOut):
    label: str


class EventOut(Schema):
    hour: float
    kind: Literal["cutoff", "trip", "again", "restart", "charge", "lock", "knee"]
    text: str


class SeriesOut(Schema):
    hour: list[float]
    charge: list[float]
    voltage_v: list[float]
    current_a: list[float]
    pack_c: list[float]
    inside_c: list[float]
    load_w: list[float]
    sun_w: Annotated[list[float], Field(description="what the sun brings in through the top of the box")]
    fans_on: Annotated[list[float], Field(description="how many of its fans run")]


class SimulationOut(Schema):
    series: SeriesOut
    offers: Annotated[
        dict[str, list[list[float]]],
        Field(description="of each source of which the power is known by the hour: from h, to h, and W, over the run"),
    ]
    events: list[EventOut]
    figures: dict[str, FigureOut]


class ForecastOut(Schema):
    """What simulating both seasons says: figures by path, checks and findings of its own."""

    figures: dict[str, FigureOut]
    findings: list[FindingOut]
    checks: list[CheckOut]


class TestPlanOut(Schema):
    """The load test: what proves a build before power, by the keys of its steps of assembly, and the steps under power."""

    class BeforePowerOut(Schema):
        key: str
        title: str
        text: str
        caution: str
        places: list[str]
        measures: list[AssemblyOut.MeasureOut]

    class UnderPowerOut(Schema):
        """figures: what to expect, by name, its band as `..._band`. stops: the lines at which it is stopped at once."""

        key: str
        name: str
        connect: str
        do: str
        watch: list[str]
        caution: str
        ends: str
        figures: dict[str, FigureOut]
        stops: dict[str, FigureOut]

    before: list["TestPlanOut.BeforePowerOut"]
    steps: list["TestPlanOut.UnderPowerOut"]


class DrillIn(Schema):
    """A drill as far as the builder has come. seed: which fault was dealt. probes: keys of the measurements made, in their order. guess: key of
    the fault that they think it is; empty until they do."""

    seed: Annotated[int, Field(ge=0, le=1_000_000_000)]
    probes: list[Annotated[str, Field(max_length=40)]] = Field(default_factory=list, max_length=60)
    guess: Annotated[str, Field(max_length=40)] = ""


class TestStepOut(Schema):
    """A step of a load test with what was read at its end, what was expected of the design, and its band."""

    class ReadingOut(Schema):
        name: str
        read: FigureOut
        expected: FigureOut
        band: FigureOut
        off: bool
        where: str

    key: str
    readings: list["TestStepOut.ReadingOut"]


class DrillOut(Schema):
    """What the test and the measurements showed. answer: what was dealt, once it was guessed."""

    class NamedOut(Schema):
        key: str
        words: str

    class LikelyOut(Schema):
        words: str
        share: float

    class MadeOut(Schema):
        """A measurement: causes are told once it was guessed; new: it changed which was the likeliest."""

        key: str
        words: str
        found: FigureOut
        expected: FigureOut
        off: bool
        causes: list["DrillOut.LikelyOut"]
        new: bool

    class AnswerOut(Schema):
        key: str
        words: str
        right: bool

    steps: list[TestStepOut]
    faults: list["DrillOut.NamedOut"]
    probes: list["DrillOut.NamedOut"]
    made: list["DrillOut.MadeOut"]
    at_first: list["DrillOut.LikelyOut"]
    answer: "DrillOut.AnswerOut | None"


class ReadingsOut(Schema):
    """What the readings of a load test say: each figure as assumed, as measured and both together, and what would explain the readings."""

    class RunStepOut(Schema):
        step: str
        begin_s: float
        end_s: float
        ended: str

    class LearnedOut(Schema):
        """figures: assumed, measured and combined, each with its `..._doubt`; only assumed where it was refused. differs: by more than both are
        uncertain."""

        key: str
        label: str
        refused: str
        rests_on: list[str]
        differs: bool
        figures: dict[str, FigureOut]

    class CauseOut(Schema):
        kind: str
        which: int
        words: str
        share: float
        amount: FigureOut

    class ProbeOut(Schema):
        key: str
        words: str

    class DiagnosisOut(Schema):
        """causes: the likeliest first; none where nothing is wrong. alike: how many at their head the readings do not tell apart; next: what would. missing: why nothing
        can be said."""

        causes: list["ReadingsOut.CauseOut"]
        alike: int
        missing: str
        next: "ReadingsOut.ProbeOut | None"

    class ReachedOut(Schema):
        """A line at which a test is stopped that was reached: when first, s since the test began."""

        line: str
        step: str
        at_s: float
        where: str
        read: FigureOut
        limit: FigureOut

    spans: list["ReadingsOut.RunStepOut"]
    steps: list[TestStepOut]
    stops: list["ReadingsOut.ReachedOut"]
    learned: list["ReadingsOut.LearnedOut"]
    diagnosis: "ReadingsOut.DiagnosisOut"


class DialOut(Schema):
    """A fault that can be dialled into the rehearsal: what its size is, what is usual; of: the parts or groups it may be of."""

    kind: str
    label: str
    size: str
    unit: str
    usual: str
    of: list[str]


class DialsOut(Schema):
    dials: list[DialOut]


class WithFaultIn(Strict):
    """A fault: its kind, the part or group that it is of, from 1, and its size as it was typed."""

    kind: Annotated[str, Field(max_length=40)]
    which: Annotated[int, Field(ge=0, le=1000)] = 0
    size: Annotated[str, Field(max_length=40)]


class FoundFigureIn(Strict):
    """A figure that was found of a station: its value and its standard uncertainty in the unit of its key, and what was measured of it alone; or
    what was typed."""

    key: Annotated[str, Field(max_length=40)]
    value: Annotated[float, Field(allow_inf_nan=False)] | None = None
    doubt: Annotated[float, Field(gt=0, allow_inf_nan=False)] | None = None
    measured: Annotated[float, Field(allow_inf_nan=False)] | None = None
    text: Annotated[str, Field(max_length=40)] = ""


class PutInIn(Strict):
    """Figures to be put into a design. run: the load test that found them; empty: the design as it stands."""

    run: Annotated[str, Field(max_length=40)] = ""
    source: Annotated[str, Field(min_length=1, max_length=200)]
    figures: list[FoundFigureIn] = Field(min_length=1, max_length=20)


class PutInOut(Schema):
    """The patch that puts them in, what goes into the log, and what changes. run_time: before and after, where it ends within what is looked at."""

    class ChangedOut(Schema):
        label: str
        before: FigureOut
        after: FigureOut

    patch: list[Operation]
    entries: list[dict[str, Any]]
    run_time: list[FigureOut]
    figures: list["PutInOut.ChangedOut"]
    came: list[FindingOut]
    gone: list[FindingOut]


class WithFaultOut(Schema):
    """A design rehearsed with a fault: what each step would show, lines that would be reached, run time and days beside those of the sound one."""

    class SeasonOut(Schema):
        season: Literal["coldest", "hottest"]
        figures: list["PutInOut.ChangedOut"]

    steps: list[TestStepOut]
    stops: list["ReadingsOut.ReachedOut"]
    run_time: list[FigureOut]
    days: list["WithFaultOut.SeasonOut"]


class ByHandIn(Strict):
    """Readings by hand as they were typed, by their names; of joints each drop."""

    kind: Literal["joints", "rise", "sag"]
    values: dict[Annotated[str, Field(max_length=20)], Annotated[str, Field(max_length=40)]] = Field(max_length=10)
    drops: list[Annotated[str, Field(max_length=40)]] = Field(default_factory=list, max_length=40)


class ByHandOut(Schema):
    """What they say; of joints each with whether it is bad by its like."""

    class JointOut(Schema):
        ohm: FigureOut
        heat: FigureOut
        bad: bool

    figures: list[FigureOut]
    joints: list["ByHandOut.JointOut"]


class MeasurableOut(Schema):
    """A figure that can be measured of a station: its key, what it is called, its unit."""

    key: str
    label: str
    unit: str


class OptionOut(Schema):
    value: str | bool | float
    label: str


class KindOut(Schema):
    key: str
    label: str
    surge: float
    surge_s: float
    power_factor: float
    steady: Annotated[bool, Field(description="of 12 V it usually wants a steady one")]


class RuleOut(Schema):
    """What is judged under an id: its title, what must be so, and what that rests on."""

    title: str
    requires: str
    source: str


class ReferenceOut(Schema):
    """Lists to choose from, by the `options` of a figure."""

    options: dict[str, list[OptionOut]]
    kinds: list[KindOut]
    parts: list["PartKindOut"]
    sources: list["SourceKindOut"]
    supplies: list["SupplyOut"]
    cell_limits: Annotated[dict[str, float], Field(description="greatest figures of a measured cell that are taken")]
    checks: Annotated[dict[str, "RuleOut"], Field(description="the catalogue of checks, by id")]
    measurable: Annotated[list[MeasurableOut], Field(description="what a load test finds out of a station")]
    starts: Annotated[list["StartOut"], Field(description="kinds of station that a build can start from")]
    cells_12v: Annotated[dict[str, int], Field(description="by chemistry: cells in series of a finished battery as usually sold")]


class ChoiceOut(Schema):
    """A sized choice of a part: the field it is pinned in, and the figure that says it."""

    field: str
    figure: str
    label: str
    carries: bool


class PartFieldOut(Schema):
    """How a decision about a part is asked for."""

    field: str
    label: str
    control: Literal["quantity", "numbers", "hours", "choice", "flag", "feeder", "source"]
    unit: str
    empty: Annotated[str, Field(description="what null means; empty where it cannot be null")]
    options: list[OptionOut]
    on: str | bool
    off: str | bool
    needs: Annotated[str, Field(description="a field that must be set for it to be asked")]
    of_choice: Annotated[str, Field(description="a sized choice: it is asked only where that is one of `of_keys`")]
    of_keys: list[str]


class PartKindOut(Schema):
    """A kind of part of the power path."""

    key: str
    title: str
    add: str
    first_name: str
    role: Literal["protects", "passes", "spreads", "changes", "ends"]
    fed_by: Annotated[list[str], Field(description="the kinds that may feed it, with `pack` for the posts of a source")]
    regulated: Annotated[bool, Field(description="it may stand behind a converter")]
    choices: list[ChoiceOut]
    fields: list[PartFieldOut]
    has_negative: bool
    own: Annotated[list[str], Field(description="the fields that go with it into the parts library")]
    measured: Annotated[list[str], Field(description="of these, what a meter finds out")]


class SourceKindOut(Schema):
    """A kind of charging source."""

    key: str
    title: str
    add: str
    first_name: str
    fields: list[PartFieldOut]


class StartOut(Schema):
    key: str
    label: str
    says: str


class SupplyOut(Schema):
    key: Supply
    short: str
    label: str
    means: Annotated[str, Field(description="what stands at the load, in words")]
    outlet: str


class ApplianceOut(Schema):
    key: str
    label: str
    kind: LoadKind
    supply: Supply
    watts_low: float
    watts: float
    watts_high: float
    on_min: float | None
    off_min: float | None
    power_factor: float | None
    surge: float | None
    hours: float
    direct: Direct | None
    source: str
    basis: str


class PackPartOut(Schema):
    """A generic cell, battery or module, one of the builder's own, or as it was measured in a build: its figures as the design writes them."""

    key: str
    label: str
    kind: Literal["cell", "battery", "module"]
    chemistry: str
    figures: dict[str, Any]
    source: str
    own: int | None
    measured: bool


class OwnPartIn(Strict):
    kind: Literal["cell", "battery", "module"]
    name: Name
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

    verdict: VerdictCounts
    new: list[FindingOut]
    changes: list[EffectOut.Change]


class CellIn(Strict, Measured):
    """A measured cell. Capacity in Ah, resistance in mΩ, voltages in V; without a label the next one is given."""


class CellsIn(Strict):
    cells: Annotated[list[CellIn], Field(min_length=1, max_length=5000)]


class CellChange(CellIn):
    """What changes of a cell; a field left out stays."""

    label: Annotated[CellLabel, Field(min_length=1)] = ""


class BuildOut(Schema):
    design_id: str
    name: str
    group: int
    place: int


class CellOut(CellIn):
    """A cell as answered: every field is there."""

    model_config = ConfigDict(json_schema_extra=None)

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
    class Median(Schema):
        """The median resistance of one kind of cells: what is of another kind is not compared."""

        format: str
        chemistry: ChemistryKey
        resistance_by: ResistanceBy
        mohm: float

    cells: list[CellOut]
    medians: list[Median]
    limits: LimitsOut
    next_label: str


class IdsIn(Strict):
    ids: Annotated[list[Annotated[int, Field(ge=1, le=2**62)]], Field(min_length=1, max_length=20_000)]


class ColumnIn(Strict):
    index: Annotated[int, Field(ge=0, le=200)]
    field: str | None
    unit: Annotated[str, Field(max_length=8)] = ""


class TableIn(TextIn):
    format: Annotated[str, Field(max_length=20), Printable] = ""
    chemistry: ChemistryKey = "nmc"
    rated_ah: MeasuredCapacity | None = None
    resistance_by: ResistanceBy = "1khz"
    source: Annotated[str, Field(max_length=80), Printable] = ""
    columns: Annotated[list[ColumnIn], Field(max_length=60, default_factory=list)]


class TableOut(Schema):
    class Known(Schema):
        key: str
        label: str
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
    holder_groups: Annotated[int, Field(ge=1, le=32)] = 1
    kept_out: Annotated[list[int], Field(max_length=20_000, default_factory=list)]
    pinned: Annotated[
        dict[Annotated[str, Field(pattern=r"^\d{1,18}$")], Annotated[int, Field(ge=1, le=32)]], Field(default_factory=dict)
    ]
    limits: LimitsIn | None = None
    resistance_by: ResistanceBy | None = None
    cell_format: Annotated[str, Field(max_length=20)] | None = None
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
    holder_groups: Annotated[int, Field(ge=1, le=32)] = 1
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


class PathPartOut(Schema):
    """A part of the power path: generic with its typical price, one's own, or as it was measured in a build."""

    label: str
    kind: str
    figures: dict[str, Any]
    price: float | None
    source: str
    own: int | None
    owned: int
    measured: bool


class PathPartIn(Strict):
    kind: Annotated[str, Field(max_length=20)]
    name: Name
    figures: Annotated[dict[Annotated[str, Field(max_length=40)], str | float | int | bool | None], Field(max_length=12)]
    owned: Annotated[int, Field(ge=0, le=999)] = 0


class StandingOut(Schema):
    """How a step stands, and what was recorded of it last. digest: of the figures that it rests on now."""

    act: str
    state: Literal["open", "done", "again", "failed", "stopped"]
    digest: str
    stopped_by: Annotated[str, Field(description="the failed step that it waits for")]
    outside: Annotated[list[str], Field(description="its measures that are outside their limits")]
    done: bool
    values: dict[str, float | bool]
    remark: str
    at: str


class RecordOut(Schema):
    """What was done and measured at the bench, judged against the design as it stands."""

    figures: dict[str, FigureOut]
    bought: Annotated[dict[str, float], Field(description="how many of each line of the list, or how many m")]
    steps: list[StandingOut]
    findings: list[FindingOut]
    checks: list[CheckOut]


def known_sheet(key: str) -> str:
    """Errors: ValueError, where there is no such sheet of labels."""
    if key not in label_sheets():
        raise ValueError(f"is one of {', '.join(label_sheets())}")
    return key


class LabelsIn(Schema):
    """On which sheet labels are printed, and the first that is still on it, counted along the rows."""

    sheet: Annotated[str, AfterValidator(known_sheet)] = "plain-a4"
    first: Annotated[int, Field(ge=1, le=400)] = 1


class TickIn(Strict):
    """What is recorded of a step. values: of its measures, as typed with their unit, or yes or no; null: not measured."""

    entry: Annotated[str, Field(min_length=1, max_length=40, description="an id of its own: sent twice it is stored once")]
    act: Annotated[str, Field(max_length=120)]
    done: bool
    values: Annotated[
        dict[Annotated[str, Field(max_length=40)], bool | float | Annotated[str, Field(max_length=60)] | None],
        Field(max_length=MOST_VALUES),
    ] = Field(default_factory=dict)
    remark: Remark = ""
    digest: Annotated[str, Field(max_length=40, description="of the figures as they were seen; as they stand if left out")] = ""


class BoughtIn(Strict):
    """How many of a line of the shopping list were bought, or how many m."""

    entry: Annotated[str, Field(min_length=1, max_length=40, description="an id of its own: sent twice it is stored once")]
    line: Annotated[str, Field(min_length=1, max_length=120)]
    count: Annotated[float, Field(strict=True, ge=0, le=1_000_000)]


class LifeIn(Strict):
    """Something to be entered into the log. item: the id that it has there. data: as the time line has it; quantities may be typed with
    their unit; null takes back what stands there under this id."""

    entry: Annotated[str, Field(min_length=1, max_length=40, description="an id of its own: sent twice it is stored once")]
    item: Annotated[str, Field(min_length=1, max_length=40)]
    data: Annotated[dict[Annotated[str, Field(max_length=40)], Any], Field(max_length=12)] | None


class LifeTableIn(TextIn):
    """A table of entries. take: enter them; else they are only read."""

    take: bool = False


class LifeTableOut(Schema):
    """How many entries a table has, and how many of them are not in the log yet."""

    count: int
    new: int


class VisitOut(Schema):
    """A visit: what is done, how often, when it was made last, empty where it never was, and when it is due."""

    key: str
    label: str
    text: str
    why: str
    every_days: int
    last: str
    due: str
    state: Literal["later", "soon", "overdue"]


class TestedOut(Schema):
    """A test of the pack, brought to 25 °C, and that over what it was new."""

    item: str
    on: str
    figure: FigureOut
    share: FigureOut


class ShareOnOut(Schema):
    """What share of the capacity is left on a day."""

    on: str
    share: float


class WearOut(Schema):
    """How a pack has worn. course: the share that its chemistry would leave, by day. spent_on, by_trend: when four fifths are left, as it is
    used, and as the tests have it; empty where that is not known."""

    since: str
    calendar: FigureOut
    cycling: FigureOut
    doubt: FigureOut
    course: list[ShareOnOut]
    capacities: list[TestedOut]
    resistances: list[TestedOut]
    spent_on: str
    by_trend: str


class OpenFaultOut(Schema):
    """A fault that nobody mended."""

    item: str
    on: str
    what: str
    place: str


class PhotoOut(Schema):
    """A photo that was taken at a step. digest: by which its file is asked for."""

    item: str
    on: str
    digest: str
    width: int
    height: int
    what: str
    step: str


class LifeOut(Schema):
    """The life of a build. since: from when it is in service; empty before. visits: the next first. begun: the log, once something is in it."""

    begun: list[Station]
    figures: dict[str, FigureOut]
    since: str
    visits: list[VisitOut]
    wear: WearOut | None
    faults: list[OpenFaultOut]
    photos: list[PhotoOut]
    findings: list[FindingOut]
    checks: list[CheckOut]


class MomentOut(Schema):
    """Something on the time line. fails: what was measured there is outside its limits. item, data: of an entry, as it can be changed."""

    kind: Literal[
        "step",
        "change",
        "test",
        "use",
        "recharge",
        "capacity",
        "resistance",
        "fault",
        "mend",
        "swap",
        "visit",
        "photo",
        "measured",
        "note",
    ]
    on: str
    title: str
    text: str
    remark: str
    place: str
    fails: bool
    item: str
    data: AnyEntry | None


class TimelineOut(Schema):
    """A part of the time line, the newest first. count: how long it is. counts: how many there are of each kind."""

    rows: list[MomentOut]
    count: int
    counts: dict[str, int]


class AskIn(Schema):
    """A query that an instrument answers: its text, the channels that the answer gives in their order (`*` for each number), the unit of its
    numbers, by what they are multiplied; optional: one that does not know it is none the worse."""

    text: Annotated[str, StringConstraints(min_length=1, max_length=120), Printable]
    channels: Annotated[list[Annotated[str, Field(max_length=20)]], Field(min_length=1, max_length=200)]
    unit: Literal["V", "mV", "A", "mA", "W", "kW", "°C", "s"]
    scale: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)] = 1.0
    optional: bool = False


class InstrumentIn(Schema):
    """An instrument of the builder's. kind: a key of the kinds; it is asked as those are, unless it has words of its own."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60), Printable]
    address: Annotated[str, Field(min_length=1, max_length=80)]
    kind: Annotated[str, Field(max_length=20)] = ""
    asks: Annotated[list[AskIn], Field(max_length=40)] = Field(default_factory=list)
    acts: Annotated[dict[Annotated[str, Field(max_length=20)], Annotated[str, Field(max_length=80)]], Field(max_length=20)] = (
        Field(default_factory=dict)
    )
    every_s: Annotated[float, Field(ge=0.05, le=60, allow_inf_nan=False)] = 0.1


class InstrumentsOut(Schema):
    """The kinds of instruments that are known, and the builder's own."""

    class InstrumentKindOut(Schema):
        key: str
        label: str
        asks: list[AskIn]
        acts: dict[str, str]

    class OwnInstrumentOut(Schema):
        name: str
        address: str
        kind: str
        asks: list[AskIn]
        acts: dict[str, str]
        every_s: float

    kinds: list["InstrumentsOut.InstrumentKindOut"]
    own: list["InstrumentsOut.OwnInstrumentOut"]


class FindIn(Schema):
    addresses: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=32)] = Field(default_factory=list)


class FoundOut(Schema):
    """What answers, by the name that it gives, and the kind that this tells; empty where it tells none."""

    class FoundInstrumentOut(Schema):
        address: str
        name: str
        kind: str

    found: list["FoundOut.FoundInstrumentOut"]


class TryIn(Schema):
    """An instrument to be asked everything once, at the station of a design."""

    design_id: Annotated[str, Field(max_length=12)]
    address: Annotated[str, Field(max_length=80)]
    kind: Annotated[str, Field(max_length=20)] = ""
    asks: Annotated[list[AskIn], Field(max_length=40)] = Field(default_factory=list)


class TriedOut(Schema):
    """What was asked, the answer as it came, its values by channel, and what is wrong with it; empty where nothing is."""

    class TriedAskOut(Schema):
        text: str
        answer: str
        values: dict[str, float]
        problem: str

    tried: list["TriedOut.TriedAskOut"]


class StandInsIn(Schema):
    """Stand-ins for the instruments of a build. seed: by which the true figures differ from the design's. speed: how much faster than a clock.
    fault: what is wrong besides; nothing where it is empty."""

    design_id: Annotated[str, Field(max_length=12)]
    seed: Annotated[int, Field(ge=0, le=1_000_000_000)] = 1
    speed: Annotated[float, Field(ge=0.1, le=600, allow_inf_nan=False)] = 1.0
    fault: Annotated[str, Field(max_length=20)] = ""


class StandInsOut(Schema):
    class StandInOut(Schema):
        name: str
        address: str

    stand_ins: list["StandInsOut.StandInOut"]


class DealtOut(Schema):
    """What was dealt to the stand-ins, in words; empty where there are none."""

    words: str


class RunBeginIn(Schema):
    """A load test to begin. steps: their keys in the order in which they are run; all where none are named. instruments: by their names.
    by_itself: steps that need no hands begin by themselves."""

    steps: Annotated[list[Annotated[str, Field(max_length=20)]], Field(max_length=40)] = Field(default_factory=list)
    instruments: Annotated[list[Annotated[str, Field(max_length=60)]], Field(max_length=24)] = Field(default_factory=list)
    by_itself: bool = True


class CommandIn(Schema):
    """What a load test is told. text: of a note, or a reading as it was typed. channel: that was read, or is read the other way round. on:
    whether steps begin by themselves."""

    command: Literal["begin", "pause", "go on", "repeat", "skip", "stop", "finish", "note", "turn", "by itself", "read"]
    text: Annotated[str, StringConstraints(max_length=500), Printable] = ""
    channel: Annotated[str, Field(max_length=20)] = ""
    on: bool = True


class RunHeadOut(Schema):
    """A load test as a list has it. done: steps that were run; stops: lines that were reached."""

    id: str
    begun_at: str
    over_at: str | None
    state: Literal["ready", "running", "paused", "stopped", "over"]
    steps: int
    done: int
    stops: int


class RunsOut(Schema):
    runs: list[RunHeadOut]


class RunOut(RunHeadOut):
    """A load test as it stands. plan: its steps; courses: what each would read, by its traces; events: what happened; spans: the stretches that
    were run; end_s: how far it has come; judged: what its readings said last; judging: that is
    being worked out, of all of them."""

    class RunPlanStepOut(TestPlanOut.UnderPowerOut):
        act: str
        watts: float
        seconds: float
        until: str
        confirm: bool
        setting: dict[str, float | bool]

    class BandOut(Schema):
        low: list[float]
        high: list[float]

    class StepCourseOut(Schema):
        key: str
        lasts_s: float
        seconds: list[float]
        traces: dict[str, "RunOut.BandOut"]

    class RunEventOut(Schema):
        at_s: float
        kind: str
        data: dict[str, Any]

    class RunInstrumentOut(Schema):
        name: str
        address: str

    design_id: str
    name: str
    plan: list["RunOut.RunPlanStepOut"]
    lines: dict[str, FigureOut]
    points: list[str]
    cells: int
    courses: list["RunOut.StepCourseOut"]
    events: list["RunOut.RunEventOut"]
    spans: list[ReadingsOut.RunStepOut]
    instruments: list["RunOut.RunInstrumentOut"]
    end_s: float
    live: bool
    judging: bool
    judged: ReadingsOut | None


class ChartOut(Schema):
    """What is watched of a stretch of a load test, by trace: moments, s since it began, and values."""

    class CourseOut(Schema):
        t: list[float]
        v: list[float]

    traces: dict[str, "ChartOut.CourseOut"]
