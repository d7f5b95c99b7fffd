"""The cell rack: what can be done with measured cells. Which build a cell is in is read from the designs."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from kegcart.core.pack.rack import FIELDS, Measured, Pile, RackTable, RejectLimits, body_of, read_cells, reject_reasons
from kegcart.core.pack.sorting import ROUNDS, Arrangement, Progress, SortingError, replace_cells, sort_cells
from kegcart.core.reference import assumption
from kegcart.core.table import write_csv
from kegcart.workbench import claims, jobs, longwork, services
from kegcart.workbench.models import RackCell, StoredDesign
from kegcart.workbench.workers import BusyError, workers


class RackError(ValueError):
    """Something that cannot be done with the rack: (pointer, sentence) pairs."""

    def __init__(self, problems: Sequence[tuple[str, str]]) -> None:
        super().__init__(problems[0][1])
        self.problems = list(problems)


@dataclass(frozen=True, slots=True)
class Placed:
    """Where a cell is built in: the design, its name, group and place from 1."""

    design_id: str
    build: str
    group: int
    place: int


@dataclass(frozen=True, slots=True)
class Standing:
    """A cell of the rack with what is known of it."""

    cell: RackCell
    reasons: list[str]
    placed: Placed | None


def placements() -> dict[str, Placed]:
    """Where each cell that is built in is, by label."""
    return {label: Placed(c.design_id, c.design.name, c.group, c.place) for label, c in claims.holders().items()}


def seen_from(design_id: str) -> QuerySet[RackCell]:
    """The cells of the rack as a build sees it: the builder's own, and those of the demo build that it is or was copied from."""
    design = services.get(design_id)
    groups = design.document["pack"].get("groups", {})
    labels = [cell["label"] for group in groups.values() for cell in group["cells"]]
    demos = set(RackCell.objects.filter(label__in=labels).values_list("demo", flat=True))
    return RackCell.objects.filter(demo__in={"", design.demo, *demos})


def standing(limits: RejectLimits, cells_there: QuerySet[RackCell] | None = None) -> tuple[list[Standing], Pile]:
    """Every cell of the rack, or those asked for, judged by the limits, with the pile it is judged against."""
    cells = list(RackCell.objects.all() if cells_there is None else cells_there)
    measured = [cell.measured() for cell in cells]
    pile = Pile.of(measured)
    placed = placements()
    return [
        Standing(cell, reject_reasons(m, pile, limits), placed.get(cell.label)) for cell, m in zip(cells, measured, strict=True)
    ], pile


def free_labels(labels: Sequence[str]) -> None:
    """Errors: RackError where a label is on the rack already, or comes twice."""
    taken = set(RackCell.objects.filter(label__in=labels).values_list("label", flat=True))
    twice = [label for label, n in Counter(labels).items() if n > 1]
    if taken or twice:
        label = sorted(taken or set(twice))[0]
        raise RackError([("/label", f"there is a cell '{label}' on the rack already" if taken else f"'{label}' comes twice")])


def add(measured: Sequence[Measured]) -> list[RackCell]:
    """Put cells on the rack, all or none. Errors: RackError.

    One cell sent again just as it was stored, because the answer was lost on the way, is that cell.
    """
    with transaction.atomic():
        if len(measured) == 1:
            there = RackCell.objects.filter(label=measured[0].label).first()
            if there is not None and there.measured() == measured[0]:
                return [there]
        free_labels([m.label for m in measured])
        rows = [RackCell(**m.model_dump()) for m in measured]
        return RackCell.objects.bulk_create(rows, batch_size=500)


def next_label(cells_there: QuerySet[RackCell] | None = None) -> str:
    """A label that follows the last one of those asked for, else of the builder's own: its number counted up."""
    last = (RackCell.objects.filter(demo="") if cells_there is None else cells_there).order_by("pk").last()
    stem = last.label if last else "C0"
    digits = len(stem) - len(stem.rstrip("0123456789"))
    head, number = (stem[:-digits], stem[-digits:]) if digits else (stem + "-", "0")
    taken = set(RackCell.objects.filter(label__startswith=head).values_list("label", flat=True))
    n = int(number) + 1
    while f"{head}{n:0{len(number)}d}" in taken:
        n += 1
    return f"{head}{n:0{len(number)}d}"


def edit(cell_id: int, changes: Mapping[str, Any]) -> RackCell:
    """Change a cell. In a build, its measured figures follow there as a step of its history. Errors: RackError."""
    with transaction.atomic():
        cell = RackCell.objects.filter(pk=cell_id).first()
        if cell is None:
            raise services.MissingError
        placed = placements().get(cell.label)
        if "label" in changes and changes["label"] != cell.label:
            if placed:
                raise RackError(
                    [("/label", f"{cell.label} is built into {placed.build}: take it out before giving it another label")]
                )
            free_labels([changes["label"]])
        for name, value in changes.items():
            setattr(cell, name, value)
        cell.save()
        if placed:
            follow(cell, placed)
    return cell


def follow(cell: RackCell, placed: Placed) -> None:
    """Write a cell's new figures into the build it is in."""
    design = services.get(placed.design_id)
    key = list(design.document["pack"]["groups"])[placed.group - 1]
    at = f"/pack/groups/{key}/cells/{placed.place - 1}"
    every, _ = standing(RejectLimits())
    reasons = next(s.reasons for s in every if s.cell.pk == cell.pk)
    if cell.capacity_ah is None:
        raise RackError([("/capacity_ah", f"{cell.label} is built into {placed.build}: its capacity cannot be left blank")])
    patch = [{"op": "replace", "path": at, "value": placed_cell(cell, reasons)}]
    services.change(design.pk, design.revision, patch, f"Cell {cell.label} measured again")


def remove(ids: Sequence[int]) -> list[dict[str, Any]]:
    """Take cells off the rack; returns their rows, so that they can be put on again. Errors: RackError."""
    with transaction.atomic():
        cells = list(RackCell.objects.filter(pk__in=ids))
        placed = placements()
        built = next((c for c in cells if c.label in placed), None)
        if built is not None:
            raise RackError([("", f"{built.label} is built into {placed[built.label].build}: take it out of the pack first")])
        rows = [{name: getattr(cell, name) for name in RackCell.FIELDS} for cell in cells]
        RackCell.objects.filter(pk__in=[c.pk for c in cells]).delete()
    return rows


LARGE_TABLE = 20_000
"""A table of so many characters is read in a process of its own."""


def read_table(text: str, defaults: Measured, chosen: Mapping[int, tuple[str | None, str]]) -> RackTable:
    """A pasted or imported table against the rack as it is. Errors: TableError."""
    taken = frozenset(RackCell.objects.values_list("label", flat=True))
    if len(text) < LARGE_TABLE:
        return read_cells(text, defaults, chosen, taken)
    return workers.run(longwork.cells_of_table, text, defaults, chosen, taken)


def write_rack() -> str:
    """The rack as CSV, in columns that reading understands."""
    units = {"capacity_ah": "capacity Ah", "rated_ah": "rated capacity Ah", "resistance_mohm": "resistance mΩ"}
    names = {
        **units,
        "resting_v": "resting voltage V",
        "resting_on": "date",
        "later_v": "later voltage V",
        "later_on": "later date",
    }
    keys = [f.key for f in FIELDS]
    header = [names.get(key, key.replace("_", " ")) for key in keys]

    def said(value: Any) -> Any:
        if isinstance(value, bool):
            return "yes" if value else ""
        return value.isoformat() if isinstance(value, date) else value

    return write_csv(header, ([said(getattr(cell, key)) for key in keys] for cell in RackCell.objects.all()))


def placed_cell(cell: RackCell, reasons: Sequence[str]) -> dict[str, Any]:
    """A cell as a design writes it."""
    return {
        "label": cell.label,
        "capacity_ah": cell.capacity_ah,
        "resistance_mohm": cell.resistance_mohm,
        "resting_v": cell.later_v if cell.later_v is not None else cell.resting_v,
        "reject": "; ".join(reasons)[:200],
    }


@dataclass(frozen=True, slots=True)
class Stock:
    """The cells that can be sorted for a design, and why others cannot."""

    good: list[RackCell]
    left_out: Counter[str]


def stock(
    design_id: str,
    limits: RejectLimits,
    kept_out: frozenset[int],
    resistance_by: str | None = None,
    cell_format: str | None = None,
) -> Stock:
    """The good cells of the design's chemistry that are in no other build. Errors: RackError where formats or ways of measuring are
    mixed.
    """
    design = services.get(design_id)
    chemistry = design.document["pack"]["chemistry"]
    good: list[RackCell] = []
    left_out: Counter[str] = Counter()
    every, _ = standing(limits, seen_from(design_id))
    for s in every:
        if s.cell.pk in kept_out:
            left_out["kept out"] += 1
        elif s.placed and s.placed.design_id != design_id:
            left_out[f"in {s.placed.build}"] += 1
        elif s.cell.chemistry != chemistry:
            left_out["of another chemistry"] += 1
        elif s.reasons:
            left_out["rejected"] += 1
        elif cell_format is not None and s.cell.format not in ("", cell_format):
            left_out["of another format"] += 1
        elif s.cell.capacity_ah is None:
            left_out["without a measured capacity"] += 1
        else:
            good.append(s.cell)
    formats = sorted({c.format for c in good if c.format})
    if len(formats) > 1:
        said = " and ".join(formats[:3])
        raise RackError([("/cell_format", f"there are cells of {said}: sort one format, as they do not fit one holder")])
    ways = {c.resistance_by for c in good if c.resistance_mohm is not None}
    if resistance_by is not None:
        left_out["resistance measured the other way"] += sum(c.resistance_by != resistance_by for c in good)
        good = [c for c in good if c.resistance_by == resistance_by]
    elif len(ways) > 1:
        raise RackError(
            [
                (
                    "/resistance_by",
                    "some resistances are at 1 kHz and some by a DC step: sort one kind, as the two cannot be compared",
                )
            ]
        )
    return Stock(good, +left_out)


def place(
    design_id: str, base_revision: int, groups: Sequence[Sequence[int]], pattern: tuple[int, int], reclaimed: bool
) -> StoredDesign:
    """Build cells into a design, by group and place; pattern: cells of a group in a holder, groups that one reaches over.

    Errors: RackError, StaleError, DesignError.
    """
    with transaction.atomic():
        design = services.get(design_id)
        ids = [pk for group in groups for pk in group]
        if len(set(ids)) != len(ids):
            raise RackError([("/groups", "a cell is in two places")])
        if not groups or len({len(g) for g in groups}) != 1:
            raise RackError([("/groups", "all groups must have the same number of cells")])
        every, _ = standing(RejectLimits())
        by_id = {s.cell.pk: s for s in every}
        for n, pk in enumerate(ids):
            if pk not in by_id:
                raise RackError([(f"/groups/{n // len(groups[0])}", "a cell is not on the rack any more")])
            there = by_id[pk].placed
            if there and there.design_id != design_id:
                raise RackError([(f"/groups/{n // len(groups[0])}", f"{by_id[pk].cell.label} is built into {there.build}")])
            if by_id[pk].cell.capacity_ah is None:
                raise RackError([(f"/groups/{n // len(groups[0])}", f"{by_id[pk].cell.label} has no measured capacity")])
        if design.document["pack"]["form"] != "cells":
            raise RackError([("/design_id", "only a pack of loose cells can be built from the rack")])
        known = [by_id[pk].cell for pk in ids]
        mean_ah = sum(c.capacity_ah or 0 for c in known) / len(known)
        ways = {c.resistance_by for c in known if c.resistance_mohm is not None}
        document = {
            f"g{g}": {"cells": [placed_cell(by_id[pk].cell, by_id[pk].reasons) for pk in group]}
            for g, group in enumerate(groups, 1)
        }
        patch: list[dict[str, Any]] = [
            {"op": "replace", "path": "/pack/groups", "value": document},
            {"op": "replace", "path": "/pack/series", "value": len(groups)},
            {"op": "replace", "path": "/pack/parallel", "value": len(groups[0])},
            {"op": "replace", "path": "/pack/holder", "value": pattern[0]},
            {"op": "replace", "path": "/pack/holder_groups", "value": pattern[1]},
            {"op": "replace", "path": "/pack/cell/capacity_ah", "value": round(mean_ah, 4)},
            {"op": "replace", "path": "/pack/cell/reclaimed", "value": reclaimed},
        ]
        formats = {c.format for c in known}
        body = body_of(formats.pop(), design.document["pack"]["chemistry"], mean_ah) if len(formats) == 1 else {}
        patch += [{"op": "replace", "path": f"/pack/cell/{name}", "value": value} for name, value in body.items()]
        if len(ways) == 1:
            patch.append({"op": "replace", "path": "/pack/cell/resistance_by", "value": ways.pop()})
        return services.change(design_id, base_revision, patch, f"{len(ids)} cells from the rack").design


@dataclass(frozen=True, slots=True)
class Refill:
    """An arrangement that follows a change of the pile: groups of cell ids, how many cells move, and its spread."""

    groups: list[list[int]]
    moved: int
    spread: float


def refill(design_id: str, limits: RejectLimits) -> Refill:
    """The pack's groups with rejected and missing cells replaced, moving as few others as it can. Errors: RackError."""
    design = services.get(design_id)
    pack = design.document["pack"]
    if not pack.get("groups"):
        raise RackError([("/design_id", "no cells from the rack are in this pack yet: sort first")])
    labels = [cell["label"] for group in pack["groups"].values() for cell in group["cells"]]
    formats = set(RackCell.objects.filter(label__in=labels).values_list("format", flat=True))
    one = formats.pop() if len(formats) == 1 else None
    store = stock(design_id, limits, frozenset(), pack["cell"]["resistance_by"], one)
    by_label = {cell.label: n for n, cell in enumerate(store.good)}
    groups = [[by_label.get(c["label"]) for c in group["cells"]] for group in pack["groups"].values()]
    used = {n for group in groups for n in group if n is not None}
    spares = [n for n in range(len(store.good)) if n not in used]
    target = assumption("spread_reclaimed" if pack["cell"]["reclaimed"] else "spread_new").number
    capacities = [c.capacity_ah or 0.0 for c in store.good]
    try:
        rows, moved = replace_cells(capacities, groups, spares, target)
    except SortingError as error:
        raise RackError([("/design_id", str(error))]) from None
    sums = [sum(capacities[n] for n in row) for row in rows]
    spread = (max(sums) - min(sums)) / (sum(sums) / len(sums))
    return Refill([[store.good[n].pk for n in row] for row in rows], moved, spread)


SortingJob = jobs.Job[Stock, float, Arrangement]
"""The sorting of a stock; so far: its spread of group capacity, Ah."""

QUICK_S = 0.9
Given = tuple[list[float], list[float | None], int, int, int, int, dict[int, int], int]
"""What sorting takes: capacities, resistances, series, parallel, holder, holder_groups, pinned, rounds."""
THOROUGH_S = 60.0
THOROUGH_ROUNDS = 100 * ROUNDS


def begin_sorting(
    store: Stock, series: int, parallel: int, pattern: tuple[int, int], pinned: Mapping[int, int], thorough: bool
) -> tuple[str, SortingJob]:
    """Begin sorting the stock into groups, as a job. pattern: see `place`. pinned: cell id -> group from 0."""
    index = {cell.pk: n for n, cell in enumerate(store.good)}
    given: Given = (
        [cell.capacity_ah or 0.0 for cell in store.good],
        [cell.resistance_mohm for cell in store.good],
        series,
        parallel,
        *pattern,
        {index[pk]: group for pk, group in pinned.items() if pk in index},
        THOROUGH_ROUNDS if thorough else ROUNDS,
    )

    def sort(job: SortingJob) -> Arrangement:
        def report(progress: Progress) -> bool:
            return job.told(progress.done / progress.rounds, progress.spread_ah)

        try:
            return jobs.beside(job, longwork.sorting, *given) if workers.there else sort_cells(*given, report)
        except SortingError as error:
            raise jobs.CannotError(str(error)) from None
        except BusyError:
            raise jobs.CannotError("the server is busy with other long work: try again in a moment") from None

    return jobs.begin("sorting", store, sort, THOROUGH_S if thorough else QUICK_S)


def written(found: Arrangement, good: Sequence[RackCell]) -> dict[str, Any]:
    """An arrangement as plain data, by cell id."""
    groups = [[good[n].pk for n in group] for group in found.groups]
    sums = [sum(good[n].capacity_ah or 0.0 for n in group) for group in found.groups]
    return {
        "groups": groups,
        "capacity_ah": [round(s, 4) for s in sums],
        "spread": found.spread,
        "spread_ah": found.spread_ah,
        "conductance_spread": found.conductance_spread,
        "stopped": found.stopped,
    }
