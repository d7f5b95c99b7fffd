"""A layout proposed: everything stood in this box, or in the smallest of the list that holds it, and what stands in the way where
nothing fits."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import prod
from typing import Any

from kegcart.core.box.arranging.search import COVERS, Told, arrange
from kegcart.core.box.contents import Thing
from kegcart.core.box.document import Case, Inside, OnFace, Place
from kegcart.core.box.layout import BoxLayout, hollow_of, lay_out
from kegcart.core.box.moves import FILLED, fittings_in, inside_of, usual_hold, written
from kegcart.core.box.rules.order import judge_order
from kegcart.core.box.runs import Link, links_of, run_lengths
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.space import turned_size
from kegcart.core.brief.document import Brief
from kegcart.core.check import Verdict
from kegcart.core.finding import set_value
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference.boxes import CaseType, case_types
from kegcart.core.units import write_quantity


@dataclass(frozen=True, slots=True)
class Task:
    """What is to be laid out: the layout as it stands, masses in kg by key, that of all cables, the runs between things, whether it
    rolls, and whether it is used where it is wet."""

    layout: BoxLayout
    masses: Mapping[str, float]
    wiring: float
    links: list[Link]
    rolling: bool
    wet: bool = False

    @classmethod
    def of(cls, box: BoxSizing, power: PowerSizing, brief: Brief) -> "Task":
        """That of a design."""
        masses = {key: mass.number for key, mass in box.masses.items()}
        links = links_of(power, {thing.key: thing for thing in box.layout.things})
        return cls(
            box.layout, masses, box.weight.wiring.number, list(links), brief.carriage == "rolling", brief.exposure == "wet"
        )

    @property
    def carried(self) -> list[Thing]:
        """What goes into the box: all but the chargers that stay outside."""
        return [thing for thing in self.layout.things if thing not in self.layout.outside]


@dataclass(frozen=True, slots=True)
class Proposal:
    """What was found: the patch that takes it, None where nothing fits; in which box, where that is another; how long all runs in it are
    together, m, and were before, None where that was not known; why nothing fits."""

    patch: list[dict[str, Any]] | None
    case: str = ""
    cables_m: float = 0.0
    before_m: float | None = None
    reasons: list[str] = field(default_factory=list)


def propose(task: Task, smallest: bool, told: Told = lambda done: True) -> Proposal:
    """A layout of everything in this box, or in the smallest box of the list. What is pinned stays in this one, as do its shelves and all
    that is cut into its faces; another box comes without shelves, and with the same vents and fans.

    told: see `Told`. Errors: ImportError where the solver is not installed.
    """
    if not smallest:
        reasons = list(in_the_way(task, task.layout.case))
        places = None if reasons else stood(task, task.layout.case, stays_of(task), told)
        if places is None:
            return Proposal(None, reasons=reasons or [NOT_FOUND if told(1.0) else STOPPED])
        return Proposal([written("places", places)], "", *cables_of(task, task.layout.case, places))
    able = sorted(case_types().values(), key=lambda row: prod(inside_of(row)))
    able = [row for row in able if not any(in_the_way(task, Case.model_validate(row.document)))]
    for n, row in enumerate(able):
        case = Case.model_validate(row.document)
        places = stood(task, case, {}, lambda done, n=n: told((n + done) / len(able)))  # type: ignore[misc]
        if places is not None:
            return Proposal([*case_patch(row, case, task), written("places", places)], row.label, *cables_of(task, case, places))
        if not told((n + 1) / len(able)):
            return Proposal(None, reasons=[STOPPED])
    largest = max(case_types().values(), key=lambda row: prod(inside_of(row)))
    reasons = list(in_the_way(task, Case.model_validate(largest.document))) or [NOT_FOUND]
    return Proposal(None, reasons=[f"The largest of the list, {largest.label}: {reasons[0]}", *reasons[1:]])


def cables_of(task: Task, case: Case, places: Mapping[str, Place]) -> tuple[float, float | None]:
    """How long all runs are together, m, in a box with things in some places, and as they stand as yet."""
    box = task.layout.box.model_copy(
        update={"case": case, "places": dict(places)} | ({} if case is task.layout.case else {"fixtures": {}})
    )
    now, before = (run_lengths(task.links, layout) for layout in (lay_out(box, case, task.layout.things), task.layout))
    known = len(before) == len(now)
    return sum(f.number for f in now.values()), sum(f.number for f in before.values()) if known else None


NOT_FOUND = (
    "There is room for each part, but no arrangement of all was found: a larger box, a shelf, "
    "or the pack in another number of rows may do."
)
STOPPED = "Stopped before anything was found."


def stays_of(task: Task) -> dict[str, Place]:
    """What is pinned, and stays where it is."""
    return {key: place for key, place in task.layout.box.places.items() if place.pinned}


def stood(task: Task, case: Case, stays: Mapping[str, Place], told: Told) -> dict[str, Place] | None:
    """Places for everything in a box; None where there are none."""
    box = task.layout.box.model_copy(update={"case": case, "places": dict(stays)})
    if case is not task.layout.case:
        box = box.model_copy(update={"fixtures": {}, "fittings": fittings_in(case, task.layout)})
    bare = lay_out(box, case, task.layout.things)
    bare.unplaced = [thing for thing in task.carried if thing.key not in stays]
    masses = {**task.masses, "": case.mass_kg + task.wiring}
    places: dict[str, Place] | None = None
    for covers in (COVERS, 0.0):
        found = arrange(bare, masses, task.links, task.rolling, told, covers, task.layout.box.places)
        if found is None:
            break
        places = {**stays, **{key: as_before(key, place, task) for key, place in found.items()}}
        if all_reached(lay_out(box.model_copy(update={"places": places}), case, task.layout.things)):
            break
    return places


def all_reached(layout: BoxLayout) -> bool:
    """Whether a hand comes at all that it must reach: by the rule itself, as small things may hide one together."""
    return all(check.verdict is not Verdict.FAILS for check in judge_order(layout) if check.id == "box.access")


def as_before(key: str, place: Inside | OnFace, task: Task) -> Place:
    """A place with what is decided of it besides: how it is held, how it is sealed; what stands anew is held as it is usual for its mass."""
    before = task.layout.box.places.get(key)
    if isinstance(place, OnFace):
        sealing = before.sealing if isinstance(before, OnFace) else "splash" if task.wet else None
        return place.model_copy(update={"sealing": sealing})
    if isinstance(before, Inside) and before.held:
        return place.model_copy(update={"held": before.held})
    thing = next(thing for thing in task.layout.things if thing.key == key)
    return place.model_copy(update={"held": usual_hold(thing, task.masses.get(key, 0.0))})


def case_patch(row: CaseType, case: Case, task: Task) -> list[dict[str, Any]]:
    """The operations that take another box, without shelves."""
    bare = [set_value(f"/box/{name}", {}) for name in ("places", "fixtures")]
    return [*bare, set_value("/box/case", row.document), written("fittings", fittings_in(case, task.layout))]


def in_the_way(task: Task, case: Case) -> Iterator[str]:
    """Why nothing can be laid out in a box whatever is tried: a part that fits no way, one too high, all of it too large, too heavy."""
    hollow = hollow_of(case)
    inside = (hollow.length, hollow.width, hollow.height)
    size = " × ".join(write_quantity(mm, "mm") for mm in inside)
    for thing in task.carried:
        if thing.faced:
            continue
        ups = thing.type.ups or ("top", "front", "left") if thing.type else ("top",)
        ways = [turned_size(thing.size, up, turn) for up in ups for turn in (0, 90)]
        own = " × ".join(write_quantity(mm, "mm") for mm in thing.size)
        if not any(a <= hollow.length and b <= hollow.width for a, b, _ in ways):
            yield f"{thing.name} measures {own}; inside are {size}."
        elif not any(c <= hollow.height for a, b, c in ways if a <= hollow.length and b <= hollow.width):
            yield f"{thing.name} is {write_quantity(min(c for *_, c in ways), 'mm')} high; the lid shuts at {write_quantity(hollow.height, 'mm')}."
        elif thing.type is None and thing.size[2] + thing.post_room > hollow.height:
            top = write_quantity(thing.size[2] + thing.post_room, "mm")
            yield f"{thing.name} reaches {top} with its lugs; the lid shuts at {write_quantity(hollow.height, 'mm')}."
    whole = sum(thing.bulk for thing in task.carried if not thing.faced)
    if whole > FILLED * prod(inside):
        yield (
            f"All parts together fill {whole / 1e6:.1f} of {prod(inside) / 1e6:.1f} litres; "
            f"no more than {FILLED * 100:.0f} % can be filled, for cables and air."
        )
    weighs = sum(task.masses.get(thing.key, 0.0) for thing in task.carried) + task.wiring
    if case.rated_kg is not None and weighs > case.rated_kg:
        yield f"All of it weighs {write_quantity(weighs, 'kg')}; the box is rated for {write_quantity(case.rated_kg, 'kg')}."
