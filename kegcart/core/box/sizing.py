"""Figures of the box: how everything stands in it, what it weighs."""

from dataclasses import dataclass

from kegcart.core.box.contents import contents
from kegcart.core.box.document import Enclosure
from kegcart.core.box.layout import BoxLayout, laid_out
from kegcart.core.box.weight import Weight, weigh
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing


@dataclass(frozen=True, slots=True)
class BoxSizing:
    """The box with all in it."""

    layout: BoxLayout
    masses: dict[str, Figure]
    weight: Weight


def size_box(box: Enclosure, pack: PackSizing, power: PowerSizing, charging: ChargingSizing, sheet: Sheet) -> BoxSizing | None:
    """Figures of the box; None where none is chosen yet."""
    if box.case is None:
        return None
    inside = contents(box, pack, power, charging)
    layout = laid_out(box, box.case, inside.things)
    for name, mm in (("length", layout.hollow.length), ("width", layout.hollow.width), ("height", layout.hollow.height)):
        sheet.put(f"box/{name}", size_inside(name, mm, layout))
    return BoxSizing(layout, inside.masses, weigh(layout, inside.masses, power, sheet))


def size_inside(name: str, mm: float, layout: BoxLayout) -> Figure:
    """A size of the box inside, mm: as it was measured, or its outside less the walls."""
    case, symbol = layout.case, name[0].upper()
    at, label = f"/box/case/{name}_mm", f"{name} inside"
    if case.measured == "inside":
        return Figure.decided(symbol, mm, "mm", label, at)
    outside = Figure.decided(f"{symbol}_out", getattr(case, f"{name}_mm"), "mm", f"{name} outside", at)
    wall = Figure.decided("t", case.wall_mm, "mm", "its walls", "/box/case/wall_mm")
    return Figure.by(symbol, f"max(1, {symbol}_out − 2 · t)", "mm", label, {f"{symbol}_out": outside, "t": wall})
