"""How revisions are kept: the head as a snapshot, the others as patches from their parents, with a lasting snapshot every so often.

Nothing is pruned: every state that was stored can be gone back to; only what was typed in one go is one state. A document of
an earlier version is brought up to date when it is read.
"""

import json
from collections.abc import Iterable
from typing import Any

import jsonpatch
from django.db import connection

from kegcart.core.design import VERSION, DesignError, patch_between, read_design, write_design
from kegcart.workbench.assessing import UnreadableError
from kegcart.workbench.models import Revision, Snapshot, StoredDesign

SNAPSHOT_EVERY = 100
"""So many patches at most lead from a snapshot to any revision."""

TO_SNAPSHOT = """
WITH RECURSIVE line(id, parent_id, patch, text, rank) AS (
  SELECT r.id, r.parent_id, r.patch, s.text, 0
  FROM workbench_revision r LEFT JOIN workbench_snapshot s ON s.revision_id = r.id WHERE r.id = %s
  UNION ALL
  SELECT r.id, r.parent_id, r.patch, s.text, line.rank + 1
  FROM line JOIN workbench_revision r ON r.id = line.parent_id LEFT JOIN workbench_snapshot s ON s.revision_id = r.id
  WHERE line.text IS NULL
)
SELECT patch, text FROM line ORDER BY rank
"""
"""A revision and its ancestors up to the first that has a snapshot, the nearest first."""

LINEAGE = """
WITH RECURSIVE line(id, parent_id, label, created_at, rank) AS (
  SELECT id, parent_id, label, created_at, 0 FROM workbench_revision WHERE id = %s
  UNION ALL
  SELECT r.id, r.parent_id, r.label, r.created_at, line.rank + 1
  FROM workbench_revision r JOIN line ON r.id = line.parent_id WHERE line.rank < %s
)
SELECT id, label, created_at FROM line WHERE rank > 0 ORDER BY rank
"""
"""The revisions before one, the nearest first."""


def earlier(revision: Revision, most: int) -> list[Revision]:
    """So many of the revisions before this one, the nearest first."""
    return list(Revision.objects.raw(LINEAGE, [revision.pk, most]))


def document_of(revision: Revision) -> dict[str, Any]:
    """The document of a revision in the newest version. Errors: UnreadableError."""
    with connection.cursor() as cursor:
        cursor.execute(TO_SNAPSHOT, [revision.pk])
        *steps, (_, text) = cursor.fetchall()
    return current(applied(parsed(text), (parsed(patch) for patch, _ in reversed(steps))))


def text_of(revision: Revision) -> str:
    """The snapshot of a head as it is stored; empty where it is missing."""
    return revision.snapshot.text if hasattr(revision, "snapshot") else ""


def parsed(text: str | None) -> Any:
    """Errors: UnreadableError."""
    try:
        return json.loads(text or "")
    except (ValueError, RecursionError) as error:
        raise UnreadableError(f"what lies in the database is damaged: {error}") from None


def applied(document: Any, patches: Iterable[Any]) -> Any:
    """Errors: UnreadableError."""
    try:
        for patch in patches:
            document = jsonpatch.apply_patch(document, patch, in_place=True)
    except (jsonpatch.JsonPatchException, jsonpatch.JsonPointerException, TypeError, ValueError, KeyError) as error:
        raise UnreadableError(f"a step of its history cannot be followed: {error}") from None
    return document


def current(document: Any) -> dict[str, Any]:
    """A stored document in the newest version. Errors: UnreadableError."""
    if is_current(document):
        return dict(document)
    try:
        return write_design(read_design(document))
    except DesignError as error:
        raise UnreadableError.of(error) from None


def is_current(document: Any) -> bool:
    """Whether a stored document is of the version that this program writes."""
    return isinstance(document, dict) and document.get("version") == VERSION


def written(document: dict[str, Any]) -> str:
    """A document as it is stored."""
    return json.dumps(document, ensure_ascii=False, separators=(",", ":"))


def keep(revision: Revision, document: dict[str, Any]) -> None:
    """Store a snapshot of a revision, in the place of one that it has."""
    snapshot = Snapshot(revision=revision, text=written(document))
    Snapshot.objects.bulk_create([snapshot], update_conflicts=True, unique_fields=["revision"], update_fields=["text"])


def thin(revision: Revision) -> None:
    """Let go of a snapshot that follows from the parent's."""
    if revision.steps:
        Snapshot.objects.filter(revision=revision).delete()


def first(design: StoredDesign, document: dict[str, Any], label: str) -> Revision:
    """The beginning of a history."""
    new = Revision.objects.create(design=design, label=label)
    keep(new, document)
    return new


def follow(head: Revision, document: dict[str, Any], label: str, merge_key: str) -> Revision:
    """A revision after the head, whose own snapshot goes where it follows from its parent's. Errors: UnreadableError."""
    stands = parsed(text_of(head))
    # A patch fits only the version that it was made of: from one stored by an earlier program none leads on.
    lasting = head.steps + 1 >= SNAPSHOT_EVERY or not is_current(stands)
    new = Revision.objects.create(
        design_id=head.design_id,
        parent=head,
        patch=[] if lasting else patch_between(stands, document),
        steps=0 if lasting else head.steps + 1,
        label=label,
        merge_key=merge_key,
    )
    keep(new, document)
    thin(head)
    return new


def retype(head: Revision, document: dict[str, Any], label: str) -> Revision:
    """The head again with another document: typing that goes on is one state. The head has no children."""
    assert head.parent is not None
    if head.steps:
        head.patch = patch_between(document_of(head.parent), document)
    head.label = label
    head.save(update_fields=["label", "patch"])
    keep(head, document)
    return head


def stand_on(head: Revision, target: Revision) -> dict[str, Any]:
    """The document of what becomes the head: it gets a snapshot, and the head before loses its own. Errors: UnreadableError."""
    document = document_of(target)
    keep(target, document)
    thin(head)
    return document
