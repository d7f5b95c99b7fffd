"""Visits: what is to be looked at again and again over the life of a build. Typical, by what there is."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from kegcart.core.reference import Row, read_table, row_basis


@dataclass(frozen=True, slots=True, eq=False)
class VisitType(Row):
    """A visit: days from the start of service to the first and from each to the next, what must be there for it, whether any use or
    recharge counts as one, what is done, and why so often."""

    first_days: int
    every_days: int
    needs: str
    by_use: bool
    text: str
    why: str


@cache
def visit_types() -> Mapping[str, VisitType]:
    """The visits by their keys, in the order of the table."""
    out = {}
    for r in read_table("visits"):
        days = (int(r["first_days"]), int(r["every_days"]))
        out[r["key"]] = VisitType(
            r["key"], r["label"], row_basis(r), *days, r["needs"], r["by_use"] == "yes", r["text"], r["source"]
        )
    return out
