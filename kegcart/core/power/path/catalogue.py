"""Generic parts of the power path to replace one with, and parts of the builder's own, as the design writes them."""

from collections.abc import Iterator, Mapping
from typing import Any

from pydantic import TypeAdapter, ValidationError

from kegcart.core.figure import Figure
from kegcart.core.power.kinds import KINDS, Node, kind_of
from kegcart.core.power.kinds.base import PartType
from kegcart.core.power.path.parts import PartSizing


def generic_parts(part: PartSizing) -> Iterator[PartType]:
    """Generic parts that one can be replaced with, of its kind, for the voltages of its source."""
    yield from kind_of(part.node).catalogue(part.source)


def own_now(part: PartSizing, figures: Mapping[str, Figure]) -> dict[str, Any]:
    """A part's own figures as they stand: what is decided, and what was sized of it. figures: of the whole design, by path."""
    kind = kind_of(part.node)
    sized = {choice.field: figures.get(f"power/{part.key}/{choice.figure}") for choice in kind.facts.choices}
    out = {}
    for name in kind.facts.own:
        value = getattr(part.node, name)
        if value is None and (figure := sized.get(name)) is not None:
            value = figure.key or figure.value
        if value is not None:
            out[name] = value
    return out


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
