"""Designs in a box: as many of their parts as find a place in one that is sold, some of them under a shelf."""

from random import Random
from typing import Any

from kegcart.core.assess import assess
from kegcart.core.box.moves import place_things
from kegcart.core.design import Design, read_design, write_design
from kegcart.core.reference.boxes import case_types
from tests.core.samples import put


def boxed(design: Design, chance: Random) -> Design:
    """A design whose parts stand in a box of the list, with clear places where they are found; in half of them on the floor and a shelf."""
    case = chance.choice(list(case_types().values())).document
    data: dict[str, Any] = put(write_design(design), "/box/case", case)
    if chance.random() < 0.5:
        shelf = {
            "name": "Shelf",
            "z_mm": case["height_mm"] * 0.6,
            "width_mm": case["length_mm"],
            "depth_mm": case["width_mm"] * 0.6,
            "height_mm": 9,
        }
        data = put(data, "/box/fixtures/shelf", shelf)
    found = assess(read_design(data)).box
    assert found is not None
    layout = found.layout
    keys = [thing.key for thing in layout.unplaced if chance.random() < 0.9]
    places, _ = place_things(layout, keys)
    for key, place in places.items():
        data = put(data, f"/box/places/{key}", place.model_dump(mode="json"))
    return read_design(put(data, "/box/pack_last", chance.random() < 0.2))
