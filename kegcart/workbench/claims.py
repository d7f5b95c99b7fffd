"""Which build holds which cell of the rack: derived from the designs at each change, so that undo, import and restoring keep it.

A cell is in one build. Where two designs name the same cell, as after an import, an undo or a build brought back, the one that
has named it the longest holds it, and the other says so as a finding.
"""

from collections.abc import Iterable
from typing import Any

from django.db.models import Min

from kegcart.workbench.models import CellClaim, StoredDesign


def cells_of(document: dict[str, Any]) -> dict[str, tuple[int, int]]:
    """The cells that a design names: label -> (group, place), both from 1."""
    groups = document["pack"].get("groups") or {}
    return {
        cell["label"]: (g, place) for g, group in enumerate(groups.values(), 1) for place, cell in enumerate(group["cells"], 1)
    }


def claim(design: StoredDesign, document: dict[str, Any] | None, was: dict[str, Any] | None = None) -> None:
    """Keep the claims of a design as its document has them; none where it is off the shelf or cannot be read.

    was: the document before, where there was one.
    """
    wanted = cells_of(document) if document else {}
    renamed = bool(document and was and document["name"] != was["name"])
    if document and was and not renamed and wanted == cells_of(was):
        return
    had = {c.label: c for c in CellClaim.objects.filter(design=design)}
    labels = {*wanted, *had}
    if not labels:
        return
    if renamed and document:
        StoredDesign.objects.filter(pk=design.pk).update(name=document["name"])
    before = {label: c.design_id for label, c in holders(labels).items()}
    CellClaim.objects.filter(pk__in=[c.pk for label, c in had.items() if label not in wanted]).delete()
    moved = [c for label, c in had.items() if label in wanted and (c.group, c.place) != wanted[label]]
    for c in moved:
        c.group, c.place = wanted[c.label]
    CellClaim.objects.bulk_update(moved, ["group", "place"], batch_size=300)
    new = [CellClaim(design=design, label=label, group=g, place=p) for label, (g, p) in wanted.items() if label not in had]
    CellClaim.objects.bulk_create(new, batch_size=300)
    after = {label: c.design_id for label, c in holders(labels).items()}
    passed = {label for label in labels if before.get(label) != after.get(label) or (renamed and after.get(label) == design.pk)}
    others = StoredDesign.objects.filter(claims__label__in=passed).exclude(pk=design.pk).distinct()
    for concerned in (design, *others):
        retell(concerned, counts=concerned is not design)


def holders(labels: Iterable[str] | None = None) -> dict[str, CellClaim]:
    """The claim that counts of each cell, of these or of all."""
    claims = CellClaim.objects.all() if labels is None else CellClaim.objects.filter(label__in=list(labels))
    first = claims.order_by().values("label").annotate(first=Min("pk")).values("first")
    found = CellClaim.objects.filter(pk__in=first).select_related("design").only("label", "group", "place", "design__name")
    return {c.label: c for c in found}


def retell(design: StoredDesign, counts: bool) -> None:
    """Bring up to date what a design knows of its cells that others hold. counts: as a revision, so that a screen on it hears of it."""
    own = CellClaim.objects.filter(design=design).values_list("label", flat=True)
    elsewhere = {label: c.design.name for label, c in holders(own).items() if c.design_id != design.pk}
    if elsewhere == design.elsewhere:
        return
    design.elsewhere, design.card_mark = elsewhere, ""
    design.revision += counts
    design.save(update_fields=["elsewhere", "card_mark", "revision"])
