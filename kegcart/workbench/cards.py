"""The shelf: a card for each build, kept until the build or the rules change; searched, sorted, and answered by pages."""

import hashlib
import logging
from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import date
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Literal

from django.db.models import Max

import kegcart.core
from kegcart.core.assess import Assessment
from kegcart.core.building import build_of
from kegcart.core.figure import write_figure
from kegcart.core.log.visits import in_service, owed, visits_of
from kegcart.core.next_step import next_step
from kegcart.core.power.drawing.diagram import draw_path, sketch
from kegcart.core.reference.visits import visit_types
from kegcart.core.units import calendar_day
from kegcart.workbench import record, services
from kegcart.workbench.assessing import UnreadableError, assessed
from kegcart.workbench.models import LogEntry, StoredDesign

log = logging.getLogger(__name__)

FIGURES = (
    "loads/energy_day",
    "power/available",
    "power/current",
    "pack/capacity",
    "pack/v_nom",
    "pack/mass",
    "power/energy_share",
)

VISITING = "visiting"
"""What of a card is for the visits, and not shown."""

Order = Literal["changed", "name", "verdict"]

ORDERS: dict[Order, Callable[[StoredDesign], Any]] = {
    "changed": lambda d: d.created_at.timestamp() if d.demo else -d.updated_at.timestamp(),
    "name": lambda d: d.name.casefold(),
    "verdict": lambda d: (-d.stops, -d.mends, d.name.casefold()),
}


@dataclass(frozen=True, slots=True)
class Shelf:
    """A part of the shelf: its cards in their order, how many builds there are of this search, and how many off the shelf."""

    builds: list[dict[str, Any]]
    count: int
    off: int


@cache
def rules_mark() -> str:
    """What tells the rules and tables of this program from those of another version: cards worked out by others are made anew."""
    folder = Path(kegcart.core.__file__).parent
    found = hashlib.sha256()
    for file in sorted([*folder.rglob("*.py"), *folder.rglob("*.csv")]):
        found.update(file.read_bytes())
    return found.hexdigest()[:40]


def shelf(search: str, order: Order, offset: int, limit: int, off: bool = False) -> Shelf:
    """The builds whose name or purpose holds every word of the search, the builder's own before the demo builds."""
    words = search.casefold().split()
    light = StoredDesign.objects.only(
        "name", "purpose", "demo", "created_at", "updated_at", "stops", "mends", "deleted_at", "head_id"
    )
    every = list(light.filter(head__isnull=False))
    here = [d for d in every if (d.deleted_at is not None) is off]
    found = [d for d in here if all(word in f"{d.name} {d.purpose}".casefold() for word in words)]
    found.sort(key=lambda d: (bool(d.demo), ORDERS[order](d)))
    wanted = [d.pk for d in found[offset : offset + limit]]
    by_id = StoredDesign.objects.in_bulk(wanted)
    last = dict(LogEntry.objects.filter(design__in=wanted).order_by().values_list("design").annotate(last=Max("pk")))
    cards = [card(by_id[pk]) for pk in wanted]
    for made in cards:
        able = made["id"] in last and not made["problem"]
        made["due"] = due_on(made["id"], made["revision"], last[made["id"]], record.today()) if able else ""
    return Shelf(cards, len(found), sum(d.deleted_at is not None for d in every))


def card(design: StoredDesign) -> dict[str, Any]:
    """The card of a design; worked out where the design or the rules have changed since. Never raises for one design."""
    if design.card is None or design.card_mark != rules_mark():
        try:
            services.read(design)
            with assessed(design.document, design.elsewhere) as found:
                design.card = card_of(found)
                design.stops, design.mends = found.verdict["stop"], found.verdict["mend"]
        except UnreadableError as error:
            design.card = {"problem": str(error)}
        except Exception:
            log.exception("the card of %s cannot be worked out", design.pk)
            design.card = {"problem": "the program fails on it; what it says of that stands in its log file"}
        design.card_mark = rules_mark()
        # Not by `save`: the time of the last change stays. Where it was changed meanwhile, the next look does it again.
        kept = {name: getattr(design, name) for name in ("card", "card_mark", "stops", "mends")}
        StoredDesign.objects.filter(pk=design.pk, revision=design.revision).update(**kept)
    return {
        "id": design.pk,
        "revision": design.revision,
        "name": design.name or "A build without a name",
        "purpose": design.purpose,
        "demo": design.demo,
        "updated_at": design.updated_at.isoformat(),
        "problem": "",
        "shown": None,
        **{name: value for name, value in design.card.items() if name != VISITING},
    }


@lru_cache(maxsize=256)
def due_on(design_id: str, revision: int, last: int, today: date) -> str:
    """Which visits of a build are due or soon will be, in words; empty where none is. Of a state of its design, of its record up to an
    entry, and of a day: worked out once."""
    design = StoredDesign.objects.only("card", "revision").get(pk=design_id)
    facts = visiting(design)
    life = record.life_of(design_id)
    since = in_service(life, record.built_on(design_id, lambda: facts["acts"]))
    visits = [v for v in visits_of([visit_types()[key] for key in facts["owed"]], life, since, today) if v.state != "later"]
    if not visits:
        return ""
    more = f", and {len(visits) - 1} more" if len(visits) > 1 else ""
    first = visits[0]
    return f"{first.of.label} {'due since' if first.state == 'overdue' else 'due on'} {calendar_day(first.due)}{more}"


def visiting(design: StoredDesign) -> dict[str, list[str]]:
    """What of a design decides on its visits: those that it asks for, and the acts of its plan; kept with its card, so that the shelf need
    not judge it each time."""
    card = design.card or {}
    if VISITING not in card:
        with services.assessed_design(design.pk) as a:
            card[VISITING] = {"owed": [visit.key for visit in owed(a)], "acts": [*build_of(a).plan.acts]}
        StoredDesign.objects.filter(pk=design.pk, revision=design.revision).update(card=card)
    found: dict[str, list[str]] = card[VISITING]
    return found


def card_of(assessment: Assessment) -> dict[str, Any]:
    """What a card shows of an assessment."""
    return {
        "shown": {
            "verdict": assessment.verdict,
            "next": asdict(next_step(assessment)),
            "figures": {path: write_figure(assessment.figures[path], top=True) for path in FIGURES},
            "diagram": sketch(draw_path(assessment.power)).write(),
            "worst": assessment.findings[0].text if assessment.findings else "",
        }
    }
