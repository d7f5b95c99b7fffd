"""Findings: what is wrong or worth knowing, where, why, and what would mend it."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Any, Literal, overload

from kegcart.core.figure import Figure, write_figure
from kegcart.core.units import shown_in, units_shown, write_quantity

Station = Literal["brief", "loads", "pack", "charging", "power", "box", "assembly", "bench", "log"]
"""The stations in working order."""


class Severity(StrEnum):
    """How bad: stop can hurt or cannot work; mend breaks a margin; note is worth knowing."""

    STOP = "stop"
    MEND = "mend"
    NOTE = "note"


SEVERITY_ORDER = {Severity.STOP: 0, Severity.MEND: 1, Severity.NOTE: 2}


@dataclass(frozen=True, slots=True)
class Remedy:
    """A change that may mend a finding: a JSON Patch (RFC 6902) on the design, and what to call it.

    A rule proposes it; it is tried out on the whole design before it is offered: see `remedies.offered`.
    """

    label: str
    patch: list[dict[str, Any]]
    last_resort: bool = False
    """tried only where nothing else mends it"""


class Later(Sequence[Remedy]):
    """Remedies that must be searched for: that is done once they are asked for, in the units shown when the finding was made."""

    def __init__(self, search: Callable[[], Iterable[Remedy]]) -> None:
        self._search, self._units = search, units_shown()

    @cached_property
    def _found(self) -> tuple[Remedy, ...]:
        with shown_in(self._units):
            return tuple(self._search())

    def __len__(self) -> int:
        return len(self._found)

    @overload
    def __getitem__(self, at: int) -> Remedy: ...
    @overload
    def __getitem__(self, at: slice) -> tuple[Remedy, ...]: ...
    def __getitem__(self, at: int | slice) -> Remedy | tuple[Remedy, ...]:
        return self._found[at]


PLACEHOLDER = re.compile(r"\{([^{}]+)\}")
"""A figure in a sentence, by its name."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding of the catalogue.

    id: stable name, `station.what`; its meaning never changes.
    station: where it is shown.
    place: JSON pointer of what it speaks of.
    sentence: says the figures; `{name}` stands for a figure of `figures`.
    why: why it matters.
    """

    id: str
    station: Station
    severity: Severity
    place: str
    sentence: str
    why: str
    figures: Mapping[str, Figure] = field(default_factory=dict)
    remedies: Sequence[Remedy] = ()

    @property
    def text(self) -> str:
        """The sentence with its figures written in. Other braces stay: a builder's own names stand in it too."""

        def figure(found: re.Match[str]) -> str:
            named = self.figures.get(found[1])
            return found[0] if named is None else write_quantity(named.value, named.unit)

        return PLACEHOLDER.sub(figure, self.sentence)


def set_value(pointer: str, value: Any) -> dict[str, Any]:
    """One patch operation that replaces a decision."""
    return {"op": "replace", "path": pointer, "value": value}


def release(pointer: str) -> dict[str, Any]:
    """One patch operation that gives a pinned choice back to auto."""
    return set_value(pointer, None)


def write_finding(finding: Finding, tried: bool = False) -> dict[str, Any]:
    """The finding as plain JSON data. tried: whether its remedies were tried out; those that were not are left to be asked for."""
    searched = isinstance(finding.remedies, Later)  # those are not searched for until they are asked for
    remedies: list[dict[str, Any]] | None = None if searched or finding.remedies else []
    if tried:
        remedies = [{"label": r.label, "patch": r.patch} for r in finding.remedies]
    return {
        "id": finding.id,
        "station": finding.station,
        "severity": finding.severity.value,
        "place": finding.place,
        "text": finding.text,
        "sentence": finding.sentence,
        "why": finding.why,
        "figures": {name: write_figure(fig) for name, fig in finding.figures.items()},
        "remedies": remedies,
    }
