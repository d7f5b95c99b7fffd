"""What makes a box cooler: shade, a lighter colour, its fans set lower, a fan and a vent, a charger that stands beside it. Each is to
be tried out by simulating it."""

from collections.abc import Iterator
from dataclasses import replace
from math import ceil

from kegcart.core.box.air import FanSizing, air_density, its_openings, openings, size_fans
from kegcart.core.box.document import Face, Fitting
from kegcart.core.box.heat import in_sun
from kegcart.core.box.layout import BoxLayout, Fitted, fit_fitting
from kegcart.core.box.moves import at_point, face_is_clear, first_on_face, placed
from kegcart.core.box.space import Shape
from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.finding import Remedy, set_value
from kegcart.core.reference import constant
from kegcart.core.units import HOTTEST_C, write_quantity

FANS: tuple[tuple[float, float], ...] = ((40, 12), (60, 28), (80, 50), (92, 67), (120, 114))
"""Axial fans as sold: mm across, m³/h in free air; their opening times the typical speed."""
LIGHTER = "white"
WAYS: tuple[tuple[Face, Face], ...] = (("right", "left"), ("left", "right"), ("back", "front"), ("front", "back"))
"""Faces where air goes out, and where it comes in."""


def cooler(layout: BoxLayout, brief: Brief, site: Site) -> Iterator[Iterator[Remedy]]:
    """Kinds of changes that make the inside cooler, each from the smallest to the largest."""
    shade = Remedy("Keep it in the shade", [set_value("/box/case/in_sun", False)])
    sunny = in_sun(layout, brief)
    if sunny:
        yield iter([shade])
        if layout.case.colour != LIGHTER:
            yield iter([Remedy("Take it in white, or cover it with white", [set_value("/box/case/colour", LIGHTER)])])
    fans = size_fans(layout, site, air_density(layout.box.altitude_m))
    yield from (earlier(key, fan, site) for key, fan in fans.items() if fan.fitting.starts == "thermostat")
    yield from (larger(fitted, layout) for fitted in layout.fitted if fitted.key in fans and fitted.thing is None)
    if not fans:
        yield with_fan(layout, brief, site)
    yield chargers_outside(layout)
    if sunny and not fans:
        yield (
            Remedy(f"{shade.label}; {fan.label[0].lower()}{fan.label[1:]}", [*shade.patch, *fan.patch])
            for fan in with_fan(layout, brief, site)
        )


def earlier(key: str, fan: FanSizing, site: Site) -> Iterator[Remedy]:
    """A fan that starts at a lower temperature, and stops above the hottest outside."""
    gap, hot = constant("fan_hysteresis"), site.hot_c.number
    for more in (3, 1, 0):
        on = hot + gap + more
        if on < fan.on.number and on <= HOTTEST_C:
            patch = [set_value(f"/box/fittings/{key}/{name}", c) for name, c in (("on_c", on), ("off_c", on - gap))]
            yield Remedy(f"Let {fan.fitting.name} start at {write_quantity(on, '°C')}", patch)


def larger(fan: Fitted, layout: BoxLayout) -> Iterator[Remedy]:
    """A fan of more flow in the place of one, or as near to it as a larger one is clear, with vents as free as itself."""
    own, vents = fan.fitting, its_openings(fan, openings(layout))
    for mm, flow in FANS:
        if own is None or flow <= (own.flow_m3h or 0.0):
            continue
        patch = [set_value(f"{fan.at}/flow_m3h", flow)]
        wanted = [(fan, mm)] * (mm > own.width_mm) + [(v, ceil(1.3 * mm)) for v in vents if v.outline.width < 1.3 * mm]
        for fitted, across in wanted:
            o = fitted.outline
            grown = at_point(replace(fitted, outline=Shape(o.x, o.y, across, across, True)), fitted.face, o.x, o.y, layout)
            there = (
                grown
                if face_is_clear(grown, layout)
                else first_on_face(grown, fitted.face, layout, up=o.y / layout.hollow.height)
            )
            if there is None:
                break
            patch += [
                set_value(f"{fitted.at}/{n}", v) for n, v in (("width_mm", across), ("height_mm", None), ("free_cm2", None))
            ]
            patch += placed(there)
        else:
            yield Remedy(f"A fan of {write_quantity(flow, 'm³/h')} in place of {fan.name}", patch)


def with_fan(layout: BoxLayout, brief: Brief, site: Site) -> Iterator[Remedy]:
    """A fan high on one face and a vent low across from it, where both are clear, and it can be set to start above the hottest outside."""
    if site.hot_c.number + constant("fan_hysteresis") + 1 > HOTTEST_C:
        return
    for mm, flow in FANS:
        for out, into in WAYS:
            fan = fitting_for("fan", out, mm, brief, site, flow)
            vent = fitting_for("vent", into, ceil(1.3 * mm), brief, site, None)
            there = first_on_face(fit_fitting("fan-out", fan, layout.hollow), out, layout, up=0.8)
            here = first_on_face(fit_fitting("vent-in", vent, layout.hollow), into, layout, up=0.2)
            if there and here:
                patch = [added(there, fan), added(here, vent)]
                yield Remedy(f"A fan of {write_quantity(flow, 'm³/h')} in the {out}, a vent across from it", patch)
                break


def fitting_for(kind: str, face: Face, mm: float, brief: Brief, site: Site, flow: float | None) -> Fitting:
    """A fan or vent for air on a face, as sealed as the brief asks."""
    hot = site.hot_c.number
    more = {"flow_m3h": flow, "inside_mm": 26, "on_c": hot + constant("fan_hysteresis") + 1, "off_c": hot + 1} if flow else {}
    sealing = "splash" if brief.exposure == "wet" else "none"
    return Fitting.model_validate(
        {"kind": kind, "name": kind.capitalize(), "face": face, "width_mm": mm, "sealing": sealing, **more}
    )


def added(fitted: Fitted, fitting: Fitting) -> dict[str, object]:
    """The operation that cuts a fitting in where it was found clear."""
    where = {"x_mm": round(fitted.outline.x, 1), "y_mm": round(fitted.outline.y, 1)}
    return {"op": "add", "path": fitted.at, "value": {**fitting.model_dump(mode="json"), **where}}


def chargers_outside(layout: BoxLayout) -> Iterator[Remedy]:
    """What charges it stands beside the box."""
    for thing in layout.things:
        if thing.key.startswith("source:") and thing not in layout.outside and thing not in layout.unplaced:
            yield Remedy(f"Set {thing.name} up beside the box", [{"op": "remove", "path": thing.place}])
