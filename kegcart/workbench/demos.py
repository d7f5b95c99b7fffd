"""The demo builds with what they lived through: made up, and moved in time so that it ends on the day they are loaded."""

import json
from dataclasses import replace
from datetime import date, datetime, timedelta
from typing import Any

from kegcart.core.building import build_of
from kegcart.core.log.file import STEP, RecordRow, read_row
from kegcart.core.log.judging import judge_log
from kegcart.workbench import record, services
from kegcart.workbench.models import StoredDesign

RECORDS = services.DEMO_DIR / "records"


def load_builds(reset: bool = False) -> list[str]:
    """Put the demo builds on the shelf that are not on it, with their records; with `reset`, renew all. Returns those that were made."""
    made = services.load_demos(reset)
    for name in made:
        live(StoredDesign.objects.filter(demo=name).latest("created_at").pk, name)
    return made


def live(design_id: str, name: str) -> None:
    """Record of a demo build what it lived through."""
    told = json.loads((RECORDS / f"{name}.json").read_text(encoding="utf-8"))
    later = record.today() - date.fromisoformat(told["day"])
    rows = [moved(row, later, number) for number, row in enumerate(told["record"])]
    with services.assessed_design(design_id) as a:
        standing = judge_log(build_of(a), a.box, {}, {}, record.today()).standing
    # They rest on the figures as these are now.
    ticked = [replace(r, data=r.data | {"digest": standing[r.about].digest}) if r.kind == STEP else r for r in rows]
    record.take_rows(design_id, ticked)


def moved(row: dict[str, Any], later: timedelta, number: int) -> RecordRow:
    """A row of a demo's record, so much later. Errors: DesignError, KeyError."""
    data = dict(row["data"])
    if "on" in data:
        data["on"] = (date.fromisoformat(data["on"]) + later).isoformat()
    at = datetime.fromisoformat(row["at"]) + later
    return read_row({**row, "at": at.isoformat(), "data": data}, f"/record/{number}", record.today())
