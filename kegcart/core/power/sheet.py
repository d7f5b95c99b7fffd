"""The single-line diagram as a sheet to keep: drawing, wire table, title block, as SVG."""

from kegcart.core import svg
from kegcart.core.power.diagram import Box, Diagram
from kegcart.core.power.parts import PowerSizing
from kegcart.core.power.wire_table import rows
from kegcart.core.units import significant, write_quantity

STYLE = (
    svg.PAPER_STYLE
    + """
.plus{stroke:#a8332a}.minus{stroke:#1f2a2e}.mains{stroke:#3f5d7d}.round{stroke:#b7791f;stroke-dasharray:7 4}
.bar{fill:#b06a32;stroke:#7c481f}.box{fill:#fffdf8;stroke:#1f2a2e;stroke-width:1.4}.rule{stroke:#d9d2c3;stroke-width:.7}
""".strip()
)
MARGIN = 24.0
ROW = 15.0
COLUMNS = (
    ("run to", 0.0),
    ("from", 150.0),
    ("gauge", 300.0),
    ("length", 372.0),
    ("current", 432.0),
    ("ampacity", 500.0),
    ("drop", 572.0),
    ("fuse", 630.0),
    ("terminals", 690.0),
)
LEAST_WIDTH = 840.0
#: Mean width of a letter over its size, of the condensed type.
LETTER = 0.4


def fit(text: str, width: float, size: float) -> str:
    """Text cut to a width, with an ellipsis."""
    most = max(1, int(width / (size * LETTER)))
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


def symbol(box: Box, power: PowerSizing) -> str:
    """A part in the standard symbols of electrical drawing."""
    x, y, w, h = box.x, box.y, box.w, box.h
    middle = x + w / 2
    if box.part in ("busbar", "negative", "posts"):
        return svg.element("rect", x=x, y=y, width=w, height=h, rx=2, class_="bar")
    if box.part == "protection":
        fuse = svg.element("rect", x=middle - 6, y=y + 4, width=12, height=h - 8, class_="box")
        return fuse + svg.path([(middle, y), (middle, y + h)], class_="plus", stroke_width=1.6)
    if box.part in ("switch", "selector", "plug"):
        if w > h:
            ends = ((x + 3, y + h / 2 + 2), (x + w - 3, y + h / 2 + 2))
            blade = [(x + 3, y + h / 2), (x + w - 7, y + 3)]
        else:
            ends = ((middle, y + 3), (middle, y + h - 3))
            blade = [(middle, y + h - 3), (middle + 10, y + 5)]
        dots = "".join(svg.element("circle", cx=cx, cy=cy, r=3.2, class_="box") for cx, cy in ends)
        back = svg.element("rect", x=x, y=y, width=w, height=h, fill="#fffdf8")
        return back + svg.path(blade, class_="ink", stroke_width=2) + dots
    if box.part in ("outlet", "input"):
        ring = svg.element("circle", cx=middle, cy=y + 12, r=9, class_="box")
        inner = (
            [(middle - 4, y + 14), (middle, y + 8), (middle + 4, y + 14)]
            if box.part == "input"
            else [(middle, y + 7), (middle, y + 16)]
        )
        return ring + svg.path(inner, class_="ink", stroke_width=1.4)
    name = "Pack" if box.key == "pack" else "shunt" if box.key == "shunt" else named(box.key, power)
    inside = svg.text(
        x + (w / 2 if box.part in ("pack", "shunt") else 10),
        y + 16,
        fit(name, w - 12, 12),
        12,
        font_weight=600,
        text_anchor="middle" if box.part in ("pack", "shunt") else "start",
    )
    part, inverter = power.parts.get(box.key), power.inverters.get(box.key)
    rating = inverter.rating if inverter else part.rating if part else None
    if part and rating and h > 30:
        facts = f"{write_quantity(rating.value, rating.unit)}, {write_quantity(part.current.value, 'A')} running"
        inside += svg.text(x + 10, y + 31, facts, 11)
    if box.folded:
        inside += svg.text(x + w - 8, y + 16, f"{box.folded} behind", 10, text_anchor="end", class_="faint")
    if box.key in power.sources and box.part == "pack":
        inside += svg.text(x + w / 2, y + 34, write_quantity(power.sources[box.key].v_nom.value, "V"), 11, text_anchor="middle")
    return svg.element("rect", x=x, y=y, width=w, height=h, rx=4, class_="box") + inside


def named(key: str, power: PowerSizing) -> str:
    if key in power.parts:
        return power.parts[key].node.name
    return power.sources[key].name if key in power.sources else key


def words(box: Box, power: PowerSizing) -> str:
    """The label of a part, or of the cable to it."""
    part = power.parts.get(box.key)
    if box.what == "run" and part and part.run:
        first = f"{part.run.wire.key} · {significant(part.node.run.length_m)} m"
        loading = part.current.number / part.run.ampacity.number if part.run.ampacity.number else 9.99
        second = f"{write_quantity(part.current.value, 'A')}, {write_quantity(loading, 'share')}"
        return svg.text(box.x, box.y + 11, fit(first, box.w, 11), 11) + svg.text(box.x, box.y + 24, second, 10, class_="faint")
    if box.key == "shunt":
        rating = f"{power.shunt.number:g} A" if power.shunt else ""
        return svg.text(box.x + box.w / 2, box.y + 12, rating, 11, text_anchor="middle")
    if part is None:
        return ""
    lines = [fit(part.node.name, box.w, 11)]
    if part.rating is not None and part.node.part != "outlet":
        lines.insert(0, write_quantity(part.rating.value, part.rating.unit))
    if part.node.part == "outlet":
        lines.append(write_quantity(part.current.value, part.current.unit))
    elif part.family is not None:
        lines[1:] = [fit(str(part.family.value), box.w, 11)]
    if box.h < 24:  # one line, above a bar
        size = f"  {part.choice.value} mm" if part.node.part == "busbar" and part.choice else ""
        return svg.text(box.x, box.y + 12, part.node.name + size, 11, font_weight=600)
    return "".join(
        svg.text(box.x, box.y + 10 + 12 * i, line, 11, font_weight=600 if i == 0 else 400) for i, line in enumerate(lines[:3])
    )


def write_sheet(diagram: Diagram, power: PowerSizing, title: str, purpose: str) -> str:
    """The whole sheet as an SVG file that opens on its own.

    title: the build's name. purpose: a line under it. Errors: none.
    """
    body: list[str] = []
    classes = {"+": "plus", "-": "minus", "~": "mains"}
    for line in diagram.lines:
        body.append(
            svg.path(line.points, class_="round" if line.bypass else classes[line.pole], stroke_width=3 if line.bypass else 2)
        )
    for box in diagram.boxes:
        body.append(symbol(box, power) if box.what == "symbol" else words(box, power))
    width = max(diagram.width, LEAST_WIDTH)
    y = diagram.height + 28
    table = rows(power)
    body.append(svg.text(0, y - 8, "Wires", 14, font_weight=600))
    for name, x in COLUMNS:
        body.append(svg.text(x, y + 10, name, 11, class_="faint"))
    body.append(svg.path([(0, y + 15), (width, y + 15)], class_="ink", stroke_width=1))
    ends = [x for _, x in COLUMNS[1:]] + [width]
    for n, row in enumerate(table):
        at = y + 28 + n * ROW
        many = f"{row.parallel} × " if row.parallel > 1 else ""
        figures = (
            row.to,
            row.start,
            many + row.gauge,
            f"{significant(row.length_m)} m",
            f"{significant(row.current_a)} A",
            f"{significant(row.ampacity_a)} A",
            f"{significant(row.drop * 100)} %",
            row.fuse,
            f"{row.start_terminal}, {row.end_terminal}",
        )
        for (_, x), end, figure in zip(COLUMNS, ends, figures, strict=True):
            body.append(svg.text(x, at, fit(figure, end - x - 6, 11), 11))
        body.append(svg.path([(0, at + 4), (width, at + 4)], class_="rule"))
    low = y + 28 + len(table) * ROW + 14
    body.append(svg.element("rect", x=0, y=low, width=width, height=54, class_="box"))
    body.append(svg.text(12, low + 22, fit(title, width * 0.6, 18), 18, font_weight=600))
    body.append(svg.text(12, low + 42, fit(purpose, width * 0.72, 11), 11, class_="faint"))
    source = power.sources["pack"]
    facts = f"{write_quantity(source.v_nom.value, 'V')}, fault {write_quantity(source.fault.value, 'A')}, {write_quantity(power.current.value, 'A')} running"
    body.append(svg.text(width - 12, low + 22, facts, 12, text_anchor="end"))
    caution = "A planning aid: local codes and licensed practice come first."
    body.append(svg.text(width - 12, low + 42, caution, 10, text_anchor="end", class_="faint"))
    frame = svg.element("rect", x=0.0, y=0.0, width=width + 2 * MARGIN, height=low + 54 + 2 * MARGIN, class_="sheet")
    moved = svg.element("g", "".join(body), transform=f"translate({svg.number(MARGIN)} {svg.number(MARGIN)})")
    return svg.document(width + 2 * MARGIN, low + 54 + 2 * MARGIN, frame + moved, STYLE, title)
