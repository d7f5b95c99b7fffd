"""Formulas as they are written on the screen, compiled to what computes them.

The working that a builder reads is the very text that is computed: `(E + √(E^2 − 4 · R · P)) / 2`.
Written are the symbols of the inputs, numbers, `+ − · / ^`, brackets, `√(...)`, and `max(...)`, `min(...)` of several;
or one of the words `sum`, `max`, `min` alone, over all inputs.
"""

import re
from collections.abc import Callable, Mapping, Set
from functools import lru_cache
from math import sqrt
from typing import Any

Computation = Callable[[Mapping[str, Any]], float]
"""The value of a formula from what its symbols stand for, each with its `value`."""

WORDS: dict[str, Computation] = {
    "sum": lambda of: sum([given.value for given in of.values()]),
    "max": lambda of: max([given.value for given in of.values()], default=0.0),
    "min": lambda of: min([given.value for given in of.values()], default=0.0),
}
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?)|(?P<call>max|min|√)(?=\s*\()|(?P<symbol>[^\W\d][\w′']*)|(?P<mark>[-+−·/^(),]))"
)
_MARKS = {"−": "-", "·": "*", "^": "**"}
_CALLS = {"√": "sqrt", "max": "max", "min": "min"}


class FormulaError(ValueError):
    """A formula that cannot be read, or does not fit its inputs."""


@lru_cache(maxsize=4096)
def compiled(formula: str) -> tuple[Computation, frozenset[str] | None]:
    """What computes a formula, and the symbols it names; None where it takes all that are given.

    Errors: FormulaError where the text cannot be read.
    """
    if formula in WORDS:
        return WORDS[formula], None
    out: list[str] = []
    used: set[str] = set()
    at = 0
    text = formula.rstrip()
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise FormulaError(f"'{formula}' cannot be read from '{text[at : at + 12]}' on")
        at = match.end()
        if symbol := match["symbol"]:
            used.add(symbol)
            out.append(f"of[{symbol!r}].value")
        elif call := match["call"]:
            out.append(_CALLS[call])
        else:
            out.append(match["number"] or _MARKS.get(match["mark"], match["mark"]))
    names = {"sqrt": sqrt, "max": max, "min": min, "__builtins__": {}}
    try:  # nothing but symbols, numbers and marks from the lists above comes this far
        computation: Computation = eval(f"lambda of: {''.join(out)}", names)
    except SyntaxError as error:
        raise FormulaError(f"'{formula}' cannot be read: {error.msg}") from None
    return computation, frozenset(used)


def fitting(formula: str, symbols: Set[str]) -> Computation:
    """What computes a formula over these symbols.

    Errors: FormulaError where the text cannot be read, names a symbol that is not given, or leaves a given one out.
    """
    computation, used = compiled(formula)
    if used is not None and used != symbols:
        if missing := used.difference(symbols):
            raise FormulaError(f"'{formula}' names {', '.join(sorted(missing))}, not among its inputs ({', '.join(symbols)})")
        raise FormulaError(f"'{formula}' leaves out {', '.join(sorted(symbols - used))}")
    return computation
