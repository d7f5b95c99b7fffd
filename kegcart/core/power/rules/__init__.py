"""What is judged of the power path, and of loads and pack once it is known what flows through it."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.check import Check
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.power.rules.ac import judge_ac
from kegcart.core.power.rules.branches import judge_branches
from kegcart.core.power.rules.charging import judge_inputs
from kegcart.core.power.rules.demand import judge_demand
from kegcart.core.power.rules.devices import judge_devices, meter_voltage, post_lugs, shunt_rating
from kegcart.core.power.rules.inverters import judge_inverters
from kegcart.core.power.rules.leads import judge_leads
from kegcart.core.power.rules.protection import judge_protection
from kegcart.core.power.rules.safety import judge_safety
from kegcart.core.power.rules.sold import judge_sold
from kegcart.core.power.rules.standby import judge_standby
from kegcart.core.power.rules.supply import judge_supplies


def judge_power(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, brief: Brief, site: Site) -> Iterator[Check]:
    """Every check that needs the power path, demand first."""
    yield from judge_supplies(power)
    yield from judge_demand(power, loads, pack, site)
    for part in power.parts.values():
        yield from judge_protection(part, power, pack)
        yield from judge_devices(part, power)
    yield from judge_branches(power)
    yield from judge_sold(power)
    yield from judge_leads(power)
    yield from shunt_rating(power)
    yield from meter_voltage(power)
    for source in power.sources:
        yield from post_lugs(source, power)
    yield from judge_inverters(power, loads.day)
    yield from judge_safety(power, pack)
    yield from judge_inputs(power)
    yield from judge_standby(power, pack, brief)
    yield from judge_ac(power, brief)
