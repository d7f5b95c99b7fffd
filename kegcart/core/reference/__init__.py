"""Reference tables of the trade, each row with its source and basis, and their typed readers.

The data stands in `tables/*.csv`: that is the place to correct or extend a figure. A row's basis is
`standard`, `typical` (a default that the builder can replace) or `maker`.
"""

import csv
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any, cast

from kegcart.core.figure import Basis, BasisKind, Figure

TABLES = Path(__file__).parent / "tables"


def read_table(name: str) -> list[dict[str, str]]:
    """The rows of a table as text by column."""
    with (TABLES / f"{name}.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def row_basis(row: dict[str, str]) -> Basis:
    """What a figure of a table row rests on."""
    return Basis(cast(BasisKind, row["basis"]), row["source"])


def numbers(text: str) -> tuple[float, ...]:
    """The numbers of a list in a table row, divided by spaces."""
    return tuple(float(part) for part in text.split())


def pairs(text: str) -> tuple[tuple[float, float], ...]:
    """The pairs of a list in a table row, divided by spaces, each with a colon between."""
    return tuple((float(a), float(b)) for a, b in (part.split(":") for part in text.split()))


def optional(text: str) -> float | None:
    """A number of a table row; None where it is blank."""
    return float(text) if text else None


def interpolate(x: float, xs: Sequence[float], ys: Sequence[float]) -> float:
    """Piecewise linear value at x, held constant beyond the ends."""
    if x <= xs[0]:
        return ys[0]
    if x >= xs[-1]:
        return ys[-1]
    i = bisect_right(xs, x)
    share = (x - xs[i - 1]) / (xs[i] - xs[i - 1])
    return ys[i - 1] + share * (ys[i] - ys[i - 1])


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """What every table row has: a key, a label for the screen, and what it rests on. Each is read once, and is like no other."""

    key: str
    label: str
    basis: Basis

    def figure(self, symbol: str, value: float | str, unit: str, label: str = "") -> Figure:
        """A leaf figure that rests on this row."""
        return Figure(symbol, value, unit, label or self.label, "", "", None, self.basis)


@dataclass(frozen=True, slots=True, eq=False)
class Chemistry(Row):
    """A cell chemistry. Voltages per cell in V; rates in C; `r_ah_mohm` is 1 kHz resistance times capacity.

    `stop_low` and `stop_high` bound where a protection board may stop charging a cell; None for lead, which has no board.
    `discharge_min_c` is the least temperature at which it may be used; it is charged between `charge_min_c` and `charge_max_c`, until
    the current is down to `tail` (C). `coulombic` is the share of the charge put in that comes out again. `peukert` is the exponent of lead,
    `acceptance` the current it takes for each Ah that is missing (1/h), `gas_ma_ah` its gassing current at boost, `block` the cells in one block as sold, `classes` the cells in
    series by voltage class. `ocv_v` is rested and while discharging; `filling` are the points at the top that replace it while current flows in.
    """

    kind: str
    v_min: float
    v_nom: float
    v_max: float
    v_low: float
    stop_low: float | None
    stop_high: float | None
    charge_min_c: float
    charge_max_c: float
    discharge_min_c: float
    c_prismatic: float
    c_cylindrical: float
    charge_rate: float
    window_low: float
    window_high: float
    cycles: int
    wh_per_kg: float
    r_ah_mohm: float
    price_per_kwh: float
    knee_v: float
    tail: float
    coulombic: float
    peukert: float | None
    acceptance: float | None
    gas_ma_ah: float | None
    block: int
    classes: dict[int, int]
    curve_basis: Basis
    soc: tuple[float, ...]
    ocv_v: tuple[float, ...]
    filling: tuple[tuple[float, float], ...]

    @property
    def cells_12v(self) -> int:
        """Cells in series of a finished battery as it is usually sold: of 12 V, or of the lowest class there is."""
        return self.classes.get(12, next(iter(self.classes.values())))

    def open_circuit(self, soc: float) -> float:
        """Rested voltage of a cell in V at a state of charge from 0 to 1."""
        return interpolate(soc, self.soc, self.ocv_v)

    def mean_open_circuit(self, low: float, high: float) -> float:
        """Mean rested voltage of a cell in V between two states of charge: the area under its curve over its width."""
        if high - low < 1e-9:
            return self.open_circuit(high)
        inner = [s for s in self.soc if low < s < high]
        points = [(s, self.open_circuit(s)) for s in (low, *inner, high)]
        return sum((v0 + v1) / 2 * (s1 - s0) for (s0, v0), (s1, v1) in pairwise(points)) / (high - low)

    def charge_at(self, volts: float) -> float:
        """State of charge from 0 to 1 at which a rested cell stands at so many V; the least where the curve is flat."""
        return interpolate(volts, self.ocv_v, self.soc)


@cache
def chemistries() -> dict[str, Chemistry]:
    """Chemistries by key: voltages of a cell in V, rates in 1/h, with open-circuit curve."""
    curves = {row["chemistry"]: row for row in read_table("open_circuit")}
    out = {}
    for row in read_table("chemistries"):
        curve = curves[row["key"]]
        points = [(int(column) / 100, float(value)) for column, value in curve.items() if column.isdigit()]
        volts = ("v_min", "v_nom", "v_max", "v_low", "knee_v")
        limits = ("charge_min_c", "charge_max_c", "discharge_min_c", "window_low", "window_high")
        rates = ("c_prismatic", "c_cylindrical", "charge_rate", "tail", "coulombic")
        figures = {name: float(row[name]) for name in (*volts, *limits, *rates, "wh_per_kg", "r_ah_mohm", "price_per_kwh")}
        out[row["key"]] = Chemistry(
            key=row["key"],
            label=row["label"],
            basis=row_basis(row),
            kind=row["kind"],
            cycles=int(row["cycles"]),
            peukert=optional(row["peukert"]),
            acceptance=optional(row["acceptance"]),
            gas_ma_ah=optional(row["gas_ma_ah"]),
            stop_low=optional(row["stop_low"]),
            stop_high=optional(row["stop_high"]),
            block=int(row["block"]),
            classes={int(v): int(n) for v, n in (part.split(":") for part in row["classes"].split())},
            curve_basis=row_basis(curve),
            soc=tuple(p[0] for p in points),
            ocv_v=tuple(p[1] for p in points),
            filling=tuple((percent / 100, volts) for percent, volts in pairs(curve["filling"])),
            **figures,
        )
    return out


@cache
def _cold() -> tuple[tuple[float, ...], tuple[float, ...], tuple[float, ...], Basis]:
    rows = read_table("cold")
    columns = [tuple(float(row[c]) for row in rows) for c in ("temperature_c", "capacity", "resistance")]
    return columns[0], columns[1], columns[2], row_basis(rows[0])


def cold_capacity(temperature_c: float) -> float:
    """Share of the capacity left at a cell temperature."""
    xs, capacity, _, _ = _cold()
    return interpolate(temperature_c, xs, capacity)


def cold_resistance(temperature_c: float) -> float:
    """Multiple of the 25 °C resistance at a cell temperature."""
    xs, _, resistance, _ = _cold()
    return interpolate(temperature_c, xs, resistance)


def cold_rows() -> tuple[tuple[float, float, float], ...]:
    """The cold table: cell temperature in °C, share of the capacity left, multiple of the 25 °C resistance."""
    xs, capacity, resistance, _ = _cold()
    return tuple(zip(xs, capacity, resistance, strict=True))


def cold_basis() -> Basis:
    """What the figures of the cold table rest on."""
    return _cold()[3]


@dataclass(frozen=True, slots=True, eq=False)
class Wire(Row):
    """A copper wire size: cross-section in mm²; by school, ampacity in A for each insulation temperature in °C that its table has."""

    system: str
    area_mm2: float
    columns: dict[str, tuple[tuple[float, float], ...]]
    max_fuse_a: dict[str, float | None]

    def column(self, school: str, insulation_c: float) -> tuple[float, float] | None:
        """The column of its table, (insulation temperature in °C, ampacity in A), that an insulation is judged by.

        The hottest that the insulation stands, or the coolest there is; None where the school gives none for this size.
        """
        return column_for(self.columns[school], insulation_c)


@lru_cache(maxsize=1024)
def column_for(columns: tuple[tuple[float, float], ...], insulation_c: float) -> tuple[float, float] | None:
    """Of columns by insulation temperature, the hottest that an insulation stands, or the coolest; see `Wire.column`."""
    return max((c for c in columns if c[0] <= insulation_c), default=columns[0] if columns else None)


@cache
def wires() -> dict[str, Wire]:
    """Wires by gauge: section in mm², ampacities in A."""
    return {
        row["gauge"]: Wire(
            row["gauge"],
            row["gauge"],
            row_basis(row),
            row["system"],
            float(row["area_mm2"]),
            {s: pairs(row[s]) for s in ("small_craft", "building")},
            {"small_craft": None, "building": optional(row["building_max_fuse_a"])},
        )
        for row in read_table("wires")
    }


@dataclass(frozen=True, slots=True, eq=False)
class InsulationKind(Row):
    """What a cable is insulated with: the conductor temperature in °C that it stands in a short."""

    final_c: float


@cache
def insulations() -> dict[str, InsulationKind]:
    """Kinds of insulation by key."""
    rows = read_table("insulations")
    return {r["key"]: InsulationKind(r["key"], r["label"], row_basis(r), float(r["final_c"])) for r in rows}


@cache
def bundling() -> list[tuple[int, float, Basis]]:
    """(conductors up to, factor, basis) in rising order."""
    return [(int(r["conductors_to"]), float(r["factor"]), row_basis(r)) for r in read_table("bundling")]


@dataclass(frozen=True, slots=True, eq=False)
class Family(Row):
    """A family of fuses or breakers: ratings in A, voltage rating in V DC, interrupt rating in A by voltage."""

    kind: str
    mount: str
    ratings_a: tuple[float, ...]
    v_dc: float
    interrupts: tuple[tuple[float, float], ...]
    multiples: tuple[float, ...]
    fastest_s: tuple[float, ...]
    slowest_s: tuple[float, ...]
    price_order: int

    @property
    def is_dc_breaker(self) -> bool:
        """Whether it is a breaker that opens direct current, and so may serve as a switch."""
        return self.kind == "breaker" and self.v_dc > 0


@cache
def families() -> dict[str, Family]:
    """Fuse and breaker families by key: ratings in A, voltages in V, interrupting ratings in A."""
    melting: dict[str, list[tuple[float, float, float]]] = {}
    for row in read_table("melting"):
        point = float(row["multiple"]), float(row["fastest_s"]), float(row["slowest_s"])
        melting.setdefault(row["key"], []).append(point)
    out = {}
    for row in read_table("protections"):
        out[row["key"]] = Family(
            row["key"],
            row["label"],
            row_basis(row),
            row["kind"],
            row["mount"],
            numbers(row["ratings_a"]),
            float(row["v_dc"]),
            pairs(row["interrupts"]),
            tuple(m for m, _, _ in melting[row["melting"]]),
            tuple(fast for _, fast, _ in melting[row["melting"]]),
            tuple(slow for _, _, slow in melting[row["melting"]]),
            int(row["price_order"]),
        )
    return out


@dataclass(frozen=True, slots=True, eq=False)
class BusbarSection(Row):
    """A copper bar: section in mm, ampacity in A in free air at 35 °C."""

    ampacity_a: float


@cache
def busbars() -> dict[str, BusbarSection]:
    """Copper bars by section: ampacity in A."""
    return {
        row["section"]: BusbarSection(row["section"], f"copper bar {row['section']} mm", row_basis(row), float(row["ampacity_a"]))
        for row in read_table("busbars")
    }


@dataclass(frozen=True, slots=True, eq=False)
class Connector(Row):
    """A panel connector or socket: `rating_a` is also the largest fuse before it; `rating_w` where power limits it.

    v_dc: greatest DC voltage in V; None for an AC socket.
    """

    supplies: tuple[str, ...]
    rating_a: float
    rating_w: float | None
    v_dc: float | None
    mains_v: float | None


@cache
def connectors() -> dict[str, Connector]:
    """Connectors by key: rating in A, the supplies they serve."""
    return {
        row["key"]: Connector(
            row["key"],
            row["label"],
            row_basis(row),
            tuple(row["supplies"].split()),
            float(row["rating_a"]),
            optional(row["rating_w"]),
            optional(row["v_dc"]),
            optional(row["mains"]),
        )
        for row in read_table("connectors")
    }


@dataclass(frozen=True, slots=True, eq=False)
class InverterClass(Row):
    """Inverters of one battery-voltage class: input window in V, continuous ratings sold in W."""

    class_v: float
    window_min_v: float
    window_max_v: float
    ratings_w: tuple[float, ...]


@cache
def inverter_classes() -> list[InverterClass]:
    """Inverters by battery-voltage class: window in V, ratings in W."""

    return [
        InverterClass(
            row["class_v"],
            f"pure-sine inverter, {row['class_v']} V",
            row_basis(row),
            float(row["class_v"]),
            float(row["window_min_v"]),
            float(row["window_max_v"]),
            numbers(row["ratings_w"]),
        )
        for row in read_table("inverters")
    ]


@dataclass(frozen=True, slots=True, eq=False)
class LoadKind(Row):
    """A kind of load: surge as a multiple of the running power, its length in s, power factor; `law` is what stays the same at another
    voltage where its volts and amps are known: power, current or resistance; `steady`: of 12 V it usually wants a steady one."""

    surge: float
    surge_s: float
    power_factor: float
    is_motor: bool
    law: str
    steady: bool


@cache
def load_kinds() -> dict[str, LoadKind]:
    """Kinds of load: surge as a multiple, its time in s, power factor."""
    return {
        row["key"]: LoadKind(
            row["key"],
            row["label"],
            row_basis(row),
            float(row["surge"]),
            float(row["surge_s"]),
            float(row["power_factor"]),
            row["is_motor"] == "1",
            row["law"],
            row["steady"] == "1",
        )
        for row in read_table("load_kinds")
    }


@dataclass(frozen=True, slots=True, eq=False)
class LinkMaterial(Row):
    """A material of cell links: current density in A/mm², resistivity in Ω·mm²/m, sections sold (width, thickness in mm)."""

    limit_a_mm2: float
    rho: float
    sections: tuple[tuple[float, float], ...]


@cache
def link_materials() -> dict[str, LinkMaterial]:
    """Materials of links between cells: A/mm², Ω·mm²/m, sections in mm."""
    return {
        row["key"]: LinkMaterial(
            row["key"],
            row["label"],
            row_basis(row),
            float(row["limit_a_mm2"]),
            float(row["rho"]),
            tuple((float(w), float(t)) for w, t in (part.split("×") for part in row["sections"].split())),
        )
        for row in read_table("links")
    }


@dataclass(frozen=True, slots=True, eq=False)
class CellType(Row):
    """A generic cell: Ah, 1 kHz resistance in mΩ, limits in A, mass in kg, size in mm, price."""

    format: str
    shape: str
    chemistry: str
    capacity_ah: float
    resistance_mohm: float
    continuous_a: float
    charge_a: float
    mass_kg: float
    width_mm: float
    thickness_mm: float
    height_mm: float
    price: float

    def document(self) -> dict[str, Any]:
        """Its figures as the design's `cell` writes them."""
        names = ("capacity_ah", "resistance_mohm", "continuous_a", "charge_a", "mass_kg", "price")
        sizes = ("width_mm", "thickness_mm", "height_mm")
        return {
            "shape": self.shape,
            **{n: getattr(self, n) for n in (*names, *sizes)},
            "resistance_by": "1khz",
            "reclaimed": False,
        }


@cache
def cell_types() -> dict[str, CellType]:
    """Generic cells by key."""
    ratings = ("capacity_ah", "resistance_mohm", "continuous_a", "charge_a", "mass_kg")
    sizes = ("width_mm", "thickness_mm", "height_mm", "price")
    return {
        row["key"]: CellType(
            key=row["key"],
            label=row["label"],
            basis=row_basis(row),
            format=row["format"],
            shape=row["shape"],
            chemistry=row["chemistry"],
            **{name: float(row[name]) for name in (*ratings, *sizes)},
        )
        for row in read_table("cells")
    }


@dataclass(frozen=True, slots=True, eq=False)
class BatteryType(Row):
    """A generic finished battery or module: Ah, A, mΩ, kg, mm, price, and what its board does."""

    form: str
    chemistry: str
    series: int
    capacity_ah: float
    continuous_a: float
    burst_a: float
    charge_a: float
    resistance_mohm: float
    mass_kg: float
    width_mm: float
    depth_mm: float
    height_mm: float
    price: float
    series_limit: int
    cold_lock: bool | None
    sleeps: bool

    def document(self) -> dict[str, Any]:
        """Its figures as the design's `battery` writes them."""
        left_out = {"key", "label", "basis", "form", "chemistry"}
        names = [n for n in BatteryType.__dataclass_fields__ if n not in left_out]
        return {name: getattr(self, name) for name in names}


@cache
def battery_types() -> dict[str, BatteryType]:
    """Generic batteries and modules by key."""
    figures = ("capacity_ah", "continuous_a", "burst_a", "charge_a", "resistance_mohm", "mass_kg")
    sizes = ("width_mm", "depth_mm", "height_mm", "price")
    return {
        row["key"]: BatteryType(
            key=row["key"],
            label=row["label"],
            basis=row_basis(row),
            form=row["form"],
            chemistry=row["chemistry"],
            series=int(row["series"]),
            series_limit=int(row["series_limit"]),
            cold_lock=row["cold_lock"] == "1" if row["cold_lock"] else None,
            sleeps=row["sleeps"] == "1",
            **{name: float(row[name]) for name in (*figures, *sizes)},
        )
        for row in read_table("batteries")
    }


@dataclass(frozen=True, slots=True, eq=False)
class Appliance(Row):
    """A typical appliance: range of running watts, duty, power factor, surge, hours a day; blank where its kind's figure serves."""

    kind: str
    supply: str
    watts_low: float
    watts: float
    watts_high: float
    on_min: float | None
    off_min: float | None
    power_factor: float | None
    surge: float | None
    hours: float
    direct: str | None


@cache
def appliances() -> dict[str, Appliance]:
    """Typical appliances by key: W, minutes on and off, hours a day."""
    return {
        row["key"]: Appliance(
            key=row["key"],
            label=row["label"],
            basis=row_basis(row),
            kind=row["kind"],
            supply=row["supply"],
            hours=float(row["hours"]),
            direct=row["direct"] or None,
            watts_low=float(row["watts_low"]),
            watts=float(row["watts"]),
            watts_high=float(row["watts_high"]),
            **{name: optional(row[name]) for name in ("on_min", "off_min", "power_factor", "surge")},
        )
        for row in read_table("appliances")
    }


@dataclass(frozen=True, slots=True, eq=False)
class Sizes(Row):
    """The sizes in which a part is sold, rising."""

    sizes: tuple[float, ...]
    unit: str

    def pick(self, needed: float) -> float:
        """The smallest size that serves, or the largest there is."""
        return self.sizes[min(bisect_left(self.sizes, needed - 1e-9), len(self.sizes) - 1)]


@cache
def sizes(key: str) -> Sizes:
    """Sizes sold of a device, A, in rising order."""
    return next(
        Sizes(row["key"], row["label"], row_basis(row), numbers(row["sizes"]), row["unit"])
        for row in read_table("sizes")
        if row["key"] == key
    )


@dataclass(frozen=True, slots=True, eq=False)
class Price(Row):
    """A typical price of a kind of part: a base, and so much for each unit of its rating."""

    fixed: float
    per_unit: float
    unit: str

    def of(self, rating: float) -> float:
        """Price of one of so many A or W."""
        return round(self.fixed + self.per_unit * rating)


@cache
def prices() -> dict[str, Price]:
    """Typical price by kind of part."""
    return {
        row["kind"]: Price(row["kind"], row["kind"], row_basis(row), float(row["fixed"]), float(row["per_unit"]), row["unit"])
        for row in read_table("prices")
    }


@dataclass(frozen=True, slots=True, eq=False)
class SetPoint(Row):
    """How a chemistry is charged for a goal, by the cell at 25 °C: V while it absorbs, V at which it is held (None: not at all), the
    current at which it ends (C), the longest time at that voltage (h), the rested V from which it is charged again."""

    absorb_v: float
    float_v: float | None
    tail: float
    absorb_h: float
    recharge_v: float


@cache
def set_points() -> dict[tuple[str, str], SetPoint]:
    """Set points by chemistry and goal."""
    labels = {key: row.label for key, row in chemistries().items()}
    return {
        (row["chemistry"], row["goal"]): SetPoint(
            f"{row['chemistry']}-{row['goal']}",
            f"{labels[row['chemistry']]}, {row['goal']}",
            row_basis(row),
            float(row["absorb_v"]),
            optional(row["float_v"]),
            *(float(row[name]) for name in ("tail", "absorb_h", "recharge_v")),
        )
        for row in read_table("set_points")
    }


@dataclass(frozen=True, slots=True, eq=False)
class ChargerClass(Row):
    """Mains chargers up to an output in W: efficiency and power factor."""

    up_to_w: float
    efficiency: float
    power_factor: float


@cache
def charger_classes() -> tuple[ChargerClass, ...]:
    """Classes of mains chargers, smallest first."""
    names = ("up_to_w", "efficiency", "power_factor")
    return tuple(
        ChargerClass(row["key"], row["label"], row_basis(row), *(float(row[name]) for name in names))
        for row in read_table("chargers")
    )


def charger_class(output_w: float) -> ChargerClass:
    """The class of a mains charger of so many W, or the largest there is."""
    return next((c for c in charger_classes() if output_w <= c.up_to_w), charger_classes()[-1])


@dataclass(frozen=True, slots=True, eq=False)
class PanelType(Row):
    """A generic solar panel by its sheet, at 25 °C and 1000 W/m²: W, V, A; `beta` and `gamma` are what open voltage and power
    change by for each K, as shares; `max_fuse_a` the greatest fuse that a string of it stands."""

    cells: int
    watts: float
    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    beta: float
    gamma: float
    max_fuse_a: float


@cache
def panel_types() -> dict[str, PanelType]:
    """Generic solar panels by key, smallest first."""
    names = ("watts", "voc_v", "vmp_v", "isc_a", "imp_a", "beta", "gamma", "max_fuse_a")
    return {
        row["key"]: PanelType(row["key"], row["label"], row_basis(row), int(row["cells"]), *(float(row[name]) for name in names))
        for row in read_table("panels")
    }


@dataclass(frozen=True, slots=True, eq=False)
class ControllerType(Row):
    """A generic solar controller: greatest voltage of the array (V), output (A), battery voltage classes, own draw (W)."""

    type: str
    max_v: float
    amps: float
    batteries_v: tuple[float, ...]
    own_w: float


@cache
def controller_types() -> dict[str, ControllerType]:
    """Generic solar controllers by key, the smallest of each type first."""
    return {
        row["key"]: ControllerType(
            row["key"],
            row["label"],
            row_basis(row),
            row["type"],
            float(row["max_v"]),
            float(row["amps"]),
            numbers(row["batteries_v"]),
            float(row["own_w"]),
        )
        for row in read_table("controllers")
    }


@dataclass(frozen=True, slots=True, eq=False)
class Climate(Row):
    """How clear the sky is in a climate: its latitude in °, north positive; of each month the light on the ground as a share of that
    above the air; its coldest and its hottest month, from 1."""

    latitude: float
    clearness: tuple[float, ...]
    coldest: int
    hottest: int


@cache
def climates() -> dict[str, Climate]:
    """Climates by key."""
    return {
        row["key"]: Climate(
            row["key"],
            row["label"],
            row_basis(row),
            float(row["latitude"]),
            numbers(row["clearness"]),
            int(row["coldest"]),
            int(row["hottest"]),
        )
        for row in read_table("climates")
    }


@cache
def _assumptions() -> dict[str, tuple[str, float, str, str, str, str, None, Basis]]:
    """What makes the figure of each assumption."""
    return {
        row["key"]: (row["symbol"], float(row["value"]), row["unit"], row["label"], "", "", None, row_basis(row))
        for row in read_table("assumptions")
    }


def assumption(key: str) -> Figure:
    """A standard constant or typical default as a leaf figure. Errors: KeyError where there is none."""
    return Figure(*_assumptions()[key])


@cache
def constant(key: str) -> float:
    """The bare value of an assumption."""
    return _assumptions()[key][1]
