"""Generic parts of the power path to replace one with, and parts of the builder's own, as the design writes them."""

from collections.abc import Iterator
from typing import Any

from pydantic import TypeAdapter, ValidationError

from kegcart.core.power.kinds import KINDS, Node
from kegcart.core.power.kinds.base import PartType


def generic_parts(kind: str, class_v: float) -> Iterator[PartType]:
    """Generic parts of a kind; inverters of the battery-voltage class given, V."""
    if kind in KINDS:
        yield from KINDS[kind].catalogue(class_v)


def own_figures(kind: str, figures: dict[str, Any]) -> dict[str, Any]:
    """A part's own figures, checked as the design would check them. Errors: ValueError with a sentence."""
    if kind not in KINDS or not KINDS[kind].facts.own:
        raise ValueError(f"'{kind[:20]}' is no part that can be kept")
    fields = KINDS[kind].facts.own
    kept = {name: value for name, value in figures.items() if name in fields}
    unknown = set(figures) - set(kept)
    if unknown:
        raise ValueError(f"'{sorted(unknown)[0][:40]}' is no figure of such a part (known: {', '.join(fields)})")
    needed = {"part": kind, "name": "part", "feed": "pack"} | ({"other": "pack"} if kind == "selector" else {})
    try:
        node = TypeAdapter(Node).validate_python({**needed, **kept})
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise ValueError(f"{first['loc'][-1]}: {first['msg']}") from None
    return {name: getattr(node, name) for name in fields if name in kept}
