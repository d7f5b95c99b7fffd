"""The one way in to the life of a build: its design and what was recorded -> visits, wear, and what is judged of them."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.check import Check, write_check
from kegcart.core.figure import Figure, write_figure
from kegcart.core.finding import SEVERITY_ORDER, write_finding
from kegcart.core.log.learned import words_of
from kegcart.core.log.life import FORMS, Life, Lived, of_kind, unit_measured
from kegcart.core.log.rules.life import judge_lived
from kegcart.core.log.visits import Visit, in_service, owed, visits_of
from kegcart.core.log.wear import Tested, Wear, wear_of
from kegcart.core.places import about
from kegcart.core.reference.visits import visit_types
from kegcart.core.units import shown_in, write_quantity


@dataclass(frozen=True, slots=True, eq=False)
class LifeJudged:
    """The life of a build on a day. since: from when it is in service; None before."""

    since: date | None
    life: Life
    visits: list[Visit]
    wear: Wear | None
    checks: list[Check]


def judge_life(a: Assessment, life: Life, built_on: date | None, today: date) -> LifeJudged:
    """What a build has lived through, judged on a day. built_on: the day of its last step; None where some are to do.

    Never raises on entries that were read.
    """
    with shown_in(a.design.brief.units):
        since = in_service(life, built_on)
        visits = visits_of(owed(a), life, since, today)
        wear = wear_of(a, life, since, today) if since else None
        return LifeJudged(since, life, visits, wear, list(judge_lived(life, visits, wear, today)))


def write_life(judged: LifeJudged, a: Assessment) -> dict[str, Any]:
    """What was judged as plain JSON data."""
    with shown_in(a.design.brief.units):
        findings = sorted((c.finding for c in judged.checks if c.finding), key=lambda f: SEVERITY_ORDER[f.severity])
        return {
            "begun": ["log"] if judged.life or judged.since else [],
            "figures": {path: write_figure(figure, top=True) for path, figure in figures_of(judged).items()},
            "since": judged.since.isoformat() if judged.since else "",
            "visits": [write_visit(visit) for visit in judged.visits],
            "wear": write_wear(judged.wear) if judged.wear else None,
            "faults": open_faults(judged.life),
            "photos": [
                {"item": e.item, "on": e.on.isoformat(), **photo_of(e)} for e in of_kind(judged.life, "photo") if e.data["step"]
            ],
            "findings": [write_finding(finding, tried=True) for finding in findings],
            "checks": [write_check(check, check_about(check, judged, a)) for check in judged.checks],
        }


def check_about(check: Check, judged: LifeJudged, a: Assessment) -> str:
    """What a check is about, in words."""
    _, _, room, *rest = check.place.split("/")
    if room == "visits" and rest:
        return next(v.of.label for v in judged.visits if v.of.key == rest[0]).capitalize()
    if room == "entries":
        entry = next(e for e in judged.life if e.item == rest[0])
        return (
            about(entry.data.get("place") or "/log", a.design) if entry.kind == "fault" else FORMS[entry.kind].title.capitalize()
        )
    return "Log"


def figures_of(judged: LifeJudged) -> dict[str, Figure]:
    """The figures of a build's life by their paths: what the rail and the station show at a glance."""
    uses, recharges = of_kind(judged.life, "use"), of_kind(judged.life, "recharge")
    out = {
        "log/entries": Figure.of("n", len(judged.life), "", "entries", how="counted"),
        "log/uses": Figure.of("n", len(uses), "", "uses", how="entries of use, counted"),
        "log/out": energy("E_out", uses, "taken out"),
        "log/in": energy("E_in", recharges, "put in"),
    }
    if judged.wear:
        out |= {"log/cycles": judged.wear.cycles, "log/left": judged.wear.left, "log/new": judged.wear.new}
        if judged.wear.capacities:
            last = judged.wear.capacities[-1]
            out |= {"log/capacity": last.figure, "log/share": last.share}
    return out


def energy(symbol: str, entries: Life, label: str) -> Figure:
    """The sum of the energy of some entries, Wh."""
    how = f"the sum of {len(entries)} entries"
    return Figure.of(symbol, sum(entry.data["energy_wh"] for entry in entries), "Wh", label, how=how)


def open_faults(life: Life) -> list[dict[str, str]]:
    """The faults that nobody mended, as they can be named by a mend."""
    mended = {entry.data["fault"] for entry in of_kind(life, "mend")}
    return [
        {"item": f.item, "on": f.on.isoformat(), "what": f.data["what"], "place": f.data["place"]}
        for f in of_kind(life, "fault")
        if f.item not in mended
    ]


def photo_of(entry: Lived) -> dict[str, Any]:
    """What is shown of a photo."""
    return {name: entry.data[name] for name in ("digest", "width", "height", "what", "step")}


def write_visit(visit: Visit) -> dict[str, Any]:
    """A visit as plain JSON data."""
    return {
        "key": visit.of.key,
        "label": visit.of.label,
        "text": visit.of.text,
        "why": visit.of.why,
        "every_days": visit.of.every_days,
        "last": visit.last.isoformat() if visit.last else "",
        "due": visit.due.isoformat(),
        "state": visit.state,
    }


def write_wear(wear: Wear) -> dict[str, Any]:
    """How a pack has worn, as plain JSON data."""
    return {
        "since": wear.since.isoformat(),
        "calendar": write_figure(wear.calendar, top=True),
        "cycling": write_figure(wear.cycling, top=True),
        "doubt": write_figure(wear.doubt, top=True),
        "course": [{"on": on.isoformat(), "share": round(share, 5)} for on, share in wear.course],
        "capacities": [write_tested(test) for test in wear.capacities],
        "resistances": [write_tested(test) for test in wear.resistances],
        "spent_on": wear.spent_on.isoformat() if wear.spent_on else "",
        "by_trend": wear.by_trend.isoformat() if wear.by_trend else "",
    }


def write_tested(test: Tested) -> dict[str, Any]:
    """A test as plain JSON data."""
    figures = {"figure": write_figure(test.figure, top=True), "share": write_figure(test.share, top=True)}
    return {"item": test.item, "on": test.on.isoformat(), **figures}


def line_of(entry: Lived, a: Assessment) -> tuple[str, str]:
    """An entry on the time line: what it is about in a few words, and what it says."""
    data = entry.data
    place = about(data["place"], a.design) if data.get("place") else ""
    match entry.kind:
        case "use" | "recharge":
            taken = "taken out" if entry.kind == "use" else "put in"
            return FORMS[entry.kind].title, f"{Figure.of('E', data['energy_wh'], 'Wh').text} {taken}"
        case "capacity":
            at = Figure.of("T", data["cell_c"], "°C").text
            return "capacity test", f"{Figure.of('Q', data['capacity_ah'], 'Ah').text}, cells at {at}"
        case "resistance":
            at = Figure.of("T", data["cell_c"], "°C").text
            return "resistance", f"{Figure.of('R', data['resistance_mohm'] / 1000, 'Ω').text} at the posts, cells at {at}"
        case "swap":
            return place or "replaced", f"{data['was']} replaced by {data['now']}"
        case "measured":
            said = write_quantity(data["value"], unit_measured(data["field"]))
            return place or data["called"], f"{words_of(data['part'], data['field'])} {said}, measured"
        case "visit":
            return "visit", visit_types()[data["visit"]].label
        case _:
            return place or FORMS[entry.kind].title, data["what"]
