"""A run of the simulation, and what comes of it: the series, what happened in words, the account of its energy."""

import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

from kegcart.core.simulation.inputs import Lane


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened: hour from midnight of the first day, kind, in words; `place` is the part or bank it is about."""

    hour: float
    kind: str
    text: str
    place: int = -1


@dataclass(slots=True)
class BankCourse:
    """What became of one bank. Series by moment where they were kept."""

    name: str
    lowest_charge: float
    lowest_v: float
    hottest_c: float
    too_cold_h: float
    """hours in which it was charged below the temperature for that"""
    last_charge: float
    filled_to: float
    """highest charge to which it was charged within the last day; 0 where it was not"""
    charged_at_c: float
    """greatest temperature at which a source was filling it, or would have; -inf where none did"""
    charge: list[float]
    volts: list[float]
    amps: list[float]
    celsius: list[float]


@dataclass(frozen=True, slots=True)
class WorstHour:
    """The hour that brought the most heat, from `hour` on: mean W of the sun, of each part and source, of each bank's board, and of
    the cells themselves."""

    hour: float
    sun_w: float
    parts_w: list[float]
    feeds_w: list[float]
    boards_w: list[float]
    banks_w: list[float]

    @property
    def air_w(self) -> float:
        """W into the air inside, the sun apart."""
        return sum(self.parts_w) + sum(self.feeds_w) + sum(self.boards_w)


@dataclass(frozen=True, slots=True)
class MostUsed:
    """When an inverter was loaded the most for what it holds in the air inside: VA, °C inside, hour. VA of 0: it never was, or is none."""

    va: float
    inside_c: float
    hour: float


@dataclass(slots=True)
class Course:
    """A simulated run: energies in Wh, temperatures in °C; series by moment where they were kept."""

    banks: list[BankCourse]
    hour: list[float]
    inside_c: list[float]
    delivered_w: list[float]
    heat_w: list[float]
    sun_w: list[float]
    fans_on: list[float]
    events: list[Event]
    dark_h: list[float]
    """for each part the hours in which a load on it found no power"""
    given_wh: list[float]
    """what each source gave at its output"""
    chemical_wh: float
    charged_wh: float
    delivered_wh: float
    inverter_loss_wh: float
    converter_loss_wh: float
    standing_wh: float
    bank_loss_wh: float
    wiring_loss_wh: float
    full_h: list[float]
    """the hours at which the charge of the first bank ended, full or by its sources"""
    trips: int
    """how often something opened by overload, or a board stopped too great a charge"""
    hiccups: int
    """how often something that had cut off came back and dropped again, before it was plugged in"""
    hottest_inside_c: float
    hottest_inside_h: float
    worst: WorstHour
    used: list[MostUsed]
    """of each part"""
    fans_h: list[float]
    """how long each fan ran"""
    fans_switched: list[int]
    steps: int
    run_h: float
    """how long the run was"""

    @property
    def out_wh(self) -> float:
        """Energy that was delivered or lost, Wh."""
        losses = self.inverter_loss_wh + self.converter_loss_wh + self.standing_wh + self.bank_loss_wh + self.wiring_loss_wh
        return self.delivered_wh + losses

    @property
    def balance(self) -> float:
        """Energy in less energy out, over what went out: nothing but rounding."""
        return (self.chemical_wh + self.charged_wh - self.out_wh) / max(abs(self.out_wh), 1e-9)


def simulate(lane: Lane, step_s: float = 0.0, series: bool = True) -> Course:
    """One run. step_s: fixed steps of so many s; 0: free steps. series: whether the course is kept, or only what sums it up."""
    # The compiler takes 60 MB and a fifth of a second: only who simulates has it.
    from kegcart.core.simulation.told import run_through

    return run_through(lane, step_s, series)


def simulate_many(lanes: Iterable[Lane], told: Callable[[int], bool] = lambda done: True) -> Iterator[Course]:
    """Any number of runs by the same equations, as many at once as there are processors, in their order and without their series.

    told: called with how many are done; it ends there where it returns False.
    """
    with ThreadPoolExecutor(os.cpu_count() or 1) as threads:  # compiled, the equations run beside one another
        courses = threads.map(partial(simulate, series=False), lanes)
        try:
            for done, course in enumerate(courses, 1):
                yield course
                if not told(done):
                    return
        finally:
            threads.shutdown(cancel_futures=True)
