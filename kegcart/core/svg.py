"""Writing a drawing as an SVG file that opens on its own, in the colours of paper."""

from typing import Any
from xml.sax.saxutils import escape, quoteattr

from kegcart.core.drawing import DASHED, PAPER, Box, Circle, Drawing, Line, Primitive, Role, Text

FONT = "'Barlow Condensed','Arial Narrow','DejaVu Sans Condensed','DejaVu Sans',sans-serif"


def element(name: str, inside: str = "", **attributes: Any) -> str:
    """One element; `_` in an attribute's name stands for a hyphen, a trailing one is dropped."""
    written = "".join(
        f" {key.rstrip('_').replace('_', '-')}={quoteattr(number(value) if isinstance(value, float) else str(value))}"
        for key, value in attributes.items()
        if value is not None
    )
    return f"<{name}{written}>{inside}</{name}>" if inside else f"<{name}{written}/>"


def number(value: float) -> str:
    """A coordinate without a needless tail."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def painted(role: Role, width: float) -> dict[str, Any]:
    """Fill, stroke and dashes of a role on paper."""
    fill, stroke = PAPER[role]
    dashes = DASHED.get(role)
    return {
        "fill": fill,
        "stroke": stroke,
        "stroke_width": float(width) if stroke != "none" else None,
        "stroke_dasharray": " ".join(number(d) for d in dashes) if dashes else None,
    }


def write_item(item: Primitive) -> str:
    """One item as an element."""
    match item:
        case Line(points, role, width):
            d = "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points)
            return element("path", d=d, stroke_linejoin="round", **(painted(role, width) | {"fill": "none"}))
        case Box(x, y, w, h, role, width, radius):
            return element("rect", x=x, y=y, width=w, height=h, rx=radius or None, **painted(role, width))
        case Circle(x, y, r, role, width):
            return element("circle", cx=x, cy=y, r=r, **painted(role, width))
        case Text(x, y, words, size, role, anchor, bold):
            return element(
                "text",
                escape(words),
                x=x,
                y=y,
                font_size=float(size),
                fill=PAPER[role][1],
                text_anchor=None if anchor == "start" else anchor,
                font_weight=600 if bold else None,
            )


def write_svg(drawing: Drawing, title: str, style: str = "") -> str:
    """A whole file; a drawing in millimetres is as large on paper as it says. style: CSS to stand in it, such as the font itself."""
    unit = "mm" if drawing.unit == "mm" else ""
    body = element("title", escape(title)) + (element("style", escape(style)) if style else "")
    body += "".join(write_item(item) for item in drawing.items)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + element(
        "svg",
        element("g", body, font_family=FONT, font_stretch="condensed"),
        xmlns="http://www.w3.org/2000/svg",
        width=f"{number(drawing.width)}{unit}",
        height=f"{number(drawing.height)}{unit}",
        viewBox=f"0 0 {number(drawing.width)} {number(drawing.height)}",
        role="img",
    )
