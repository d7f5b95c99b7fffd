"""What can be done with designs: every change goes through `change`, in one transaction."""

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from copy import deepcopy
from dataclasses import dataclass
from datetime import timedelta
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone
from pydantic_core import from_json, to_json

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import patched, read_design, write_design
from kegcart.core.finding import Finding
from kegcart.core.pack.rack import Measured, read_cells
from kegcart.core.units import write_quantity
from kegcart.workbench.models import RackCell, Revision, StoredDesign

MERGE_WITHIN = timedelta(seconds=3)
DEMO_DIR = Path(__file__).parent / "demo"
DEMOS = ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall")


class MissingError(Exception):
    """There is no such design."""


class StaleError(Exception):
    """The patch was made on an older revision; `design` is the current one."""

    def __init__(self, design: StoredDesign) -> None:
        super().__init__("stale revision")
        self.design = design


@dataclass(frozen=True, slots=True)
class Changed:
    """A design after a change, with the revision and document that stood before it."""

    design: StoredDesign
    since: int
    before: dict[str, Any]


@lru_cache(maxsize=24)
def assessed_text(text: bytes) -> Assessment:
    """The assessment of a stored document, written as JSON; kept, as the same decisions always give the same figures."""
    return assess(read_design(from_json(text)))


def assessed(document: dict[str, Any]) -> Assessment:
    """The assessment of a stored document."""
    return assessed_text(to_json(document))


def get(design_id: str, deleted: bool = False) -> StoredDesign:
    """A design by id. Errors: MissingError."""
    design = StoredDesign.objects.select_related("head").filter(pk=design_id, deleted_at__isnull=not deleted).first()
    if design is None or design.head is None:
        raise MissingError
    return design


@contextmanager
def holding(design_id: str, base_revision: int) -> Iterator[StoredDesign]:
    """A design locked for a change, its base checked. Errors: MissingError, StaleError."""
    with transaction.atomic():
        design = get(design_id)
        if design.revision != base_revision:
            raise StaleError(design)
        yield design


def advance(design: StoredDesign, head: Revision) -> StoredDesign:
    """Move the head, and count it."""
    design.head = head
    design.revision += 1
    design.save(update_fields=["head", "revision", "updated_at"])
    return design


def create(document: dict[str, Any], label: str, demo: str = "") -> StoredDesign:
    """Store a new design. Errors: DesignError."""
    clean = write_design(read_design(document))
    with transaction.atomic():
        design = StoredDesign.objects.create(demo=demo)
        design.head = Revision.objects.create(design=design, document=clean, label=label)
        design.save(update_fields=["head"])
    return design


def change(design_id: str, base_revision: int, patch: list[dict[str, Any]], label: str, merge_key: str = "") -> Changed:
    """Apply a patch made on `base_revision`. Errors: MissingError, StaleError, DesignError; then nothing is changed."""
    with holding(design_id, base_revision) as design:
        head = design.head
        assert head is not None
        before = head.document
        document = write_design(patched(before, patch))
        if document == before:
            return Changed(design, base_revision, before)
        merges = (
            bool(merge_key) and head.merge_key == merge_key and head.parent_id and timezone.now() - head.created_at < MERGE_WITHIN
        )
        parent = head.parent if merges else head
        new = Revision.objects.create(
            design=design, parent=parent, document=document, patch=patch, label=label, merge_key=merge_key
        )
        return Changed(advance(design, new), base_revision, before)


def redo_target(design: StoredDesign) -> Revision | None:
    """The revision that redo leads to: the last one made from the head."""
    return Revision.objects.filter(parent_id=design.head_id).last()


def undo(design_id: str, base_revision: int) -> Changed:
    """Step back. Without an earlier revision nothing changes."""
    return step(design_id, base_revision, lambda design: design.head and design.head.parent)


def redo(design_id: str, base_revision: int) -> Changed:
    """Step forward again. Without a later revision nothing changes."""
    return step(design_id, base_revision, redo_target)


def step(design_id: str, base_revision: int, to: Callable[[StoredDesign], Revision | None]) -> Changed:
    """Move a design's head along its history."""
    with holding(design_id, base_revision) as design:
        assert design.head is not None
        before, target = design.head.document, to(design)
        return Changed(advance(design, target) if target else design, base_revision, before)


def copy(design_id: str) -> StoredDesign:
    """A copy with a history of its own."""
    design = get(design_id)
    assert design.head is not None
    document = deepcopy(design.head.document)
    document["name"] = f"{document['name'][:70]}, copy"
    if document["pack"].get("groups"):
        document["pack"]["groups"] = {}  # a cell is in one build at a time
    return create(document, f"Copy of {design.head.document['name']}"[:200])


def delete(design_id: str) -> None:
    """Take a design off the shelf; `restore` brings it back."""
    design = get(design_id)
    design.deleted_at = timezone.now()
    design.save(update_fields=["deleted_at"])


def restore(design_id: str) -> StoredDesign:
    """Bring a deleted design back."""
    design = get(design_id, deleted=True)
    design.deleted_at = None
    design.save(update_fields=["deleted_at"])
    return design


def load_demo_racks() -> None:
    """Put the demo cells on the rack that are not on it."""
    for file in sorted(DEMO_DIR.glob("*-rack.csv")):
        taken = frozenset(RackCell.objects.values_list("label", flat=True))
        known = read_cells(file.read_text(encoding="utf-8"), Measured())
        new = [cell for cell in known.cells if cell.label not in taken]
        RackCell.objects.bulk_create([RackCell(**m.model_dump()) for m in new])


def load_demos(reset: bool = False) -> list[str]:
    """Put the demo builds on the shelf that are not on it (or were deleted); with `reset`, renew all."""
    made = []
    load_demo_racks()
    for name in DEMOS:
        file = DEMO_DIR / f"{name}.json"
        known = StoredDesign.objects.filter(demo=name)
        if reset:
            known.filter(deleted_at__isnull=True).update(deleted_at=timezone.now())
        elif known.exists():
            continue
        create(json.loads(file.read_text(encoding="utf-8")), "Demo build", demo=name)
        made.append(name)
    return made


@dataclass(frozen=True, slots=True)
class Effect:
    """What a patch would change."""

    verdict: dict[str, int]
    gone: list[Finding]
    new: list[Finding]
    changes: list[dict[str, str]]


WATCHED = {
    "pack/mass": "pack mass",
    "pack/cost": "pack cost",
    "pack/usable": "usable energy",
    "power/available": "usable to the cut-off",
    "power/drawn_away": "taken between charges",
    "power/current": "running current",
    "pack/continuous": "pack gives",
    "pack/fault": "fault current",
}


def assessed_design(design_id: str) -> Assessment:
    """The assessment of a design as it stands. Errors: MissingError."""
    design = get(design_id)
    assert design.head is not None
    return assessed(design.head.document)


def preview(document: dict[str, Any], patch: list[dict[str, Any]], before: Assessment) -> Effect:
    """The effect of a patch without storing it. Errors: DesignError."""
    return compared(before, assess(patched(document, patch)))


def compared(before: Assessment, after: Assessment) -> Effect:
    """What is different in a second assessment."""
    was = {(f.id, f.place): f for f in before.findings}
    now = {(f.id, f.place): f for f in after.findings}
    changes = []
    for path, label in WATCHED.items():
        a, b = before.figures.get(path), after.figures.get(path)
        if a and b and a.number and abs(a.number - b.number) / max(abs(a.number), abs(b.number)) > 0.001:
            unit = before.design.brief.currency if a.unit == "money" else a.unit
            changes.append({"label": label, "before": write_quantity(a.number, unit), "after": write_quantity(b.number, unit)})
    return Effect(
        after.verdict, [f for k, f in was.items() if k not in now], [f for k, f in now.items() if k not in was], changes
    )
