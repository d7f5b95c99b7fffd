"""A bench that stands in for a real one: a true station of a design, its meters, a load, a supply and switches, in real time or faster."""

import re
import threading
import time
from collections.abc import Callable, Mapping
from random import Random

from kegcart.core.assess import Assessment
from kegcart.core.bench.dealt import DEALT, Ill
from kegcart.core.bench.diagnose.faults import words_of
from kegcart.core.bench.plan import Setting
from kegcart.core.bench.station import station_of
from kegcart.core.bench.truth import TrueStation, drawn

SLICE_S = 20.0
"""Time goes by in slices no longer than this."""
LONGEST_S = 3600.0
"""Nobody asked for so long: the station stood still meanwhile."""
UNKNOWN = "-113,Undefined header"
"""Source: standard error messages of programmable instruments."""
CHANNELS = re.compile(r"\(@(\d{1,3})(?::(\d{1,3}))?\)")
Told = Callable[[str], str | None]


class StandInBench:
    """A true station with its instruments. seed: how its true figures differ from the design's. speed: how much faster than a clock it goes.
    fault: what is wrong with it besides, a key of `DEALT`; nothing where it is empty. Errors: KeyError, where there is no such fault."""

    def __init__(self, assessment: Assessment, seed: int, speed: float = 1.0, fault: str = "") -> None:
        self.station = station_of(assessment)
        chance = Random(seed)
        hidden = drawn(self.station, chance, 1.0)
        ill = DEALT[fault](self.station, hidden, chance) if fault else Ill(hidden)
        self.dealt = words_of(fault, ill.which, self.station.points) if fault else "nothing: it is sound"
        self.true = TrueStation(self.station, ill.hidden)
        self.meters = ill.meters(self.true, seed)
        self.speed = speed
        self.lock = threading.Lock()
        self.begun: float | None = None
        self.gone_s = self.read_at = 0.0
        self.load_w, self.load_on = 0.0, False
        self.supply_v, self.supply_a, self.supply_on = 0.0, 0.0, False
        self.main, self.inverter = False, False
        self.cells = len(self.true.rooms)
        self.points = len(self.station.points)
        self._set()

    def shown(self) -> Mapping[str, float]:
        """What the meters show now, by channel."""
        with self.lock:
            self._go_on()
            since, self.read_at = self.true.seconds - self.read_at, self.true.seconds
            return self.meters.read(self.true.read(), since)

    def seconds(self) -> float:
        """How long it has been on, s of its own time."""
        with self.lock:
            self._go_on()
            return self.true.seconds

    def turn(self, **settings: float | bool) -> None:
        """Set load, supply or switches."""
        with self.lock:
            self._go_on()
            for name, value in settings.items():
                setattr(self, name, value)
            self._set()

    def _go_on(self) -> None:
        """Let the time go by that has gone by since it was last asked."""
        now = time.monotonic()
        if self.begun is None:
            self.begun, self.gone_s = now, self.true.seconds
        left = min((now - self.begun) * self.speed, LONGEST_S)
        self.begun = now
        while left > 1e-6:
            self.true.advance(min(SLICE_S, left))
            left -= min(SLICE_S, left)

    def _set(self) -> None:
        idle = not self.load_on and not self.inverter
        if idle and self.true.opened:
            self.true.reset()  # a board and a breaker that have opened are closed again by hand, once nothing draws
        setting = Setting(
            watts=self.load_w if self.load_on else 0.0,
            inverter=self.inverter and self.station.inverter is not None,
            main=self.main,
            supply_v=self.supply_v if self.supply_on else 0.0,
            supply_a=self.supply_a if self.supply_on else 0.0,
        )
        self.true.set(setting)


class StandIn:
    """An instrument that answers lines: its name, what it measures by its query, what it does by its command."""

    def __init__(self, bench: StandInBench, name: str, reads: Mapping[str, tuple[str, ...]], does: Mapping[str, Told]) -> None:
        """reads: channels by query, a range as `(@1:*)` for all of them, each by its number."""
        self.bench, self.name, self.reads, self.does = bench, name, reads, does

    def answer(self, line: str) -> str | None:
        """The answer to a line; None where it is a command, which has none."""
        said = line.strip()
        header, _, value = said.partition(" ")
        if said.upper() == "*IDN?":
            return f"generic,{self.name},stand-in,1.0"
        if said.upper() == "SYST:TIME:ELAP?":
            return f"{self.bench.seconds():.3f}"
        if (told := self.does.get(header.upper())) is not None:
            try:
                return told(value.strip())
            except ValueError:
                return None
        if said.endswith("?") or "? " in said:
            return self._measured(said.upper())
        return None

    def _measured(self, said: str) -> str:
        channels = self.reads.get(said)
        if channels is None:
            query = said.split(" ")[0]
            every = self.reads.get(f"{query} (@1:*)", ())
            found = CHANNELS.search(said)
            if not every or not found:
                return UNKNOWN
            first = int(found[1])
            channels = every[first - 1 : int(found[2] or first)]
        shown = self.bench.shown()
        return ",".join(f"{shown[channel]:.7g}" for channel in channels if channel in shown) or UNKNOWN


def instruments_of(bench: StandInBench) -> list[StandIn]:
    """Every instrument of a bench."""

    def switch(value: str) -> bool:
        return value.upper() in ("1", "ON")

    def load_power(value: str) -> None:
        bench.turn(load_w=max(0.0, float(value)))

    def relay(closed: bool) -> Told:
        def work(value: str) -> None:
            found = CHANNELS.fullmatch(value)
            if found and found[1] in ("1", "2"):
                bench.turn(**{"main" if found[1] == "1" else "inverter": closed})

        return work

    points = tuple(f"part.{n}.c" for n in range(1, bench.points + 1))
    cells = tuple(f"cell.{n}.v" for n in range(1, bench.cells + 1))
    dc = {"MEAS:VOLT:DC? (@1)": ("posts.v",), "MEAS:VOLT:DC?": ("posts.v",), "MEAS:CURR:DC?": ("posts.a",)}
    if points:
        dc["MEAS:VOLT:DC? (@2)"] = ("end.v",)
    return [
        StandIn(bench, "DC meter with shunt", dc, {}),
        StandIn(bench, "DC clamp", {"MEAS:CURR:DC?": ("clamp.a",)}, {}),
        StandIn(bench, "AC power meter", {"MEAS:VOLT:AC?": ("load.v",), "MEAS:POW:AC?": ("load.w",)}, {}),
        StandIn(bench, "thermometer", {"MEAS:TEMP? (@1:*)": ("air.c", "outside.c", "pack.c", *points)}, {}),
        StandIn(bench, "cell logger", {"MEAS:VOLT:DC? (@1:*)": cells}, {}),
        StandIn(
            bench,
            "electronic load",
            {"MEAS:VOLT?": ("load.v",), "MEAS:POW?": ("load.w",)},
            {
                "POW": load_power,
                "INP": lambda value: bench.turn(load_on=switch(value)),
                "INP?": lambda _: str(int(bench.load_on)),
            },
        ),
        StandIn(
            bench,
            "power supply",
            {"MEAS:VOLT?": ("supply.v",), "MEAS:CURR?": ("supply.a",)},
            {
                "VOLT": lambda value: bench.turn(supply_v=float(value)),
                "CURR": lambda value: bench.turn(supply_a=float(value)),
                "OUTP": lambda value: bench.turn(supply_on=switch(value)),
            },
        ),
        StandIn(bench, "wall power meter", {"MEAS:POW:AC?": ("wall.w",)}, {}),
        StandIn(bench, "relay box", {}, {"ROUT:CLOS": relay(True), "ROUT:OPEN": relay(False)}),
    ]
