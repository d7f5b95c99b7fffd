"""Figures that the builder may decide: their own, else the typical one, else what a rule picks."""

from collections.abc import Mapping

from kegcart.core.figure import DECISION, Figure
from kegcart.core.reference import Row, assumption


def assumed(symbol: str, own: float | None, key: str, unit: str, label: str, pointer: str) -> Figure:
    """The builder's own figure, or the assumption of that key."""
    if own is not None:
        return Figure.decided(symbol, own, unit, label, pointer)
    leaf = assumption(key)
    return Figure(symbol, leaf.value, unit, label, basis=leaf.basis, pointer=pointer)


def typical(symbol: str, own: float | None, of_row: float, unit: str, label: str, pointer: str, row: Row) -> Figure:
    """The builder's own figure, or the typical one of a table row."""
    if own is not None:
        return Figure.decided(symbol, own, unit, label, pointer)
    return Figure(symbol, of_row, unit, label, basis=row.basis, pointer=pointer)


def sized(
    symbol: str,
    own: float | str | None,
    auto: float | str,
    unit: str,
    label: str,
    pointer: str,
    how: str,
    inputs: Mapping[str, Figure],
    options: str = "",
    key: str = "",
) -> Figure:
    """A sized choice: pinned as decided, or auto by the rule in `how`.

    options: names the list to pin from. key: what the design writes for it, where the value is only its label.
    """
    if own is not None:
        return Figure(symbol, own, unit, label, basis=DECISION, pointer=pointer, choice="pinned", options=options, key=key)
    return Figure(symbol, auto, unit, label, how=how, inputs=inputs, pointer=pointer, choice="auto", options=options, key=key)
