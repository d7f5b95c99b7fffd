"""Generic parts of the power path to replace one with, and parts of the builder's own, as the design writes them."""

from collections.abc import Iterator
from typing import Any

from pydantic import TypeAdapter, ValidationError

from kegcart.core.power.kinds import KINDS, Node, kind_of
from kegcart.core.power.kinds.base import PartType
from kegcart.core.power.path.parts import PartSizing


def generic_parts(part: PartSizing) -> Iterator[PartType]:
    """Generic parts that one can be replaced with, of its kind, for the voltages of its source."""
    yield from kind_of(part.node).catalogue(part.source)


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
