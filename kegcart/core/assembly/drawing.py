"""Drawings of a step: the wire that it makes with both of its ends, or the part that it fits among those that stand already."""

from collections.abc import Iterable

from kegcart.core.assembly.cutting import Piece, WireEnd
from kegcart.core.assembly.plan.acts import Act
from kegcart.core.assembly.plan.fitting import act_of
from kegcart.core.assembly.sizing import AssemblySizing, Step
from kegcart.core.box.document import FACES
from kegcart.core.box.drawing import label, seen, view_of, walls
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.template import draw_template
from kegcart.core.drawing import Anchor, Box, Circle, Drawing, Line, Role, Text
from kegcart.core.pack.drawing import draw_pack, shown_of
from kegcart.core.pack.sizing import PackSizing

WIDE, TALL = 300.0, 96.0
LUG, SLEEVE_LONG, STRIPPED = 26.0, 24.0, 12.0
WORDS = 12.0
PLAN_WIDE = 300.0
COLOURS: dict[str, Role] = {"red": "positive", "black": "negative"}


def draw_step(step: Step, sizing: AssemblySizing, pack: PackSizing, box: BoxSizing | None) -> Drawing | None:
    """The drawing of one step; None where there is nothing to show but words."""
    act = step.act
    if act.pieces and act.key.startswith(("wire:", "join:", "string:")):
        by_key = {piece.key: piece for piece in sizing.pieces}
        return draw_pieces([by_key[key] for key in act.pieces])
    if act.key.startswith(("pack:", "series:")):
        return draw_pack(pack, shown=shown_of(pack)[-1] if act.key == "pack:links" else "cells")
    if box is None:
        return None
    if act.stage == "dirty":
        face = next((face for face in FACES if f":{face}" in act.key), None)
        return draw_template(face, box.layout) if face is not None else None
    return draw_part(act, box.layout, in_before(step, sizing.steps))


def in_before(step: Step, steps: Iterable[Step]) -> set[str]:
    """The acts that fitted something before a step."""
    return {other.act.key for other in steps if other.number < step.number and other.act.key.startswith("fit:")}


def draw_pieces(pieces: list[Piece]) -> Drawing:
    """Wires under one another, each with its length, its ends and what is written on their labels."""
    drawing = Drawing(WIDE, TALL * len(pieces))
    for n, piece in enumerate(pieces):
        draw_piece(piece, n * TALL, drawing)
    return drawing


def draw_piece(piece: Piece, top: float, drawing: Drawing) -> None:
    """One wire: its terminals, sleeves and insulation, not to scale."""
    y = top + TALL / 2
    thick = min(14.0, 4.0 + piece.area_mm2 / 5)
    left, right = 6.0, WIDE - 6.0
    role = COLOURS.get(piece.colour, "mains" if piece.cores > 1 else "sense")
    drawing.add(Line(((left + LUG, y), (right - LUG, y)), role, thick))
    for end, x, way in ((piece.ends[0], left, 1), (piece.ends[1], right, -1)):
        draw_end(end, x, y, way, thick, drawing)
    count = f"{piece.count} × " if piece.count > 1 else ""
    said = f"{count}{piece.cut.text}, {piece.gauge} {piece.colour if piece.cores == 1 else 'cable'}"
    drawing.add(Text(WIDE / 2, y - thick / 2 - 10, said, WORDS, "ink", "middle", bold=True))


def draw_end(end: WireEnd, x: float, y: float, way: int, thick: float, drawing: Drawing) -> None:
    """An end at the left (`way` 1) or the right (−1): a lug with its hole, a ferrule, a push-on; under it its hole and its label."""

    def block(inner: float, long: float, high: float, role: Role) -> None:
        start = x + way * inner if way > 0 else x + way * (inner + long)
        drawing.add(Box(start, y - high / 2, long, high, role, 1.2, 2))

    barrel = thick + 3
    if end.bolted:
        block(0, LUG - 6, max(16.0, barrel + 3), "copper")
        drawing.add(Circle(x + way * (LUG - 6) / 2, y, 4.4, "hole", 1.2))
        block(LUG - 6, STRIPPED, barrel, "copper")
        block(LUG + STRIPPED - 10, SLEEVE_LONG, thick + 6, "mass-half" if end.terminal.die == "hex die" else "mains-box")
    else:
        block(4, STRIPPED + 6, max(6.0, thick - 2), "stud" if end.terminal.kind != "contact" else "copper")
        block(STRIPPED + 8, SLEEVE_LONG - 8, thick + 5, "mains-box")
    low = y + max(16.0, barrel + 3) / 2 + WORDS + 2
    anchor: Anchor = "start" if way > 0 else "end"
    drawing.add(Text(x, low, end.hole or end.terminal.label.split(",")[0], WORDS, "ink", anchor, bold=True))
    drawing.add(Text(x, low + WORDS + 2, end.label, WORDS, "faint", anchor))


def draw_part(act: Act, layout: BoxLayout, done: set[str]) -> Drawing | None:
    """The box from above: what stands in it by then, and what the act is about among it; of what sits in a face also where it sits."""
    hollow = layout.hollow
    mine = {f"/box/places/{thing.key}" for thing in layout.things if thing.pointer in act.places} | set(act.places)
    standing = {f"/box/places/{key}": s.solid for key, s in layout.standing.items()}
    standing |= {f"/box/fixtures/{key}": solid for key, solid in layout.fixtures.items()}
    fitted = {f.at: f.solid for f in layout.fitted}
    if not mine & (standing.keys() | fitted.keys()):
        return None
    scale = min(PLAN_WIDE / hollow.length, 240.0 / hollow.width)
    view = view_of("above", "from above, what is in by then", "xy", (hollow.length, hollow.width), scale)
    walls(view, layout)
    for at, solid in sorted({**standing, **fitted}.items(), key=lambda item: item[1].z0):
        if at in mine:
            continue
        if act_of(at) in done:
            role: Role = "board" if "/fixtures/" in at else "mass"
            view.drawing.add(view.rect(*seen(solid, "xy"), role, 0.9, title=layout.called(at)))
        else:
            view.drawing.add(view.rect(*seen(solid, "xy"), "behind", 0.7, title=layout.called(at)))
    for at in sorted(mine):
        if (picked := standing.get(at) or fitted.get(at)) is not None:
            view.drawing.add(view.rect(*seen(picked, "xy"), "zone", 2.2, title=layout.called(at)))
            label(view, layout.called(at), seen(picked, "xy"))
    return view.drawing
