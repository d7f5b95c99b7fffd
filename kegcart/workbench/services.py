"""What can be done with designs: every change goes through `change`, in one transaction."""

import json
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from copy import deepcopy
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone
from pydantic_core import to_json

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import DesignError, patched, read_design, write_design
from kegcart.core.finding import Finding
from kegcart.core.pack.rack import Measured, read_cells
from kegcart.core.units import write_quantity
from kegcart.workbench import history
from kegcart.workbench.assessing import Elsewhere, UnreadableError, assessed
from kegcart.workbench.claims import claim
from kegcart.workbench.models import RackCell, Revision, StoredDesign

MERGE_WITHIN_S = 3.0
"""Typing that goes on within so long is one step of undo."""
MOST_TYPED = 100
ACTS_KEPT = 20
STANDING = ("head", "revision", "acts", "name", "purpose", "stops", "mends", "card_mark", "updated_at")
"""What of a stored design changes with its head."""
MOST_EARLIER = 500
DEMO_DIR = Path(__file__).parent / "demo"
DEMOS = ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall")


class MissingError(Exception):
    """There is no such design."""


class DeletedError(MissingError):
    """The design was taken off the shelf."""


class StoredAlreadyError(Exception):
    """The change was stored before; `design` is the current one."""

    def __init__(self, design: StoredDesign) -> None:
        super().__init__("stored already")
        self.design = design


class StaleError(Exception):
    """The patch was made on an older revision; `design` is the current one."""

    def __init__(self, design: StoredDesign) -> None:
        super().__init__("stale revision")
        self.design = design


@dataclass(frozen=True, slots=True)
class Before:
    """What stood before a change: the revision, the document, and its cells that other builds held."""

    revision: int
    document: dict[str, Any]
    elsewhere: dict[str, str]


@dataclass(frozen=True, slots=True)
class Changed:
    """A design after a change, and what stood before; None where the change was stored already.

    is_last: whether it is known that nothing was made of it yet, so that redo leads nowhere.
    """

    design: StoredDesign
    before: Before | None
    is_last: bool = False


def find(design_id: str, deleted: bool = False) -> StoredDesign:
    """A design by id, whether it can be read or not. Errors: MissingError, DeletedError where it is off the shelf."""
    design = StoredDesign.objects.select_related("head__snapshot").defer("card").filter(pk=design_id).first()
    if design is None or design.head is None or (deleted and design.deleted_at is None):
        raise MissingError
    if design.deleted_at is not None and not deleted:
        raise DeletedError
    return design


def read(design: StoredDesign) -> StoredDesign:
    """The design with its document. Errors: UnreadableError."""
    assert design.head is not None
    design.document = history.current(history.parsed(history.text_of(design.head)))
    return design


def get(design_id: str, deleted: bool = False) -> StoredDesign:
    """A design by id, read. Errors: MissingError, UnreadableError."""
    return read(find(design_id, deleted))


@contextmanager
def holding(design_id: str, base_revision: int, act: str) -> Iterator[tuple[StoredDesign, Changed]]:
    """A design locked for a change made on this revision, with what to answer once it is changed.

    act: an id that the sender gave the change; where one of that id is stored, the answer was lost on the way, and nothing is
    to be done. Errors: MissingError, StaleError, StoredAlreadyError, UnreadableError.
    """
    with transaction.atomic():
        design = get(design_id)
        if act and act in design.acts:
            raise StoredAlreadyError(design)
        if design.revision != base_revision:
            raise StaleError(design)
        if act:
            design.acts = [*design.acts, act][-ACTS_KEPT:]
        yield design, Changed(design, Before(base_revision, design.document, design.elsewhere))


def stand(design: StoredDesign, head: Revision, document: dict[str, Any]) -> None:
    """Let a design stand on a revision and its document: what the shelf sorts by, the cells it holds."""
    claim(design, document, getattr(design, "document", None))
    design.head, design.document = head, document
    design.name, design.purpose = document["name"], document["brief"]["purpose"]
    # Assessed before it is stored: what cannot be judged is never left standing.
    with assessed(design.document, design.elsewhere) as found:
        verdict = found.verdict
    design.stops, design.mends, design.card_mark = verdict["stop"], verdict["mend"], ""
    design.save(update_fields=STANDING)


def advance(design: StoredDesign, head: Revision, document: dict[str, Any]) -> StoredDesign:
    """Move the head, and count it."""
    design.revision += 1
    stand(design, head, document)
    return design


def create(document: dict[str, Any], label: str, demo: str = "") -> StoredDesign:
    """Store a new design. Errors: DesignError."""
    clean = write_design(read_design(document))
    with transaction.atomic():
        design = StoredDesign.objects.create(demo=demo)
        stand(design, history.first(design, clean, label), clean)
    return design


class Typing:
    """Which revision was typed last and when, by a clock that only goes forward: what follows soon is the same step of undo.

    It lives in memory: after a restart typing begins a new step.
    """

    def __init__(self) -> None:
        self._last: OrderedDict[str, tuple[int, float]] = OrderedDict()

    def goes_on(self, head: Revision) -> bool:
        revision, at = self._last.get(head.design_id, (0, 0.0))
        return revision == head.pk and time.monotonic() - at < MERGE_WITHIN_S

    def noted(self, head: Revision) -> None:
        self._last[head.design_id] = (head.pk, time.monotonic())
        self._last.move_to_end(head.design_id)
        while len(self._last) > MOST_TYPED:
            self._last.popitem(last=False)


typing = Typing()


def change(
    design_id: str, base_revision: int, patch: list[dict[str, Any]], label: str, merge_key: str = "", act: str = ""
) -> Changed:
    """Apply a patch made on `base_revision`; see `holding` for `act`.

    Where what stands is already as the patch would have it, it is done, whatever it was made on.
    Errors: MissingError, UnreadableError, StaleError, DesignError; then nothing is changed.
    """
    try:
        return applied(design_id, base_revision, patch, label, merge_key, act)
    except StoredAlreadyError as already:
        return Changed(already.design, None)
    except StaleError as stale:
        # A new thing is no such case: two windows may each have meant their own.
        is_new = any(operation["op"] == "add" for operation in patch)
        with suppress(DesignError):
            if not is_new and write_design(patched(stale.design.document, patch)) == stale.design.document:
                return Changed(stale.design, None)
        raise


def applied(design_id: str, base_revision: int, patch: list[dict[str, Any]], label: str, merge_key: str, act: str) -> Changed:
    """Apply a patch in one transaction. Errors: as of `change`, and StoredAlreadyError."""
    with holding(design_id, base_revision, act) as (design, changed):
        head = design.head
        assert head is not None
        document = write_design(patched(design.document, patch))
        if document == design.document:
            return changed
        goes_on = bool(merge_key) and head.merge_key == merge_key and head.parent_id and typing.goes_on(head)
        if goes_on and not head.children.exists():
            new = history.retype(head, document, label)
        else:
            new = history.follow(head, document, label, merge_key)
        advance(design, new, document)
    typing.noted(new)
    return replace(changed, is_last=True)


def redo_target(design: StoredDesign) -> Revision | None:
    """The revision that redo leads to: the last one made from the head."""
    return Revision.objects.filter(parent_id=design.head_id).last()


def undo(design_id: str, base_revision: int, act: str = "") -> Changed:
    """Step back. Without an earlier revision nothing changes."""
    return step(design_id, base_revision, act, lambda design: design.head and design.head.parent)


def redo(design_id: str, base_revision: int, act: str = "") -> Changed:
    """Step forward again. Without a later revision nothing changes."""
    return step(design_id, base_revision, act, redo_target)


def step(design_id: str, base_revision: int, act: str, to: Callable[[StoredDesign], Revision | None]) -> Changed:
    """Move a design's head along its history; see `holding` for `act`. Errors: MissingError, StaleError, UnreadableError."""
    try:
        with holding(design_id, base_revision, act) as (design, changed):
            assert design.head is not None
            target = to(design)
            if target is not None:
                advance(design, target, history.stand_on(design.head, target))
            return changed
    except StoredAlreadyError as already:
        return Changed(already.design, None)


def go_back(design_id: str, revision_id: int) -> StoredDesign:
    """Let a design stand on one of its earlier revisions, also where its head cannot be read. Errors: MissingError, UnreadableError."""
    with transaction.atomic():
        design = find(design_id)
        assert design.head is not None
        target = next((r for r in history.earlier(design.head, MOST_EARLIER) if r.pk == revision_id), None)
        if target is None:
            raise MissingError
        return advance(design, target, history.stand_on(design.head, target))


def copy(design_id: str) -> StoredDesign:
    """A copy with a history of its own."""
    document = deepcopy(get(design_id).document)
    label = f"Copy of {document['name']}"[:200]
    document["name"] = f"{document['name'][:70]}, copy"
    if document["pack"].get("groups"):
        document["pack"]["groups"] = {}  # a cell is in one build at a time
    return create(document, label)


def delete(design_id: str) -> None:
    """Take a design off the shelf; `restore` brings it back."""
    with transaction.atomic():
        design = find(design_id)
        design.deleted_at = timezone.now()
        design.save(update_fields=["deleted_at"])
        claim(design, None)


def restore(design_id: str) -> None:
    """Bring a deleted design back, also one that cannot be read. Errors: MissingError."""
    with transaction.atomic():
        design = find(design_id, deleted=True)
        design.deleted_at = None
        design.save(update_fields=["deleted_at"])
        with suppress(UnreadableError):
            claim(design, read(design).document)


def load_demo_racks() -> None:
    """Put the demo cells on the rack that are not on it."""
    for file in sorted(DEMO_DIR.glob("*-rack.csv")):
        taken = frozenset(RackCell.objects.values_list("label", flat=True))
        known = read_cells(file.read_text(encoding="utf-8"), Measured())
        new = [cell for cell in known.cells if cell.label not in taken]
        demo = file.stem.removesuffix("-rack")
        RackCell.objects.bulk_create([RackCell(**m.model_dump(), demo=demo) for m in new])


def load_demos(reset: bool = False) -> list[str]:
    """Put the demo builds on the shelf that are not on it (or were deleted); with `reset`, renew all."""
    made = []
    load_demo_racks()
    for name in DEMOS:
        file = DEMO_DIR / f"{name}.json"
        known = StoredDesign.objects.filter(demo=name)
        if reset:
            for old in known.filter(deleted_at__isnull=True):
                delete(old.pk)
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


@contextmanager
def assessed_design(design_id: str) -> Iterator[Assessment]:
    """The assessment of a design as it stands; what is written meanwhile is in the units of its brief.

    Errors: MissingError, UnreadableError.
    """
    design = get(design_id)
    with assessed(design.document, design.elsewhere) as assessment:
        yield assessment


def as_given(design_id: str) -> tuple[bytes, Elsewhere]:
    """A design as the functions for long work take it: its document as JSON, and its cells that other builds hold."""
    design = get(design_id)
    return to_json(design.document), tuple(design.elsewhere.items())


def preview(document: dict[str, Any], patch: list[dict[str, Any]], before: Assessment) -> Effect:
    """The effect of a patch without storing it. Errors: DesignError."""
    return compared(before, assess(patched(document, patch), before.elsewhere))


def compared(before: Assessment, after: Assessment) -> Effect:
    """What is different in a second assessment."""
    was = {(f.id, f.place): f for f in before.findings}
    now = {(f.id, f.place): f for f in after.findings}
    changes = []
    for path, label in WATCHED.items():
        a, b = before.figures.get(path), after.figures.get(path)
        if a and b and a.number and abs(a.number - b.number) / max(abs(a.number), abs(b.number)) > 0.001:
            unit = before.design.brief.currency if a.unit == "money" else a.unit
            said, says = write_quantity(a.number, unit), write_quantity(b.number, unit)
            if said != says:
                changes.append({"label": label, "before": said, "after": says})
    return Effect(
        after.verdict, [f for k, f in was.items() if k not in now], [f for k, f in now.items() if k not in was], changes
    )
