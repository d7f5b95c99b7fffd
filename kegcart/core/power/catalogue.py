"""Generic parts of the power path to replace one with: ratings, typical prices, figures as the design writes them."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from kegcart.core.power.document import Node
from kegcart.core.reference import busbars, families, inverter_classes, prices, sizes

#: What of a part is its own, and goes with it from build to build.
OWN_FIELDS: dict[str, tuple[str, ...]] = {
    "inverter": ("rating_w", "surge_w", "idle_w", "waveform"),
    "converter": ("rating_a", "idle_w", "window_min_v", "window_max_v"),
    "switch": ("rating_a", "dc_rated", "relay", "coil_w"),
    "protection": ("rating_a", "family", "polarised"),
    "busbar": ("section", "studs"),
    "fuse_block": ("rating_a",),
    "outlet": ("connector",),
    "plug": ("connector",),
}


@dataclass(frozen=True, slots=True)
class PartType:
    """A part that can be had: what it is called, the fields it sets, a typical price where there is one."""

    kind: str
    label: str
    figures: dict[str, Any]
    price: float | None
    source: str


def generic_parts(kind: str, class_v: float) -> Iterator[PartType]:
    """Generic parts of a kind; inverters of the battery-voltage class given."""
    price = prices().get(kind)

    def of(label: str, figures: dict[str, Any], rating: float, source: str) -> PartType:
        return PartType(kind, label, figures, price.of(rating) if price else None, source)

    if kind == "inverter":
        row = min(inverter_classes(), key=lambda r: abs(r.class_v - class_v))
        for watts in row.ratings_w:
            figures = {"rating_w": watts, "surge_w": None, "idle_w": None, "waveform": "pure"}
            yield of(f"{row.label}, {watts / 1000:g} kW", figures, watts, row.basis.source)
    elif kind in ("converter", "switch", "fuse_block"):
        table = sizes(kind.replace("_", "-"))
        for amps in table.sizes:
            yield of(f"{table.label}, {amps:g} A", {"rating_a": amps}, amps, table.basis.source)
    elif kind == "protection":
        for family in families().values():
            if family.v_dc > 0:
                for amps in family.ratings_a:
                    yield of(f"{family.label}, {amps:g} A", {"rating_a": amps, "family": family.key}, amps, family.basis.source)
    elif kind == "busbar":
        for bar in sorted(busbars().values(), key=lambda b: b.ampacity_a):
            yield of(bar.label, {"section": bar.key}, bar.ampacity_a, bar.basis.source)


def own_figures(kind: str, figures: dict[str, Any]) -> dict[str, Any]:
    """A part's own figures, checked as the design would check them. Errors: ValueError with a sentence."""
    if kind not in OWN_FIELDS:
        raise ValueError(f"'{kind[:20]}' is no part that can be kept")
    kept = {name: value for name, value in figures.items() if name in OWN_FIELDS[kind]}
    unknown = set(figures) - set(kept)
    if unknown:
        raise ValueError(f"'{sorted(unknown)[0][:40]}' is no figure of such a part (known: {', '.join(OWN_FIELDS[kind])})")
    try:
        node = TypeAdapter(Node).validate_python({"part": kind, "name": "part", "feed": "pack", **kept})
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise ValueError(f"{first['loc'][-1]}: {first['msg']}") from None
    return {name: getattr(node, name) for name in OWN_FIELDS[kind] if name in kept}
