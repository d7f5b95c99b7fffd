"""Pieces that several symbols share (IEC 60617)."""

from kegcart.core.drawing import Box, Circle, Line, Primitive


def ground(box: Box) -> Box:
    """The sheet laid bare along the line, where a symbol interrupts it."""
    if box.w > box.h:
        return Box(box.x, box.y + box.h / 2 - 6, box.w, 12, "ground")
    return Box(box.x + box.w / 2 - 6, box.y, 12, box.h, "ground")


def contacts(*points: tuple[float, float]) -> list[Primitive]:
    """Open circles at the ends of a contact."""
    return [Circle(x, y, 3.2) for x, y in points]


def bar(box: Box) -> list[Primitive]:
    """A bar of copper with its studs."""
    studs: list[Primitive] = [Circle(box.x + 20 + 54 * n, box.y + box.h / 2, 2.8, "stud", 0.7) for n in range(int(box.w // 54))]
    return [Box(box.x, box.y, box.w, box.h, "copper", 1, 2), *studs]


def device(box: Box, direct: bool) -> list[Primitive]:
    """A converter: a box with what goes in and what comes out at its upper left, direct current or alternating."""
    x, y = box.x + 7, box.y + 11
    out: list[Primitive] = [Box(box.x, box.y, box.w, box.h, "box" if direct else "mains-box", 1.5, 4)]
    out.append(Line(((x, y), (x + 11, y)), "ink", 1.3))
    out.append(Line(((x, y + 3.5), (x + 11, y + 3.5)), "ink", 1.3))
    out.append(Line(((x, y + 9), (x + 11, y + 9)), "faint", 0.8))
    if direct:
        out.append(Line(((x, y + 14.5), (x + 11, y + 14.5)), "ink", 1.3))
        out.append(Line(((x, y + 18), (x + 11, y + 18)), "ink", 1.3))
    else:
        wave = tuple((x + 1.1 * n, y + 16 + (0, -2.4, -3.2, -2.4, 0, 2.4, 3.2, 2.4, 0, -1.6, 0)[n]) for n in range(9))
        out.append(Line(wave, "mains", 1.3))
    return out
