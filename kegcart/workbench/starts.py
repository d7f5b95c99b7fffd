"""Kinds of station that a build can start from: typical loads and a pack, with the power path laid out by the rules as they stand."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from kegcart.core.assess import assess
from kegcart.core.design import patched, read_design, write_design
from kegcart.core.remedies import offered

FOLDER = Path(__file__).parent / "starts"
MOST_ROUNDS = 4


@dataclass(frozen=True, slots=True)
class Start:
    """A kind of station: `key` of its file, what it is called, and what it comes with."""

    key: str
    label: str
    says: str


STARTS = (
    Start("packers-box", "Packer's box", "a finished battery, 12 V and USB sockets"),
    Start("ac-box", "AC box", "modules and an inverter, on wheels"),
    Start("vehicle", "Vehicle", "a house bank, and the starting battery for the winch"),
    Start("reclaimed-pack", "Reclaimed pack", "sorted cells in holders, an inverter"),
)


def start_from(key: str) -> dict[str, Any]:
    """The document of a kind of station, with a power path for its loads. Errors: KeyError where there is no such kind."""
    if key not in {start.key for start in STARTS}:
        raise KeyError(key)
    document = write_design(read_design(json.loads((FOLDER / f"{key}.json").read_text(encoding="utf-8"))))
    for _ in range(MOST_ROUNDS):
        assessment = assess(read_design(document))
        waiting = next((f for f in assessment.findings if f.id == "loads.no-outlet"), None)
        remedies = offered(assessment, waiting) if waiting else []
        if not remedies:
            break
        document = write_design(patched(document, remedies[0].patch))
    return document
