"""Formulas as they are written on the screen, compiled to what computes them.

The working that a builder reads is the very text that is computed: `(E + √(E^2 − 4 · R · P)) / 2`.
Written are the symbols of the inputs, numbers, `+ − · / ^`, brackets, `√(...)`, and `max(...)`, `min(...)` of several;
or one of the words `sum`, `max`, `min` alone, over all inputs.
"""

import re
from collections.abc import Callable, Sequence
from functools import lru_cache
from math import sqrt
from typing import Any

Computation = Callable[[Sequence[Any]], float]

WORDS: dict[str, Computation] = {
    "sum": lambda values: sum(values),
    "max": lambda values: max(values, default=0.0),
    "min": lambda values: min(values, default=0.0),
}
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?)|(?P<call>max|min|√)(?=\s*\()|(?P<symbol>[^\W\d][\w′']*)|(?P<mark>[-+−·/^(),]))"
)
_MARKS = {"−": "-", "·": "*", "^": "**"}
_CALLS = {"√": "sqrt", "max": "max", "min": "min"}


class FormulaError(ValueError):
    """A formula that cannot be read, or does not fit its inputs."""


@lru_cache(maxsize=4096)
def compiled(formula: str, symbols: tuple[str, ...]) -> Computation:
    """What computes a formula from the values of its inputs, in the order of their symbols.

    Errors: FormulaError where the text cannot be read, names a symbol that is not given, or leaves a given one out.
    """
    if formula in WORDS:
        return WORDS[formula]
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
            if symbol not in symbols:
                raise FormulaError(f"'{formula}' names {symbol}, which is not among its inputs ({', '.join(symbols)})")
            used.add(symbol)
            out.append(f"v[{symbols.index(symbol)}]")
        elif call := match["call"]:
            out.append(_CALLS[call])
        else:
            out.append(match["number"] or _MARKS.get(match["mark"], match["mark"]))
    if unused := set(symbols) - used:
        raise FormulaError(f"'{formula}' leaves out {', '.join(sorted(unused))}")
    names = {"sqrt": sqrt, "max": max, "min": min, "__builtins__": {}}
    try:  # nothing but symbols, numbers and marks from the lists above comes this far
        computation: Computation = eval(f"lambda v: {''.join(out)}", names)
    except SyntaxError as error:
        raise FormulaError(f"'{formula}' cannot be read: {error.msg}") from None
    return computation
