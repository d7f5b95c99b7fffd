"""Figures that carry their working: a value, its unit, and how it came about.

A figure is made where it is computed. Its inputs are figures too, so any number can be
followed down to the builder's decisions and the tables of `kegcart.core.reference`.
A figure that a formula gives is made by `Figure.by`, which computes its value from the formula that is shown:
the working cannot differ from what was computed. `Figure.of` is for what no formula says: picks, searches, rows of tables.
Making one costs next to nothing: no string is built until the figure is written out.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from kegcart.core.formula import fitting
from kegcart.core.units import as_builder_has_it, shown_in, write_quantity

BasisKind = Literal["computed", "decision", "standard", "typical", "maker", "measured"]
Choice = Literal["auto", "pinned"]


@dataclass(frozen=True, slots=True)
class Basis:
    """What a figure rests on: a decision of the builder, a table row, or other figures."""

    kind: BasisKind
    source: str = ""


COMPUTED = Basis("computed")
DECISION = Basis("decision", "decided in this design")


@dataclass(slots=True, eq=False)
class Figure:
    """One figure of the design, with its working.

    symbol: the trade's symbol, as it stands in formulas ("I_run").
    value: a number in `unit`, or the text of a choice ("4 AWG", unit "").
    formula: an expression over the symbols of `inputs`, or one of "sum", "max", "min"
        over all of them; empty for decisions, table rows and picks.
    how: the rule in words, where a formula cannot say it ("next standard size up").
    inputs: what went in, by symbol.
    pointer: JSON pointer of the decision behind it, if it is one.
    choice: "auto" or "pinned" where it is a sized choice; `options` names the list to pick from, `key` is what the design
        writes for it where that is not the value.
    path: its place in the assessment, set when it is put on the sheet.
    """

    symbol: str
    value: float | str
    unit: str
    label: str = ""
    formula: str = ""
    how: str = ""
    inputs: Mapping[str, "Figure"] | None = None
    basis: Basis = COMPUTED
    pointer: str = ""
    choice: Choice | None = None
    options: str = ""
    key: str = ""
    path: str = ""

    @classmethod
    def of(
        cls,
        symbol: str,
        value: float | str,
        unit: str,
        label: str = "",
        *,
        how: str = "",
        inputs: Mapping[str, "Figure"] | None = None,
        basis: Basis = COMPUTED,
    ) -> "Figure":
        """Make a figure that was picked, searched or counted; `how` says by which rule."""
        return cls(symbol, value, unit, label, "", how, inputs, basis)

    @classmethod
    def by(
        cls,
        symbol: str,
        formula: str,
        unit: str,
        label: str = "",
        inputs: Mapping[str, "Figure"] | None = None,
        /,
        *,
        how: str = "",
        **named: "Figure",
    ) -> "Figure":
        """Make the figure that a formula gives: `Figure.by("E_nom", "C · V_nom", "Wh", C=capacity, V_nom=nominal)`.

        formula: an expression over the symbols of the inputs (see `kegcart.core.formula`), or one of "sum", "max", "min"
            over all of them. The value is computed from it.
        inputs, named: what goes in, by symbol; a mapping where a symbol is no name, or is made up.
        Errors: FormulaError where the formula cannot be read, or names what is not among the inputs, or leaves one out;
            ZeroDivisionError where it divides by nothing.
        """
        given = {**inputs, **named} if inputs else named
        return cls(symbol, fitting(formula, given.keys())(given), unit, label, formula, how, given)

    @classmethod
    def decided(cls, symbol: str, value: float | str, unit: str, label: str, pointer: str) -> "Figure":
        """Make a figure of a decision that stands in the design at `pointer`."""
        return cls(symbol, value, unit, label, "", "", None, DECISION, pointer)

    @property
    def number(self) -> float:
        """The value as a number. Errors: TypeError where the figure is a text choice."""
        value = self.value
        if value.__class__ is str:  # asked for thousands of times an answer
            raise TypeError(f"{self.symbol} is the choice {value!r}, not a number")
        return value  # type: ignore[return-value]

    @property
    def text(self) -> str:
        """The value with its unit, as a sentence says it."""
        return write_quantity(self.value, self.unit)

    @property
    def worked_in(self) -> str:
        """The value as formulas take it, in metric units, where the builder's are others; empty where they are the same."""
        if isinstance(self.value, str) or as_builder_has_it(self.value, self.unit)[1] == self.unit:
            return ""
        with shown_in("metric"):
            return self.text

    def walk(self) -> Iterator["Figure"]:
        """This figure and all it rests on, each once."""
        seen: set[int] = set()
        waiting = [self]
        while waiting:
            figure = waiting.pop()
            if id(figure) not in seen:
                seen.add(id(figure))
                yield figure
                waiting.extend((figure.inputs or {}).values())


class Sheet(dict[str, Figure]):
    """The figures of an assessment by path, such as `power/inverter/run/drop`."""

    def put(self, path: str, figure: Figure) -> Figure:
        """Enter a figure under its path and return it."""
        figure.path = path
        self[path] = figure
        return figure


def write_figure(figure: Figure, top: bool = False) -> dict[str, object]:
    """The figure as plain JSON data; inputs that stand on the sheet are named by path only."""
    if figure.path and not top:
        return {"path": figure.path}
    out: dict[str, object] = {"symbol": figure.symbol, "value": figure.value, "unit": figure.unit, "text": figure.text}
    # Written out one by one: this runs for every figure of every answer.
    if worked_in := figure.worked_in:
        out["worked_in"] = worked_in
    if figure.label:
        out["label"] = figure.label
    if figure.formula:
        out["formula"] = figure.formula
    if figure.how:
        out["how"] = figure.how
    if figure.pointer:
        out["pointer"] = figure.pointer
    if figure.choice:
        out["choice"] = figure.choice
        out["options"] = figure.options
        if figure.key:
            out["key"] = figure.key
    out["basis"] = figure.basis.kind
    if figure.basis.source:
        out["source"] = figure.basis.source
    if figure.inputs:
        out["inputs"] = {symbol: write_figure(part) for symbol, part in figure.inputs.items()}
    return out
