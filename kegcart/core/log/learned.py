"""What was measured of parts: found out at one build, it is offered for the next, with all else that the part was then."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.design import DesignError
from kegcart.core.document import FieldWords
from kegcart.core.log.life import Life, Lived, MeasuredEntry, of_kind, unit_measured
from kegcart.core.pack.document import BatteryPack, CellPack, Pack
from kegcart.core.power.kinds import KINDS
from kegcart.core.power.path.catalogue import own_now
from kegcart.core.reference import chemistries, cold_capacity, cold_resistance
from kegcart.core.units import calendar_day, write_quantity

NETWORK = "/power/network/"


@dataclass(frozen=True, slots=True)
class LearnedPart:
    """A part as it was measured: its kind, what it is called, its figures as a design writes them, and where they are from. chemistry: of a
    cell or battery."""

    kind: str
    label: str
    figures: Mapping[str, Any]
    source: str
    chemistry: str = ""


def measurable(kind: str) -> dict[str, FieldWords]:
    """The figures of a kind of part that a meter finds out, by their fields."""
    facts = KINDS[kind].facts
    return {f.field: f for f in facts.fields if f.control == "quantity" and f.field in facts.own and unit_measured(f.field)}


def words_of(kind: str, field: str) -> str:
    """What a measured figure is called; its field where the kind of part knows it no more."""
    known = measurable(kind).get(field) if kind in KINDS else None
    return known.label.lower() if known else field


def as_it_stands(entry: MeasuredEntry, a: Assessment, before: Mapping[str, Any] | None) -> MeasuredEntry:
    """An entry with what its part is, its figures as they stand and the measured one among them. before: the entry in whose place it comes:
    of the same part its figures are kept, as that may have been replaced since.

    Errors: DesignError, where there is no such part, or this is not measured of it.
    """
    if before is not None and before["place"] == entry.place and before["part"]:
        kind, called, figures = before["part"], before["called"], dict(before["figures"])
        if before["field"] != entry.field:
            figures.pop(before["field"], None)
    else:
        key = entry.place.removeprefix(NETWORK)
        part = a.power.parts.get(key)
        if part is None:
            raise DesignError([("/place", "choose a part of the power path")])
        kind = part.node.part
        called = ", ".join([part.node.name, *([part.rating.text] if part.rating else []), part.source.v_nom.text])
        figures = own_now(part, a.figures)
    if entry.field not in measurable(kind):
        known = ", ".join(f.label.lower() for f in measurable(kind).values()) or "nothing"
        raise DesignError([("/field", f"'{entry.field}' is not measured of {called}; what is: {known}")])
    return entry.model_copy(update={"part": kind, "called": called, "figures": figures | {entry.field: entry.value}})


def learned_parts(builds: Iterable[tuple[str, Life]], kind: str) -> list[LearnedPart]:
    """The parts of a kind that were measured in builds (each with its name), the last measured first; of one part every figure together."""
    found: dict[tuple[int, str, str], tuple[str, dict[str, Any], list[tuple[str, float]], str]] = {}
    for n, (name, life) in enumerate(builds):
        for entry in of_kind(life, "measured"):
            data = entry.data
            if data["part"] != kind:
                continue
            at = (n, data["place"], data["called"])
            _, figures, measured, _ = found.pop(at, ("", {}, [], ""))
            kept = [pair for pair in measured if pair[0] != data["field"]]
            figures = {**data["figures"], **dict(kept), data["field"]: data["value"]}
            found[at] = (
                data["called"],
                figures,
                [*kept, (data["field"], data["value"])],
                f"measured in {name}, {calendar_day(entry.on)}",
            )
    out = []
    for called, figures, measured, source in reversed(found.values()):
        said = ", ".join(f"{words_of(kind, field)} {write_quantity(value, unit_measured(field))}" for field, value in measured)
        own = {name: value for name, value in figures.items() if name in KINDS[kind].facts.own}
        out.append(LearnedPart(kind, f"{called}: {said}", own, source))
    return out


def tested_pack(name: str, pack: Pack, life: Life) -> LearnedPart | None:
    """The battery, or the cell, of a build as its first tests found it, brought to 25 °C; None where nothing was tested, or where several
    batteries were tested together.

    Source: C₂₅ = Q / k_T and R₂₅ = R / k_RT (cold table); cells in parallel share the charge alike.
    """
    capacity, resistance = (next(iter(of_kind(life, kind)), None) for kind in ("capacity", "resistance"))
    chemistry = chemistries()[pack.chemistry].label
    found: dict[str, float] = {}
    figures, kind, what = dict[str, Any](), "", ""
    if isinstance(pack, CellPack):
        beside = pack.parallel or next((len(group.cells) for group in pack.groups.values()), None)
        if capacity is None or beside is None:
            return None
        found["capacity_ah"] = at_25_c(capacity, "capacity_ah", cold_capacity) / beside
        figures, kind, what = pack.cell.model_dump(mode="json"), "cell", f"{chemistry} cell, {pack.cell.capacity_ah:g} Ah"
    elif isinstance(pack, BatteryPack):
        if capacity is not None:
            found["capacity_ah"] = at_25_c(capacity, "capacity_ah", cold_capacity)
        if resistance is not None:
            found["resistance_mohm"] = at_25_c(resistance, "resistance_mohm", cold_resistance)
        figures, kind = pack.battery.model_dump(mode="json"), "battery"
        what = f"{chemistry} battery, {pack.battery.capacity_ah:g} Ah"
    if not found:
        return None
    units = {"capacity_ah": "Ah", "resistance_mohm": "mΩ"}
    said = ", ".join(write_quantity(value, units[field]) for field, value in found.items())
    first = next(test for test in (capacity, resistance) if test is not None)
    source = f"measured in {name}, {calendar_day(first.on)}"
    return LearnedPart(kind, f"{what}: {said}", figures | found, source, pack.chemistry)


def at_25_c(test: Lived, field: str, cold: Callable[[float], float]) -> float:
    """What a test found, at 25 °C, to four digits. cold: the share of it at a temperature."""
    return float(f"{test.data[field] / cold(test.data['cell_c']):.4g}")
