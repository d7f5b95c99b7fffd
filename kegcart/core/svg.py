"""Writing SVG: elements with their attributes, text escaped, and the styles that a drawing carries when it stands alone."""

from collections.abc import Iterable
from typing import Any
from xml.sax.saxutils import escape, quoteattr

#: Colours of the drawings by role, as on paper.
PAPER_STYLE = """
text{font-family:'Barlow Condensed','DejaVu Sans Condensed',sans-serif;fill:#1f2a2e}
.faint{fill:#6b7470}.ink{fill:none;stroke:#1f2a2e}.sheet{fill:#fffdf8}
""".strip()


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


def text(x: float, y: float, words: object, size: float, **attributes: Any) -> str:
    """A line of text."""
    return element("text", escape(str(words)), x=x, y=y, font_size=size, **attributes)


def path(points: Iterable[tuple[float, float]], **attributes: Any) -> str:
    """A line along points."""
    d = "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points)
    return element("path", d=d, fill="none", **attributes)


def document(width: float, height: float, body: str, style: str, title: str, unit: str = "", scale: float = 1.0) -> str:
    """A whole file. unit: `mm` where one unit of the drawing is one millimetre on paper at scale 1."""
    inner = element("title", escape(title)) + element("style", escape(style)) + body
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + element(
        "svg",
        inner,
        xmlns="http://www.w3.org/2000/svg",
        width=f"{number(width * scale)}{unit}",
        height=f"{number(height * scale)}{unit}",
        viewBox=f"0 0 {number(width)} {number(height)}",
        role="img",
    )
