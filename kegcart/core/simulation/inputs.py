"""What the simulation reads: plain numbers, and no station of the design.

Whoever wants something simulated fills these. Voltages in V, currents in A, powers in W, resistances in Ω, temperatures in °C,
charge as a share from 0 to 1.
"""

from dataclasses import dataclass
from math import inf
from typing import Literal

from kegcart.core.reference import interpolate

Law = Literal["power", "resistance", "current"]
"""What stays the same when the voltage changes: an electronic supply takes constant power, a heater is a resistance, a motor or
lamp driver takes about constant current."""


@dataclass(frozen=True, slots=True)
class CellCurve:
    """Open-circuit voltage of one cell over its charge, in rising order of charge.

    `rest_v` rested and while it is discharged; `fill_v` while current flows in, which lies higher at the top of some chemistries.
    """

    charge: tuple[float, ...]
    rest_v: tuple[float, ...]
    fill_v: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class CellGroup:
    """Cells in series that stand at one charge: `room` is their capacity over the weakest group's, `share` their part of the
    bank's resistance for each cell in series, `cells` how many there are."""

    room: float
    share: float
    cells: float


@dataclass(frozen=True, slots=True)
class BoardLimits:
    """A protection board, in the battery or beside the cells.

    It opens when a cell is below `cell_min_v` for `delay_s`, and closes again when it rests above `release_v` for `restart_s`, or
    when it is charged. Over `burst_a` it opens at once; between `continuous_a` and that after a time, `burst_s` at the burst. It
    stops a charge above `cell_max_v` a cell, one of more than `charge_a`, and one outside the temperatures of its locks.
    """

    cell_min_v: float
    release_v: float
    cell_max_v: float
    continuous_a: float
    burst_a: float
    burst_s: float
    charge_a: float
    delay_s: float
    restart_s: float
    lock_below_c: float = -inf
    lock_above_c: float = inf


@dataclass(frozen=True, slots=True)
class LeadAcid:
    """What is lead's own: Peukert's exponent over the current of the rating, how long a rest gives back what a high rate left,
    how much current it accepts for each Ah that is missing (1/h), and how long its voltage takes to follow that."""

    peukert: float
    rated_a: float
    recovery_s: float
    acceptance: float
    polar_s: float


End = Literal["its current", "pack current", "time", "never"]


@dataclass(frozen=True, slots=True)
class Feed:
    """A source that charges a bank: constant current up to a voltage at its own output, until what ends it.

    part: through which it comes in (None: at the posts); it gives nothing while a part on the way is open. current_a: at most.
    set_v: held at its output; float_v: once it is full (0: nothing is held). threshold_v, ohm: of a series diode and of its way to
    the posts. ends: by which `end_a` it ends, and after `absorb_s` at its voltage at the latest. recharge_v: voltage at the posts
    below which it fills again. hours: (from, to, W) in which it may give, none overlapping, of a day or longer that repeats after `repeats_h`; None: whenever the station is
    plugged in.
    holds_wh: what it can give in all. inside: heat that it leaves in the box for each W that it gives.
    """

    name: str
    bank: int
    current_a: float
    set_v: float
    end_a: float
    part: int | None = None
    float_v: float = 0.0
    threshold_v: float = 0.0
    ohm: float = 0.0
    ends: End = "pack current"
    absorb_s: float = inf
    recharge_v: float = 0.0
    hours: tuple[tuple[float, float, float], ...] | None = None
    repeats_h: float = 24.0
    holds_wh: float = inf
    inside: float = 0.0


@dataclass(frozen=True, slots=True)
class CellBank:
    """A pack or further bank. `capacity_ah` and `resistance_ohm` at 25 °C; `late_share` of the resistance answers after `late_s`.

    own_w: what its board and meter draw round the clock. heat_j_k, heat_w_k: its heat capacity, and to the air inside.
    coulombic: share of the charge that is put in which can be taken out again. charge_min_c: below it, it is not to be charged.
    pad_w: of a heating pad under it that a source feeds, until it is at `pad_until_c`.
    """

    name: str
    curve: CellCurve
    groups: tuple[CellGroup, ...]
    capacity_ah: float
    resistance_ohm: float
    late_share: float
    late_s: float
    coulombic: float
    own_w: float
    heat_j_k: float
    heat_w_k: float
    charge_min_c: float
    board: BoardLimits | None = None
    lead: LeadAcid | None = None
    pad_w: float = 0.0
    pad_until_c: float = 0.0

    def cell_voltage(self, group: CellGroup, charge: float, filling: bool = False) -> float:
        """Open-circuit voltage of a cell of a group in V, at the bank's charge.

        Source: the groups are charged full together, so the charge of each follows from its room.
        """
        return interpolate(1 - (1 - charge) / group.room, self.curve.charge, self.curve.fill_v if filling else self.curve.rest_v)


@dataclass(frozen=True, slots=True)
class Threshold:
    """Opens below a voltage at its input that lasts `delay_s`; closes above `restart_v` that lasts `restart_s`."""

    volts: float
    restart_v: float
    delay_s: float
    restart_s: float


@dataclass(frozen=True, slots=True)
class Loss:
    """What a device that makes another supply takes beside its output: W, share, and 1/W of the output squared."""

    idle_w: float
    linear: float
    square: float


@dataclass(frozen=True, slots=True)
class Overload:
    """What an inverter stands: `rated_va` for long, less `derate` for each kelvin that the air inside is above `derate_c`;
    `surge_va` for `surge_s`. Beyond it opens, until it is switched off and on."""

    rated_va: float
    surge_va: float
    surge_s: float
    derate_c: float
    derate: float


@dataclass(frozen=True, slots=True)
class Branch:
    """A part of the tree behind a bank: `feed` is the part before it (None: the posts of `bank`), `ohm` the run to it and its own.

    draw_w: what it draws itself for as long as it is fed. output_v: the voltage it makes for what it feeds; 0 where it passes on
    its own. `loss` and `overload` are of such a device; `with_loads` where it is switched on with what hangs on it;
    `inverts` where it makes AC, so that its losses are told as an inverter's.
    """

    name: str
    bank: int
    feed: int | None
    ohm: float
    draw_w: float = 0.0
    output_v: float = 0.0
    loss: Loss | None = None
    threshold: Threshold | None = None
    overload: Overload | None = None
    with_loads: bool = False
    inverts: bool = False


@dataclass(frozen=True, slots=True)
class LoadDraw:
    """What hangs on a part: `watts` running (at `volts`, where its law is not constant power), more by `surge_w` for `surge_s`
    when it starts.

    taken: W that its circuit takes for one at its socket. va: VA for each W. spans_h: hours of the pattern in which it is
    switched on. cycle_s: on and off time of one that cycles by itself.
    """

    name: str
    part: int
    watts: float
    spans_h: tuple[tuple[float, float], ...]
    surge_w: float = 0.0
    surge_s: float = 0.0
    cycle_s: tuple[float, float] | None = None
    law: Law = "power"
    volts: float = 0.0
    taken: float = 1.0
    va: float = 1.0


Starts = Literal["thermostat", "always", "inverter"]


@dataclass(frozen=True, slots=True)
class Fan:
    """A fan in a face of the box: what it carries while it runs, W/K, and when it does.

    outward: it blows out. on_c, off_c: at which air inside its thermostat starts and stops it.
    """

    w_k: float
    outward: bool
    starts: Starts
    on_c: float
    off_c: float


@dataclass(frozen=True, slots=True)
class Surroundings:
    """The air outside, and how the box passes heat on and holds it.

    walls_w_k, stirred_w_k: through the walls, the air inside still, or stirred by a fan, W/K. box_j_k: heat capacity of what is as
    warm as the air inside, J/K. draught_w: what goes out through vents by itself, W at a rise of 1 K; it grows with its power of 1.5.
    sun_w: W that come in through the top when the sun stands highest, between `rises_h` and `sets_h` of each day.
    """

    outside_c: float
    walls_w_k: float
    box_j_k: float
    stirred_w_k: float = 0.0
    draught_w: float = 0.0
    sun_w: float = 0.0
    rises_h: float = 6.0
    sets_h: float = 18.0
    fans: tuple[Fan, ...] = ()


@dataclass(frozen=True, slots=True)
class Plan:
    """From hour `begin_h` of the first day to `end_h`; each `period_h` it is away for `away_h` and then plugged in.

    pattern_h: after so many hours the loads' hours repeat. start_charge: of every bank.
    """

    begin_h: float
    end_h: float
    period_h: float
    away_h: float
    pattern_h: float = 24.0
    start_charge: float = 1.0


@dataclass(frozen=True, slots=True)
class Lane:
    """All that one run needs. `parts` stand with the one that feeds before what it feeds, the parts of a bank together; so do `feeds`.

    cold: rows of cell temperature, share of the capacity left, multiple of the resistance.
    """

    banks: tuple[CellBank, ...]
    parts: tuple[Branch, ...]
    loads: tuple[LoadDraw, ...]
    around: Surroundings
    plan: Plan
    cold: tuple[tuple[float, float, float], ...]
    feeds: tuple[Feed, ...] = ()
