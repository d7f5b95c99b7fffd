"""What was measured of a station, put into its design: the patch that does it, and what it changes."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from kegcart.core.assess import Assessment, assess
from kegcart.core.bench.runtime import LONGEST_H, run_hours
from kegcart.core.bench.station import station_of, tested_charger
from kegcart.core.design import patched, write_design
from kegcart.core.figure import Figure, write_figure
from kegcart.core.finding import Finding, set_value, write_finding
from kegcart.core.forecast import forecast
from kegcart.core.lane import BENCH_DAY, lane_as_sized, telling_of
from kegcart.core.measured import LABELS, OF_INVERTER, TELLS, UNITS, CannotPutInError, MeasuredFigure, MeasuredKey, possible
from kegcart.core.whatif import pins_of

OF_PACK: tuple[MeasuredKey, ...] = ("resistance", "late_share", "late_s", "capacity", "pack_surface", "pack_heat")
CHARGER = "charger"
HALF = 0.5
"""Of the continuous rating: the load of the run-down, by which run time is told."""
WATCHED = (
    "pack/capacity",
    "pack/usable",
    "pack/resistance",
    "power/main_resistance",
    "power/standing",
    "power/available",
    "power/drawn_away",
    "power/energy_share",
    "power/shelf_off",
)
"""Figures that are told where they change, by their paths."""


@dataclass(frozen=True, slots=True)
class Found:
    """A figure that was found: its key, its value in the unit of that, its standard uncertainty where it is known, and what was measured of it
    alone, which goes into the log."""

    key: str
    value: float
    doubt: float | None = None
    measured: float | None = None


def patch_of(now: Assessment, then: Assessment, figures: Sequence[Found], source: str) -> list[dict[str, Any]]:
    """The operations that put figures into a design as measured. then: the design of which they were measured.

    What was measured is built: automatic choices that it depends on are pinned at what they are.
    Errors: CannotPutInError.
    """
    telling = telling_of(then, lane_as_sized(then, *BENCH_DAY, bare=True))
    own = then.power.ctx.tested_inverter
    out: list[dict[str, Any]] = []
    for found in figures:
        if found.key == CHARGER:
            out.append(efficiency_of(now, found))
            continue
        if found.key not in UNITS:
            raise CannotPutInError(found.key, f"'{found.key[:40]}' is no figure of a station")
        key: MeasuredKey = found.key  # type: ignore[assignment]
        tells = telling.get(TELLS.get(key, key))
        if key not in telling or tells is None or tells <= 0:
            raise CannotPutInError(key, f"this station has no {LABELS[key]}")
        try:
            possible(key, found.value)
        except ValueError as error:
            raise CannotPutInError(key, str(error)) from None
        part = own.key if own is not None and key in OF_INVERTER else ""
        entry = MeasuredFigure(value=found.value, doubt=found.doubt, stands_with=tells, part=part, source=source)
        out.append({"op": "add", "path": f"/bench/measured/{key}", "value": entry.model_dump(mode="json")})
    return [*pinned(now, [found.key for found in figures]), *out]


def efficiency_of(now: Assessment, found: Found) -> dict[str, Any]:
    """The operation that says how efficient the charger is. Errors: CannotPutInError."""
    charger = tested_charger(now)
    if charger is None:
        raise CannotPutInError(found.key, "several chargers, or none, charge the pack: say it at the one that was used")
    if not 0 < found.value <= 1:
        raise CannotPutInError(found.key, f"an efficiency is more than 0 and at most 1 (not {found.value:g})")
    return set_value(f"/charging/sources/{charger.key}/efficiency", float(f"{found.value:.4g}"))


def pinned(now: Assessment, keys: Sequence[str]) -> Iterator[dict[str, Any]]:
    """The operations that pin what these figures were measured of, where it was left to choice."""
    ctx = now.power.ctx
    places: list[str] = []
    if any(key in OF_PACK for key in keys):
        places.append("/pack/")
    if "path" in keys:
        places += [*(f"/power/network/{key}/" for key in ctx.tested_way), "/power/shunt/"]
    if any(key in OF_INVERTER for key in keys) and ctx.tested_inverter is not None:
        places.append(f"/power/network/{ctx.tested_inverter.key}/rating_w")
    for pointer, value in pins_of(now):
        if pointer.startswith(tuple(places)):
            yield set_value(pointer, value)


def changes_of(before: Assessment, after: Assessment) -> dict[str, Any]:
    """What putting figures in changes, as plain JSON data: run time, figures, findings that came and went."""
    was, now = findings_of(before), findings_of(after)
    watts = HALF * station_of(before).load_w
    times = [run_time(a, watts) for a in (before, after)]
    return {
        "run_time": [write_figure(figure, top=True) for figure in times if figure is not None],
        "figures": [
            {"label": new.label, "before": write_figure(old, top=True), "after": write_figure(new, top=True)}
            for path in WATCHED
            if (old := before.figures.get(path)) and (new := after.figures.get(path)) and old.text != new.text
        ],
        "came": [write_finding(finding) for key, finding in now.items() if key not in was],
        "gone": [write_finding(finding) for key, finding in was.items() if key not in now],
    }


def findings_of(assessment: Assessment) -> dict[tuple[str, str], Finding]:
    """Everything that is found of a design, simulated too, by id and place."""
    return {(f.id, f.place): f for f in (*assessment.findings, *forecast(assessment, tries=False).findings)}


def run_time(assessment: Assessment, watts: float) -> Figure | None:
    """How long a station runs so many W from full, h; None where it runs longer than is looked at."""
    hours = run_hours(station_of(assessment), {}, watts)
    if hours >= LONGEST_H:
        return None
    load = Figure.of("P", watts, "W", "half the continuous rating, before")
    how = "simulated at 20 °C from full to the first cut-off"
    return Figure.of("t", hours, "h", f"run time at {load.text}", how=how, inputs={"P": load})


def entries_of(now: Assessment, figures: Sequence[Found], on: date, source: str) -> list[dict[str, Any]]:
    """What of these goes into the log, as it is entered there: by that, parts are offered to the next build as they were measured."""
    out: list[dict[str, Any]] = []
    inverter = now.power.ctx.tested_inverter
    for found in figures:
        value = float(f"{found.measured if found.measured is not None else found.value:.4g}")
        match found.key:
            case "capacity":
                out.append({"kind": "capacity", "capacity_ah": value, "cell_c": 25.0})
            case "resistance":
                out.append({"kind": "resistance", "resistance_mohm": float(f"{1000 * value:.4g}"), "cell_c": 25.0})
            case "idle" if inverter is not None:
                place = f"/power/network/{inverter.key}"
                out.append({"kind": "measured", "place": place, "field": "idle_w", "value": value})
    return [{**entry, "on": on.isoformat(), "remark": source} for entry in out]


def put_in(now: Assessment, then: Assessment, figures: Sequence[Found], source: str, on: date) -> dict[str, Any]:
    """Figures put into a design, as plain JSON data: the patch, what goes into the log, and what changes. Errors: CannotPutInError."""
    patch = patch_of(now, then, figures, source)
    after = assess(patched(write_design(now.design), patch), now.elsewhere)
    return {"patch": patch, "entries": entries_of(now, figures, on, source), **changes_of(now, after)}
