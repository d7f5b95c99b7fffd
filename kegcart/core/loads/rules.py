"""What is judged of loads that the loads alone decide."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief, Mains
from kegcart.core.catalogue import NOTE, STOP, judges
from kegcart.core.check import Check, Fault, at_most, is_so, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.loads.sizing import Demand, LoadsSizing
from kegcart.core.reference import assumption

#: What an inverter gives, by the brief's mains.
GIVES: dict[Mains, frozenset[str]] = {
    "120 V 60 Hz": frozenset({"120 V 60 Hz", "any"}),
    "230 V 50 Hz": frozenset({"230 V 50 Hz", "any"}),
    "120/240 V split-phase": frozenset({"120 V 60 Hz", "240 V 60 Hz", "any"}),
    "none": frozenset({"230 V 50 Hz", "any"}),
}


def judge_loads(loads: LoadsSizing, brief: Brief) -> Iterator[Check]:
    """Every check that needs the loads alone."""
    yield something_to_run(loads)
    for demand in loads.demands.values():
        plate = demand.load.mains
        if demand.load.supply == "ac" and plate is not None:
            yield mains_mismatch(demand, loads, brief)
    yield from heater_share(loads)
    for demand in loads.demands.values():
        if demand.kind.is_motor:
            yield surge_unknown(demand)
        yield no_hours(demand, loads)


@judges("loads.none", "something to run", NOTE)
def something_to_run(loads: LoadsSizing) -> Check:
    """There is something to run."""
    return is_so(
        "loads.none",
        "/loads/items",
        bool(loads.demands),
        lambda: note(
            "There are no loads yet, so nothing can be judged.",
            "Pack and power path are sized by what is to run: put that in first.",
            {},
        ),
    )


@judges("loads.mains-mismatch", "voltage and frequency on its plate", STOP)
def mains_mismatch(demand: Demand, loads: LoadsSizing, brief: Brief) -> Check:
    """An AC load is made for what the inverter gives.

    Source: rated voltage and frequency on the plate (IEC 60335-1 marking).
    """
    plate, at = demand.load.mains, f"/loads/items/{demand.key}/mains"
    gives = "230 V 50 Hz" if brief.mains == "none" else brief.mains

    def fault() -> Fault:
        others = {d.load.mains for d in loads.demands.values() if d.load.supply == "ac"} - {"any"}
        remedies = [Remedy("Its supply takes any mains, 100 to 240 V", [set_value(at, "any")])]
        fitting = next((m for m, kinds in GIVES.items() if m != "none" and others <= kinds), None)
        if fitting is not None:
            remedies.insert(0, Remedy(f"An inverter for {fitting}", [set_value("/brief/mains", fitting)]))
        return stop(
            f"{demand.load.name} is made for {plate}; the inverter gives {gives}.",
            "At twice its voltage a load burns; at half of it a motor stalls and overheats; at another frequency motors and clocks run wrong.",
            {"P": demand.running},
            tuple(remedies),
        )

    return is_so("loads.mains-mismatch", at, plate in GIVES[brief.mains], fault)


@judges("loads.heater-share", "share of heat in the day", NOTE)
def heater_share(loads: LoadsSizing) -> Iterator[Check]:
    """Resistive heat takes no more than a third of the day.

    Source: practice: resistive heat of more than a third of the day deserves a look (assumptions table).
    """
    heaters = [d for d in loads.demands.values() if d.load.kind == "heater" and d.energy.number > 0]
    if not heaters:
        return
    heat = Figure.by("E_heat", "sum", "Wh", "heat a day", {d.label: d.energy for d in heaters})
    share = Figure.by("s", "E_heat / E_day", "share", "of the day's energy", E_heat=heat, E_day=loads.energy)
    largest = max(heaters, key=lambda d: d.energy.number)
    yield at_most(
        "loads.heater-share",
        f"/loads/items/{largest.key}",
        share,
        assumption("heater_share"),
        lambda: note(
            f"Heat takes {{s}} of the day, {{E_heat}}; {largest.load.name} the most of it.",
            "Gas, a hot-water bottle or a lid does the same job without a battery. A quarter less heat is often a third less pack.",
            {"s": share, "E_heat": heat},
        ),
    )


@judges("loads.surge-unknown", "its surge, known or guessed", NOTE)
def surge_unknown(demand: Demand) -> Check:
    """A motor's surge is known.

    Source: practice: a motor starts at several times its running current (table of kinds of load).
    """
    place, kind = f"/loads/items/{demand.key}", demand.kind
    multiple = kind.figure("k", kind.surge, "×", f"surge multiple, {kind.label}")
    return is_so(
        "loads.surge-unknown",
        place,
        not demand.surge_guessed,
        lambda: note(
            f"{demand.load.name}: its surge is not known, so {{k}} is taken, the typical figure of its kind.",
            "A motor that starts harder than assumed trips the inverter. Measure it with a clamp that holds the peak, or read its plate.",
            {"k": multiple},
            (Remedy(f"Take {kind.surge:g} × as known", [set_value(f"{place}/surge", kind.surge)]),),
        ),
    )


@judges("loads.no-hours", "hours in which it runs", NOTE)
def no_hours(demand: Demand, loads: LoadsSizing) -> Check:
    """A load has hours in which it runs.

    Source: energy is power times hours: without hours nothing is planned for.
    """
    place = f"/loads/items/{demand.key}"
    nine_to_five = [{"op": "add", "path": f"{place}/windows/w1", "value": {"from_h": 9, "to_h": 17}}]
    return is_so(
        "loads.no-hours",
        place,
        any(loads.day.on[demand.key]),
        lambda: note(
            f"{demand.load.name} has no hours yet, so it counts for nothing.",
            "A load without hours adds neither energy nor current.",
            {},
            (Remedy("Run it 9:00 to 17:00", nine_to_five),),
        ),
    )
