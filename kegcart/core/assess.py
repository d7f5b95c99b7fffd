"""Design -> Assessment: the one way in. Walks the stations in working order."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Final

from kegcart.core.box.rules import judge_box
from kegcart.core.box.sizing import BoxSizing, size_box
from kegcart.core.brief.sizing import Site, size_brief
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.rules import judge_charging
from kegcart.core.charging.rules.year import judge_year
from kegcart.core.charging.sizing import ChargingSizing, size_charging
from kegcart.core.charging.year import Need, Year, size_year
from kegcart.core.check import Check, write_check
from kegcart.core.design import Design, begun, patched, write_design
from kegcart.core.figure import Sheet, write_figure
from kegcart.core.finding import SEVERITY_ORDER, Finding, Severity, write_finding
from kegcart.core.loads.rules import judge_loads
from kegcart.core.loads.sizing import LoadsSizing, size_loads
from kegcart.core.measured import put_measured
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.rules import judge_pack
from kegcart.core.pack.sizing import PackSizing, size_pack
from kegcart.core.places import about
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds.inverter import promised
from kegcart.core.power.path.banks import find_charged
from kegcart.core.power.path.edits import Addition, offers
from kegcart.core.power.path.network import where_it_joins
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.power.path.sizing import size_power
from kegcart.core.power.path.wired import Wired
from kegcart.core.power.rules import judge_power
from kegcart.core.power.rules.demand import sag
from kegcart.core.power.rules.supply import laid_out
from kegcart.core.units import shown_in

NOWHERE: Final[Mapping[str, str]] = MappingProxyType({})
MOST_ROUNDS = 4
HAIR_MORE = 1.001
A_LITTLE_MORE = 1.1


@dataclass(frozen=True, slots=True, eq=False)
class Assessment:
    """What follows from a design: figures by path, what was judged, findings worst first."""

    design: Design
    elsewhere: Mapping[str, str]
    site: Site
    loads: LoadsSizing
    pack: PackSizing
    charging: ChargingSizing
    years: dict[str, Year]
    power: PowerSizing
    box: BoxSizing | None
    figures: Sheet
    checks: list[Check]
    findings: list[Finding]

    @property
    def verdict(self) -> dict[str, int]:
        """How many findings of each severity."""
        return {severity.value: sum(f.severity is severity for f in self.findings) for severity in Severity}

    @property
    def offers(self) -> list[Addition]:
        """What can be added to the power path, ready made."""
        return [*laid_out(self.power), *offers(self.power.network, self.design.brief)]


def assess(design: Design, elsewhere: Mapping[str, str] = NOWHERE) -> Assessment:
    """Figures and findings of a design. Never raises on a valid document.

    elsewhere: its cells that another build holds, label -> name of that build.
    """
    with shown_in(design.brief.units):
        return judged(design, elsewhere)


def judged(design: Design, elsewhere: Mapping[str, str]) -> Assessment:
    """See `assess`; what is said on the way is said in the units shown at present."""
    sheet, site, loads, pack, charging, power = size_all(design)
    years = size_year(charging, needs(power), loads.day.days, sheet)
    box = size_box(design.box, pack, power, charging, sheet)
    put_measured(design.bench.measured, sheet)
    checks = [
        *judge_loads(loads, design.brief),
        *judge_pack(pack, loads, site, elsewhere),
        *judge_charging(charging, design.brief, site),
        *judge_year(charging, years),
        *judge_power(power, loads, pack, design.brief, site),
        *judge_box(design.box, box, design.brief, site, pack, power),
    ]
    findings = sorted((c.finding for c in checks if c.finding), key=lambda f: SEVERITY_ORDER[f.severity])
    return Assessment(design, elsewhere, site, loads, pack, charging, years, power, box, sheet, checks, findings)


def stops_after(assessment: Assessment, patch: list[dict[str, Any]]) -> list[Finding]:
    """The stops that a change brings, which were not there."""
    after = assess(patched(write_design(assessment.design), patch), assessment.elsewhere)
    had = {(f.id, f.place) for f in assessment.findings if f.severity is Severity.STOP}
    return [f for f in after.findings if f.severity is Severity.STOP and (f.id, f.place) not in had]


Sized = tuple[Sheet, Site, LoadsSizing, PackSizing, ChargingSizing, PowerSizing]


def size_all(design: Design) -> Sized:
    """Every figure of a design. A pack left to choice is chosen by an estimate; where that proves short once the path is known, it is
    chosen again by what was missing.
    """
    known = Sheet()
    site = size_brief(design.brief, known)
    loads = size_loads(design.loads, design.brief, site, known)
    wired = Wired.of(design.power, loads, design.brief, site)
    loads.inverters = promised(wired, loads)
    joins = {source: wired.network.source(key) for source, key in where_it_joins(design.power).items()}
    for _ in range(MOST_ROUNDS):
        sheet = Sheet(known)
        pack = size_pack(design.pack, loads, site, design.bench.measured, sheet)
        charging = size_charging(design.charging, find_charged(design.power, pack), joins, design.brief, site, sheet)
        power = size_power(design.power, wired, design.brief, site, loads, pack, charging, design.bench.measured, sheet)
        missing = energy_missing(power, pack, design, site) if pack.parallel.choice == "auto" else 1.0
        if missing <= 1.0:
            break
        loads.least_wh = pack.usable.number * missing * HAIR_MORE
    return sheet, site, loads, pack, charging, power


def needs(power: PowerSizing) -> dict[str, Need]:
    """What is asked of each bank that can be charged, by its id."""
    further = {key: Need(bank.day, bank.usable) for key, bank in power.banks.items()}
    return {PACK: Need(power.drawn_day, power.available), **further}


def energy_missing(power: PowerSizing, pack: PackSizing, design: Design, site: Site) -> float:
    """What is asked between charges, or on the shelf, over what the pack gives; a little more where a start pulls it too low; at most
    1 where nothing is missing.

    More batteries last no longer on the shelf: each has a board of its own.
    """
    kept = power.available.number * (1 - site.reserve.number)
    asked = power.drawn_away.number / kept if kept > 0 else 1.0
    days = power.shelf_days.number
    if isinstance(design.pack, CellPack) and days > 0:
        asked = max(asked, design.brief.shelf_days / days)
    sags = any(sag(inverter, power, pack, site).finding for inverter in power.pack_inverters().values())
    return max(asked, A_LITTLE_MORE) if sags else asked


def write_source(sizing: SourceSizing, assessment: Assessment) -> dict[str, Any]:
    """What the screen asks of a charging source besides its figures: the hours in which it gives, where it joins, what it charges."""
    joins = where_it_joins(assessment.design.power).get(sizing.key)
    return {
        "key": sizing.key,
        "kind": sizing.source.kind,
        "hours": [list(span) for span in sizing.hours],
        "joins": joins,
        "bank": sizing.charged.key,
    }


def write_assessment(assessment: Assessment) -> dict[str, Any]:
    """The assessment as plain JSON data; figures name one another by path."""
    return {
        "figures": {path: write_figure(figure, top=True) for path, figure in assessment.figures.items()},
        "findings": [write_finding(finding) for finding in assessment.findings],
        "checks": [write_check(check, about(check.place, assessment.design)) for check in assessment.checks],
        "verdict": assessment.verdict,
        "begun": begun(assessment.design),
        "charging": [write_source(sizing, assessment) for sizing in assessment.charging.sources.values()],
        "suits_12v": [key for key, source in assessment.power.sources.items() if source.suits_12v],
        "offers": [{"source": o.source, "label": o.label, "patch": o.patch} for o in assessment.offers],
    }
