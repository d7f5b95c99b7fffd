"""Checks: what was judged. A rule compares a figure with a limit and yields a check; one that fails carries its finding."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
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
    """What a failing check says: see `Finding`. `station` is where it is shown, by default that of its id."""

    severity: Severity
    sentence: str
    why: str
    figures: Mapping[str, Figure] = field(default_factory=dict)
    remedies: tuple[Remedy, ...] = ()
    station: Station | None = None


def stop(
    sentence: str, why: str, figures: Mapping[str, Figure], remedies: tuple[Remedy, ...] = (), station: Station | None = None
) -> Fault:
    """It can hurt, or cannot work."""
    return Fault(Severity.STOP, sentence, why, figures, remedies, station)


def mend(
    sentence: str, why: str, figures: Mapping[str, Figure], remedies: tuple[Remedy, ...] = (), station: Station | None = None
) -> Fault:
    """It breaks a margin, wears out early, wastes."""
    return Fault(Severity.MEND, sentence, why, figures, remedies, station)


def note(
    sentence: str, why: str, figures: Mapping[str, Figure], remedies: tuple[Remedy, ...] = (), station: Station | None = None
) -> Fault:
    """It is worth knowing."""
    return Fault(Severity.NOTE, sentence, why, figures, remedies, station)


@dataclass(frozen=True, slots=True)
class Check:
    """One check.

    id: that of the finding it becomes when it fails. place: JSON pointer of what it judges.
    figure, limit: what was compared, where it is a comparison. at_least: the figure must not fall below the limit,
        else must not exceed it. missing: what must be known before it can be judged.
    """

    id: str
    place: str
    verdict: Verdict
    figure: Figure | None = None
    limit: Figure | None = None
    at_least: bool = False
    finding: Finding | None = None
    missing: str = ""

    @property
    def margin(self) -> float | None:
        """Share of the limit that is left, negative where it is broken; None where nothing was compared."""
        if self.figure is None or self.limit is None:
            return None
        figure, limit = self.figure.number, self.limit.number
        if self.at_least:
            return (figure - limit) / abs(limit) if limit else 0.0
        return (limit - figure) / abs(limit) if limit else (0.0 if figure <= 0 else -1.0)


def at_most(id: str, place: str, figure: Figure, limit: Figure, fault: Callable[[], Fault], slack: float = HAIR) -> Check:
    """A figure that must not exceed a limit. `fault` is asked for only where it does."""
    holds = figure.number <= limit.number + slack
    return compared(id, place, holds, figure, limit, False, fault)


def at_least(id: str, place: str, figure: Figure, limit: Figure, fault: Callable[[], Fault], slack: float = HAIR) -> Check:
    """A figure that must not fall below a limit."""
    holds = figure.number >= limit.number - slack
    return compared(id, place, holds, figure, limit, True, fault)


def compared(
    id: str, place: str, holds: bool, figure: Figure, limit: Figure, at_least: bool, fault: Callable[[], Fault]
) -> Check:
    """A comparison that was made: `holds` says how it came out."""
    if holds:
        return Check(id, place, Verdict.HOLDS, figure, limit, at_least)
    return Check(id, place, Verdict.FAILS, figure, limit, at_least, found(id, place, fault()))


def is_so(id: str, place: str, holds: bool, fault: Callable[[], Fault]) -> Check:
    """Something that is as it should be, or is not."""
    if holds:
        return Check(id, place, Verdict.HOLDS)
    return Check(id, place, Verdict.FAILS, finding=found(id, place, fault()))


def held(id: str, place: str) -> Check:
    """Something that was judged and holds."""
    return Check(id, place, Verdict.HOLDS)


def failed(id: str, place: str, fault: Fault) -> Check:
    """Something that was judged and fails."""
    return Check(id, place, Verdict.FAILS, finding=found(id, place, fault))


def not_yet(id: str, place: str, missing: str, fault: Fault | None = None) -> Check:
    """Something that cannot be judged for lack of an answer; `fault` where that is worth a note."""
    return Check(id, place, Verdict.OPEN, finding=found(id, place, fault) if fault else None, missing=missing)


def found(id: str, place: str, fault: Fault) -> Finding:
    """The finding of a check that fails."""
    station = fault.station or cast(Station, id.split(".")[0])
    return Finding(id, station, fault.severity, place, fault.sentence, fault.why, fault.figures, fault.remedies)


def write_check(check: Check) -> dict[str, Any]:
    """The check as plain JSON data; figures on the sheet are named by path."""
    out: dict[str, Any] = {"id": check.id, "place": check.place, "verdict": check.verdict.value}
    if check.figure is not None and check.limit is not None:
        out |= {
            "figure": write_figure(check.figure),
            "limit": write_figure(check.limit),
            "at_least": check.at_least,
            "margin": check.margin,
        }
    if check.missing:
        out["missing"] = check.missing
    return out
