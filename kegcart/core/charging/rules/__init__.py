"""What is judged of charging that the sources and what they charge decide alone. What needs the tree stands in `power/rules/charging`."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.charging.kinds import MainsCharger, SolarArray, StepDown, Vehicle
from kegcart.core.charging.rules.current import judge_currents
from kegcart.core.charging.rules.setting import judge_setting
from kegcart.core.charging.rules.solar import judge_solar
from kegcart.core.charging.rules.supply import judge_mains, judge_step_down
from kegcart.core.charging.rules.vehicle import judge_vehicle
from kegcart.core.charging.rules.warming import judge_warming
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.check import Check


def judge_charging(charging: ChargingSizing, brief: Brief, site: Site) -> Iterator[Check]:
    """Every check of every source, and of what they charge together."""
    for sizing in charging.sources.values():
        yield from judge_setting(sizing)
        match sizing.source:
            case MainsCharger() as source:
                yield from judge_mains(sizing, source, brief, site)
            case SolarArray() as source:
                yield from judge_solar(sizing, source)
            case Vehicle() as source:
                yield from judge_vehicle(sizing, source)
            case StepDown() as source:
                yield from judge_step_down(sizing, source)
            case _:
                pass
    yield from judge_currents(charging)
    yield from judge_warming(charging)
