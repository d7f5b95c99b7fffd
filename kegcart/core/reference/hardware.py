"""What a build is put together with: terminals, torques, screws, wire as it is sold, and how long each act takes. Typical, by class."""

from dataclasses import dataclass
from functools import cache
from typing import Literal, cast

from kegcart.core.reference import Row, numbers, read_table, row_basis
from kegcart.core.units import Units

TerminalKind = Literal["lug", "ferrule", "push-on", "contact", "solder"]


@dataclass(frozen=True, slots=True, eq=False)
class TerminalType(Row):
    """A class of terminal for wires up to so many mm²: length of its barrel (mm), what crimps it, how many come in a packet (0: none is
    bought, it comes with its connector), price of one."""

    kind: TerminalKind
    upto_mm2: float
    barrel_mm: float
    die: str
    packet: int
    price: float


@cache
def terminal_types() -> dict[TerminalKind, tuple[TerminalType, ...]]:
    """Classes of terminals by kind, the thinnest first."""
    out: dict[TerminalKind, list[TerminalType]] = {}
    for r in read_table("terminals"):
        kind = cast(TerminalKind, r["kind"])
        sizes = (float(r["upto_mm2"]), float(r["barrel_mm"]), r["die"], int(r["packet"]), float(r["price"]))
        out.setdefault(kind, []).append(TerminalType(r["key"], r["label"], row_basis(r), kind, *sizes))
    return {kind: tuple(rows) for kind, rows in out.items()}


@cache
def terminal_type(kind: TerminalKind, area_mm2: float) -> TerminalType:
    """The terminal of a kind for a wire of so many mm²; the largest there is above that."""
    rows = terminal_types()[kind]
    return next((row for row in rows if area_mm2 <= row.upto_mm2), rows[-1])


@dataclass(frozen=True, slots=True, eq=False)
class Torque(Row):
    """What a stud or screw is tightened to, N·m, and the spanner for its nut, mm."""

    least_nm: float
    most_nm: float
    spanner_mm: float


@cache
def torques() -> dict[str, Torque]:
    """Torques by thread, the smallest first."""
    return {
        r["key"]: Torque(r["key"], r["label"], row_basis(r), float(r["least_nm"]), float(r["most_nm"]), float(r["spanner_mm"]))
        for r in read_table("torques")
    }


@dataclass(frozen=True, slots=True, eq=False)
class PanelScrew(Row):
    """A screw for holes up to so many mm, and how much longer than the wall it is, mm."""

    upto_mm: float
    over_mm: float


@cache
def panel_screws() -> tuple[PanelScrew, ...]:
    """Screws through a wall, the smallest first."""
    return tuple(
        PanelScrew(r["key"], r["label"], row_basis(r), float(r["upto_mm"]), float(r["length_over_mm"]))
        for r in read_table("panel_screws")
    )


def panel_screw(hole_mm: float) -> PanelScrew:
    """The screw that goes through a hole."""
    rows = panel_screws()
    return next((row for row in rows if hole_mm <= row.upto_mm), rows[-1])


@dataclass(frozen=True, slots=True, eq=False)
class WireSold(Row):
    """A way in which wire is sold: its lengths in m; of one alone any whole number of it is cut."""

    lengths_m: tuple[float, ...]


def wire_sold(in_rolls: bool, units: Units) -> WireSold:
    """How wire is sold where these units are usual."""
    found = next(r for r in read_table("wire_rolls") if r["units"] == units and r["key"].startswith("roll") == in_rolls)
    return WireSold(found["key"], found["label"], row_basis(found), numbers(found["lengths_m"]))


@dataclass(frozen=True, slots=True, eq=False)
class LabelSheet(Row):
    """A sheet of labels as sold, in mm from its upper left corner; or a plain one whose labels are outlined, to be cut."""

    paper: Literal["a4", "letter"]
    outlined: bool
    columns: int
    rows: int
    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    pitch_x_mm: float
    pitch_y_mm: float


@cache
def label_sheets() -> dict[str, LabelSheet]:
    """Sheets of labels by key."""
    sizes = ("width_mm", "height_mm", "left_mm", "top_mm", "pitch_x_mm", "pitch_y_mm")
    return {
        r["key"]: LabelSheet(
            r["key"],
            r["label"],
            row_basis(r),
            cast(Literal["a4", "letter"], r["paper"]),
            r["outlined"] == "yes",
            int(r["columns"]),
            int(r["rows"]),
            *(float(r[size]) for size in sizes),
        )
        for r in read_table("label_sheets")
    }


@dataclass(frozen=True, slots=True, eq=False)
class ActType(Row):
    """A kind of act at the bench, and how long it takes a hand, min."""

    minutes: float


@cache
def act_types() -> dict[str, ActType]:
    """Kinds of acts by key."""
    return {r["key"]: ActType(r["key"], r["label"], row_basis(r), float(r["minutes"])) for r in read_table("acts")}
