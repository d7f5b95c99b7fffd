"""Checks: what was judged. A rule compares a figure with a limit and yields a check; one that fails carries its finding."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cache
from typing import Any, cast

from kegcart.core.figure import Figure, write_figure
from kegcart.core.finding import Finding, Remedy, Severity, Station

HAIR = 1e-9
"""What rounding may leave over a limit."""


class Verdict(StrEnum):
    """Whether a check holds, fails, or cannot be judged yet for lack of an answer."""

    HOLDS = "holds"
    FAILS = "fails"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class Fault:
    """What a failing check says: see `Finding`."""

    severity: Severity
    sentence: str
    why: str
    figures: Mapping[str, Figure] = field(default_factory=dict)
    remedies: Sequence[Remedy] = ()


def stop(sentence: str, why: str, figures: Mapping[str, Figure], remedies: Sequence[Remedy] = ()) -> Fault:
    """It can hurt, or cannot work."""
    return Fault(Severity.STOP, sentence, why, figures, remedies)


def mend(sentence: str, why: str, figures: Mapping[str, Figure], remedies: Sequence[Remedy] = ()) -> Fault:
    """It breaks a margin, wears out early, wastes."""
    return Fault(Severity.MEND, sentence, why, figures, remedies)


def note(sentence: str, why: str, figures: Mapping[str, Figure], remedies: Sequence[Remedy] = ()) -> Fault:
    """It is worth knowing."""
    return Fault(Severity.NOTE, sentence, why, figures, remedies)


class Bound(StrEnum):
    """How a figure stands to its limit."""

    MOST = "at most"
    LEAST = "at least"
    EQUAL = "as many as"


@dataclass(slots=True, eq=False)  # not frozen: hundreds are made for each answer
class Check:
    """One check.

    id: that of the finding it becomes when it fails. place: JSON pointer of what it judges. station: where it is shown.
    figure, limit, bound: what was compared, where it is a comparison.
    missing: what must be known before it can be judged.
    """

    id: str
    place: str
    station: Station
    verdict: Verdict
    figure: Figure | None = None
    limit: Figure | None = None
    bound: Bound = Bound.MOST
    finding: Finding | None = None
    missing: str = ""

    @property
    def used(self) -> float | None:
        """How much of what is allowed is used, as a share: 1 where it just holds; None where the two are no ratio.

        Of a most, figure over limit; of a least, limit over figure: a fuse that opens five times the fault is used to a fifth.
        """
        if self.figure is None or self.limit is None or self.bound is Bound.EQUAL or self.limit.unit == "°C":
            return None
        over, under = (self.limit, self.figure) if self.bound is Bound.LEAST else (self.figure, self.limit)
        if over.number <= 0:
            return 0.0
        return over.number / under.number if under.number > 0 else None


def at_most(
    id: str,
    place: str,
    figure: Figure,
    limit: Figure,
    fault: Callable[[], Fault],
    slack: float = HAIR,
    station: Station | None = None,
) -> Check:
    """A figure that must not exceed a limit. `fault` is asked for only where it does."""
    return compared(id, place, figure.number <= limit.number + slack, figure, limit, Bound.MOST, fault, station)


def at_least(
    id: str,
    place: str,
    figure: Figure,
    limit: Figure,
    fault: Callable[[], Fault],
    slack: float = HAIR,
    station: Station | None = None,
) -> Check:
    """A figure that must not fall below a limit."""
    return compared(id, place, figure.number >= limit.number - slack, figure, limit, Bound.LEAST, fault, station)


def compared(
    id: str,
    place: str,
    holds: bool,
    figure: Figure,
    limit: Figure,
    bound: Bound,
    fault: Callable[[], Fault],
    station: Station | None = None,
) -> Check:
    """A comparison that was made: `holds` says how it came out. station: where it is shown, by default that of its id."""
    shown = station or station_of(id)
    if holds:
        return Check(id, place, shown, Verdict.HOLDS, figure, limit, bound)
    return Check(id, place, shown, Verdict.FAILS, figure, limit, bound, found(id, place, shown, fault()))


def is_so(id: str, place: str, holds: bool, fault: Callable[[], Fault]) -> Check:
    """Something that is as it should be, or is not."""
    return held(id, place) if holds else failed(id, place, fault())


def held(id: str, place: str) -> Check:
    """Something that was judged and holds."""
    return Check(id, place, station_of(id), Verdict.HOLDS)


def failed(id: str, place: str, fault: Fault) -> Check:
    """Something that was judged and fails."""
    return Check(id, place, station_of(id), Verdict.FAILS, finding=found(id, place, station_of(id), fault))


def not_yet(id: str, place: str, missing: str, fault: Fault | None = None) -> Check:
    """Something that cannot be judged for lack of an answer; `fault` where that is worth a note."""
    finding = found(id, place, station_of(id), fault) if fault else None
    return Check(id, place, station_of(id), Verdict.OPEN, finding=finding, missing=missing)


@cache
def station_of(id: str) -> Station:
    """The station that an id is of, `station.what`."""
    return cast(Station, id.partition(".")[0])


def found(id: str, place: str, station: Station, fault: Fault) -> Finding:
    """The finding of a check that fails."""
    return Finding(id, station, fault.severity, place, fault.sentence, fault.why, fault.figures, fault.remedies)


def closest_first(checks: Iterable[Check]) -> list[Check]:
    """What fails, then what cannot be judged yet, then what holds, the least margin first, what was not compared last."""
    rank = {Verdict.FAILS: 0, Verdict.OPEN: 1, Verdict.HOLDS: 2}
    return sorted(checks, key=lambda c: (rank[c.verdict], c.used is None, -(c.used or 0.0)))


def write_check(check: Check, about: str) -> dict[str, Any]:
    """The check as plain JSON data; figures on the sheet are named by path. about: what it speaks of, in words."""
    out: dict[str, Any] = {
        "id": check.id,
        "place": check.place,
        "about": about,
        "station": check.station,
        "verdict": check.verdict.value,
    }
    if check.figure is not None and check.limit is not None:
        out |= {"figure": write_figure(check.figure), "limit": write_figure(check.limit), "bound": check.bound.value}
        if check.used is not None:
            out["used"] = check.used
    if check.missing:
        out["missing"] = check.missing
    return out
