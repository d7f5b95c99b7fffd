"""The visits of a build, from the day it is in service: when each was made last, when it is due, and which were missed."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from kegcart.core.assess import Assessment
from kegcart.core.log.life import Life, of_kind
from kegcart.core.power.kinds.inverter import Inverter, has_rcd
from kegcart.core.reference.visits import VisitType, visit_types

SOON_DAYS = 14
"""A visit is named so many days before it is due."""

VisitState = Literal["later", "soon", "overdue"]


@dataclass(frozen=True, slots=True)
class Visit:
    """A visit of a build: when it was made last, None where it never was, and when it is due."""

    of: VisitType
    last: date | None
    due: date
    state: VisitState


def in_service(life: Life, built_on: date | None) -> date | None:
    """The day from which a build is in service: of its first use or recharge, or of its last step, whichever came first; None before."""
    days = [entry.on for entry in of_kind(life, "use", "recharge")]
    return min([*days, *([built_on] if built_on else [])], default=None)


def owed(a: Assessment) -> list[VisitType]:
    """The visits that a design asks for."""
    chemistry, network = a.pack.chemistry, a.design.power.network.values()
    there = {
        "": True,
        "lithium": chemistry.kind == "lithium",
        "flooded": chemistry.key in ("flooded", "starting"),
        "box": a.box is not None,
        "rcd": any(isinstance(node, Inverter) and has_rcd(node, a.design.brief) for node in network),
    }
    return [visit for visit in visit_types().values() if there[visit.needs]]


def visits_of(wanted: Iterable[VisitType], life: Life, since: date | None, today: date) -> list[Visit]:
    """The visits of a build, the next first; none before it is in service."""
    if since is None:
        return []
    return sorted((visit_of(visit, life, since, today) for visit in wanted), key=lambda visit: visit.due)


def visit_of(visit: VisitType, life: Life, since: date, today: date) -> Visit:
    """A visit as it stands. A capacity test that was entered is one of its visits."""
    made = [entry.on for entry in of_kind(life, "visit") if entry.data["visit"] == visit.key]
    made += [entry.on for entry in of_kind(life, "use", "recharge") if visit.by_use]
    made += [entry.on for entry in of_kind(life, "capacity") if visit.key == "capacity"]
    last = max(made, default=None)
    due = last + timedelta(visit.every_days) if last else since + timedelta(visit.first_days)
    return Visit(visit, last, due, "overdue" if today > due else "soon" if today + timedelta(SOON_DAYS) >= due else "later")
