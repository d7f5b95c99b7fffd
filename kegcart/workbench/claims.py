"""Which build holds which cell of the rack: derived from the designs at each change, so that undo, import and restoring keep it.

A cell is in one build. Where two designs name the same cell, as after an import, an undo or a build brought back, the one that
has named it the longest holds it, and the other says so as a finding.
"""

from collections.abc import Iterable
from typing import Any

from kegcart.workbench.models import CellClaim, StoredDesign


def cells_of(document: dict[str, Any]) -> dict[str, tuple[int, int]]:
    """The cells that a design names: label -> (group, place), both from 1."""
    groups = document["pack"].get("groups") or {}
    return {
        cell["label"]: (g, place) for g, group in enumerate(groups.values(), 1) for place, cell in enumerate(group["cells"], 1)
    }


def cells_told(document: dict[str, Any]) -> tuple[str, Any]:
    """What of a document matters to who holds which cell."""
    return document["name"], document["pack"].get("groups")


def claim(design: StoredDesign, document: dict[str, Any] | None) -> None:
    """Keep the claims of a design as its document has them; none where it is off the shelf or cannot be read."""
    wanted = cells_of(document) if document else {}
    had = {c.label: c for c in CellClaim.objects.filter(design=design)}
    if not wanted and not had:
        return
    gone = [c.pk for label, c in had.items() if label not in wanted]
    CellClaim.objects.filter(pk__in=gone).delete()
    moved = [c for label, c in had.items() if label in wanted and (c.group, c.place) != wanted[label]]
    for c in moved:
        c.group, c.place = wanted[c.label]
    CellClaim.objects.bulk_update(moved, ["group", "place"], batch_size=300)
    new = [CellClaim(design=design, label=label, group=g, place=p) for label, (g, p) in wanted.items() if label not in had]
    CellClaim.objects.bulk_create(new, batch_size=300)
    retell(design, {*wanted, *had})


def holders(labels: Iterable[str] | None = None) -> dict[str, CellClaim]:
    """The claim that counts of each cell, of these or of all."""
    claims = CellClaim.objects.select_related("design").only("label", "group", "place", "design__name").order_by("-pk")
    if labels is not None:
        claims = claims.filter(label__in=list(labels))
    return {c.label: c for c in claims}  # the oldest comes last, and stays


def retell(changed: StoredDesign, labels: set[str]) -> None:
    """Bring up to date what designs know of their cells that others hold. Another design's revision counts on, so that a screen on it hears of it."""
    concerned = StoredDesign.objects.filter(claims__label__in=labels).exclude(pk=changed.pk).distinct()
    for design in (changed, *concerned):
        own = set(CellClaim.objects.filter(design=design).values_list("label", flat=True))
        elsewhere = {label: c.design.name for label, c in holders(own).items() if c.design_id != design.pk}
        if elsewhere == design.elsewhere:
            continue
        design.elsewhere, design.card_mark = elsewhere, ""
        if design is not changed:
            design.revision += 1
        design.save(update_fields=["elsewhere", "card_mark", "revision"])
