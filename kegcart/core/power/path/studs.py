"""Studs and lugs: which stud a part's lugs go on."""

from kegcart.core.figure import Figure
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.parts import PartSizing

#: Stud of a part by the current it is sized for: up to so many A. Practice, typical.
STUDS = ((30.0, "M5"), (80.0, "M6"), (250.0, "M8"), (float("inf"), "M10"))


def stud_of(part: PartSizing) -> str | None:
    """The stud a part's lugs go on; None where it has clamps or a socket's own contacts."""
    if not kind_of(part.node).has_studs(part.node, part):
        return None
    return next(stud for limit, stud in STUDS if part.design.number <= limit)


def stud_figure(part: PartSizing) -> Figure | None:
    """The stud with its rule; None where there is none."""
    stud = stud_of(part)
    if stud is None:
        return None
    how = "by the current it is sized for: M5 to 30 A, M6 to 80 A, M8 to 250 A, M10 above"
    return Figure.of("stud", stud, "", "stud, and hole of the lugs", how=how, inputs={"I_d": part.design})
