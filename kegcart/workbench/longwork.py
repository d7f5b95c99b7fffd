"""What the processes for long work do: each a function of plain data. No models here, so that they begin at once."""

from collections.abc import Mapping, Sequence
from datetime import date
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from pydantic_core import to_json

from kegcart.core.bench.prepared import expected_now, prepare
from kegcart.core.bench.test_plan import TestPlanner, plan_of_test, write_test_plan
from kegcart.core.box.document import Face
from kegcart.core.box.proposal import Proposal, Task, propose
from kegcart.core.box.sheet import draw_layout
from kegcart.core.figure import write_figure
from kegcart.core.finding import set_value
from kegcart.core.forecast import course_of, forecast, write_course, write_forecast
from kegcart.core.lane import Season
from kegcart.core.pack.drawing import Side
from kegcart.core.pack.rack import Measured, RackTable, read_cells
from kegcart.core.pack.sorting import Arrangement, Progress, sort_cells
from kegcart.core.pack.suggest import Candidate, Form, asked_class, suggest
from kegcart.core.power.drawing.sheet import draw_sheet
from kegcart.core.power.path.edits import release_cutoffs
from kegcart.workbench import book, build_papers, label_papers, lid_papers, load_report, papers, photos, template
from kegcart.workbench.assessing import Elsewhere, assessed_text
from kegcart.workbench.workers import Board

if TYPE_CHECKING:
    from kegcart.core.bench.drill import Drill
    from kegcart.core.bench.readings import Readings


def simulation(text: bytes, elsewhere: Elsewhere, season: Season, days: int | None) -> bytes:
    """The station over its days in a season, as JSON."""
    with assessed_text(text, elsewhere) as a:
        course = course_of(a, season, days, series=True)
        return to_json(write_course(course, a, season), inf_nan_mode="null")


def foreseen(text: bytes, elsewhere: Elsewhere) -> bytes:
    """What simulating both seasons says of the station, as JSON."""
    with assessed_text(text, elsewhere) as a:
        return to_json(write_forecast(forecast(a)), inf_nan_mode="null")


def test_plan(text: bytes, elsewhere: Elsewhere) -> bytes:
    """The load test of a design as a plan, as JSON."""
    with assessed_text(text, elsewhere) as a:
        return to_json(write_test_plan(plan_of_test(a)), inf_nan_mode="null")


@lru_cache(maxsize=4)
def dealt(text: bytes, elsewhere: Elsewhere, seed: int) -> "Drill | None":
    """A drill as it was dealt: the same each time it is asked for."""
    from kegcart.core.bench.drill import drill_of  # the simulation and its compiler with it: only who plays has them

    with assessed_text(text, elsewhere) as a:
        return drill_of(a, seed)


def drill(text: bytes, elsewhere: Elsewhere, seed: int, probes: tuple[str, ...], guess: str) -> bytes | None:
    """A drill as far as it has come, as JSON; None where a design has nothing to test. Errors: KeyError, where there is no such measurement."""
    from kegcart.core.bench.drill import write_drill

    found = dealt(text, elsewhere, seed)
    with assessed_text(text, elsewhere):
        return None if found is None else to_json(write_drill(found, probes, guess), inf_nan_mode="null")


def prepared(text: bytes, elsewhere: Elsewhere, steps: tuple[str, ...]) -> bytes:
    """A test made ready to be run, as JSON. Errors: DesignError. See `prepared.prepare`."""
    with assessed_text(text, elsewhere) as a:
        return to_json(prepare(a, steps), inf_nan_mode="null")


def courses(
    text: bytes, as_run: Sequence[Mapping[str, Any]], to_come: Sequence[Mapping[str, Any]], outside_c: float | None
) -> bytes:
    """What the steps to come of a test would read, as JSON. See `prepared.expected_now`."""
    with assessed_text(text, ()) as a:
        return to_json(expected_now(a, as_run, to_come, outside_c), inf_nan_mode="null")


def judged(text: bytes, elsewhere: Elsewhere, readings: "Readings") -> bytes:
    """What readings of a test say of a design's station, as JSON."""
    from kegcart.core.bench.result import write_result
    from kegcart.core.bench.station import station_of

    with assessed_text(text, elsewhere) as a:
        return to_json(write_result(station_of(a), dict(TestPlanner(a).stop_lines()), readings), inf_nan_mode="null")


def learned(text: bytes, elsewhere: Elsewhere, readings: str) -> bytes:
    """What the readings of a load test say of a design's station, as JSON. Errors: TableError."""
    from kegcart.core.bench.station import station_of
    from kegcart.core.bench.tables import read_readings

    with assessed_text(text, elsewhere) as a:
        read = read_readings(readings, station_of(a))
    return judged(text, elsewhere, read)


def put_in(
    text: bytes,
    elsewhere: Elsewhere,
    then: bytes,
    figures: Sequence[tuple[str, float, float | None, float | None]],
    source: str,
    on: date,
) -> bytes:
    """Figures put into a design as measured: the patch and what it changes, as JSON. then: the design of which they were measured. figures:
    key, value, doubt and what was measured alone of each. Errors: CannotPutInError."""
    from kegcart.core.put_in import Found, put_in

    with assessed_text(text, elsewhere) as now, assessed_text(then, ()) as tested:
        found = [Found(*figure) for figure in figures]
        return to_json(put_in(now, tested, found, source, on), inf_nan_mode="null")


def dialled(text: bytes, elsewhere: Elsewhere, kind: str, which: int, size: str) -> bytes:
    """A design rehearsed with a fault of a size as it was typed, as JSON. Errors: CannotDialError. See `core.bench.dialled`."""
    from kegcart.core.bench import dialled as bench

    with assessed_text(text, elsewhere) as a:
        return to_json(bench.dialled(a, kind, which, bench.read_size(kind, size)), inf_nan_mode="null")


def dials(text: bytes, elsewhere: Elsewhere) -> bytes:
    """What can be dialled into the rehearsal of a design, as JSON."""
    from kegcart.core.bench.dialled import dials_of

    with assessed_text(text, elsewhere) as a:
        return to_json(dials_of(a), inf_nan_mode="null")


def by_hand(text: bytes, elsewhere: Elsewhere, kind: str, values: Mapping[str, float], drops: Sequence[float]) -> bytes:
    """What a few readings by hand say, as JSON. Errors: RefusedError."""
    from kegcart.core.bench import hand

    with assessed_text(text, elsewhere) as a:
        return to_json(hand.by_hand(a, kind, values, drops), inf_nan_mode="null")


def report_pdf(test: load_report.LoadTest, paper: papers.Paper) -> bytes:
    """The report of a load test. Errors: NothingToPrintError."""
    return load_report.report_pdf(test, paper)


def power_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper) -> bytes:
    """Diagram, wire table and title block on one page."""
    with assessed_text(text, elsewhere) as a:
        sheet = draw_sheet(a.power, a.design.name, a.design.brief.purpose)
        return papers.fitted_pdf(sheet, f"{a.design.name}: power path", paper)


def checks_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper) -> bytes:
    """The verification table."""
    with assessed_text(text, elsewhere) as a:
        return papers.checks_pdf(forecast(a), paper)


def template_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper) -> bytes:
    """The drill template of the box. See `template.template_pdf`."""
    with assessed_text(text, elsewhere) as a:
        return template.template_pdf(a, paper)


def template_dxf(text: bytes, elsewhere: Elsewhere, face: Face) -> str:
    """The holes of a face of the box. See `template.template_dxf`."""
    with assessed_text(text, elsewhere) as a:
        return template.template_dxf(a, face)


def layout_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper) -> bytes:
    """The layout of the box with its table of parts on one page."""
    with assessed_text(text, elsewhere) as a:
        assert a.box is not None
        sheet = draw_layout(a.box, a.design.name, a.design.brief.purpose)
        return papers.fitted_pdf(sheet, f"{a.design.name}: layout", paper)


def wire_labels_pdf(text: bytes, elsewhere: Elsewhere, sheet: str, first: int) -> bytes:
    """A label for each end of each wire. Errors: NothingToPrintError."""
    with assessed_text(text, elsewhere) as a:
        return label_papers.wire_labels_pdf(a, sheet, first)


def assembly_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper, marked: build_papers.Marked) -> bytes:
    """Lists and order of the assembly. See `build_papers.assembly_pdf`."""
    with assessed_text(text, elsewhere) as a:
        return build_papers.assembly_pdf(a, paper, marked)


def lid_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper, today: date) -> bytes:
    """The sheet for the lid. See `lid_papers.lid_pdf`."""
    with assessed_text(text, elsewhere) as a:
        return lid_papers.lid_pdf(a, paper, today)


def book_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper, lived: book.BookRecord, today: date) -> bytes:
    """The build book. See `book.book_pdf`."""
    with assessed_text(text, elsewhere) as a:
        return book.book_pdf(a, lived, paper, today)


def proposal(text: bytes, elsewhere: Elsewhere, smallest: bool, board: str) -> Proposal:
    """A layout of the box proposed, told on a board. See `proposal.propose`."""
    with Board(board) as told, assessed_text(text, elsewhere) as a:
        assert a.box is not None
        return propose(Task.of(a.box, a.power, a.design.brief), smallest, lambda done: told.tell(done, 0.0))


def pack_pdf(text: bytes, elsewhere: Elsewhere, side: Side, paper: papers.Paper, true_scale: bool) -> bytes:
    """The pack drawing. See `papers.pack_pdf`."""
    with assessed_text(text, elsewhere) as a:
        return papers.pack_pdf(a, side, paper, true_scale)


def plan_pdf(text: bytes, elsewhere: Elsewhere, paper: papers.Paper) -> bytes:
    """Which cell goes where. Errors: NothingToPrintError."""
    with assessed_text(text, elsewhere) as a:
        return papers.plan_pdf(a, paper)


def cell_labels_pdf(text: bytes, elsewhere: Elsewhere, sheet: str, first: int) -> bytes:
    """A label for each cell. Errors: NothingToPrintError."""
    with assessed_text(text, elsewhere) as a:
        return label_papers.cell_labels_pdf(a, sheet, first)


def suggestions(text: bytes, elsewhere: Elsewhere, form: Form | None) -> bytes:
    """Three packs that would serve, of a form or of any, as JSON, each with the patch that takes it."""
    with assessed_text(text, elsewhere) as a:

        def patch(candidate: Candidate) -> list[dict[str, Any]]:
            other = candidate.sizing.series.number != a.pack.series.number
            taken = set_value("/pack", candidate.pack.model_dump(mode="json"))
            return [taken, *(release_cutoffs(a.power.network.nodes) if other else [])]

        return to_json(
            [
                {
                    "best_at": s.best_at,
                    "name": s.candidate.name,
                    "reason": s.reason,
                    **{name: write_figure(getattr(s.candidate, name), top=True) for name in ("cost", "mass", "usable", "cycles")},
                    "patch": patch(s.candidate),
                }
                for s in suggest(a.loads, a.design.brief, a.site, form, asked_class(a.loads, a.design.brief, a.pack))
            ]
        )


def cells_of_table(
    text: str, defaults: Measured, chosen: Mapping[int, tuple[str | None, str]], taken: frozenset[str]
) -> RackTable:
    """A table of cells as read. Errors: TableError."""
    return read_cells(text, defaults, chosen, taken)


def sorting(
    capacity_ah: Sequence[float],
    resistance_mohm: Sequence[float | None],
    series: int,
    parallel: int,
    holder: int,
    holder_groups: int,
    pinned: Mapping[int, int],
    rounds: int,
    board: str,
) -> Arrangement:
    """Cells sorted into groups, as `sort_cells` does it, told on a board. Errors: SortingError."""
    with Board(board) as told:

        def report(progress: Progress) -> bool:
            return told.tell(progress.done / progress.rounds, progress.spread_ah)

        return sort_cells(capacity_ah, resistance_mohm, series, parallel, holder, holder_groups, pinned, rounds, report)


def kept_photo(content: bytes) -> photos.Read:
    """A photo out of an archive. See `photos.read_kept`."""
    return photos.read_kept(content)


def photo(content: bytes) -> photos.Read:
    """A photo read out of a file. See `photos.read`."""
    return photos.read(content)
