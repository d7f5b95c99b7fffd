"""Copper conductors: resistance, ampacity with its derates, temperature under load.

Both wire-sizing schools are supported: vehicle and small-craft DC practice (`small_craft`)
and building practice (`building`); the tables stand in `reference/tables/wires.csv`.
"""

from functools import cache, lru_cache
from math import log, sqrt
from typing import Annotated, Literal

from kegcart.core.document import Said
from kegcart.core.reference import Wire, bundling, constant, wires

School = Annotated[Literal["small_craft", "building"], Said((("small_craft", "vehicle and boat DC"), ("building", "building")))]
GaugeSystem = Annotated[Literal["awg", "mm2"], Said((("mm2", "mm²"), ("awg", "AWG")))]

BASE_AMBIENT_C = 30.0


def resistivity(temperature_c: float) -> float:
    """Resistivity of copper in Ω·mm²/m at a conductor temperature. Source: IEC 60028."""
    return constant("copper_resistivity") * (1 + constant("copper_coefficient") * (temperature_c - 20))


def resistance(length_m: float, area_mm2: float, temperature_c: float = 20.0) -> float:
    """Resistance in Ω of `length_m` of copper of `area_mm2`; pass both legs' length for a circuit.

    Source: R = ρ·l/A; ρ as in IEC 60028.
    """
    return resistivity(temperature_c) * length_m / area_mm2


@cache
def bundle_factor(conductors: int) -> float:
    """Ampacity factor for so many current-carrying conductors in one bundle.

    Source: bundling table.
    """
    return next(factor for limit, factor, _ in bundling() if conductors <= limit)


def limiting_temperature(wire: Wire, school: School, insulation_c: float) -> float:
    """The conductor temperature in °C that ampacity is calculated for.

    Better insulation than the table's earns nothing, as lugs and device terminals set the limit; poorer insulation is judged by
    the table's own column for it, or counts as it is where there is none.
    """
    column = wire.column(school, insulation_c)
    return min(insulation_c, column[0]) if column else insulation_c


def ampacity(wire: Wire, school: School, ambient_c: float, insulation_c: float = 105.0, bundled: int = 2) -> float:
    """Derated ampacity in A of a wire; 0 where the school gives none or the air is too hot.

    I = I_table · √((T_ins − T_a)/(T_table − 30)) · k_bundle. Source: the wire's table row, the column of its insulation.
    """
    return _ampacity(wire.key, school, ambient_c, insulation_c, bundled)


@lru_cache(maxsize=4096)
def _ampacity(gauge: str, school: School, ambient_c: float, insulation_c: float, bundled: int) -> float:
    column = wires()[gauge].column(school, insulation_c)
    if column is None:
        return 0.0
    table_c, table_a = column
    limit_c = min(insulation_c, table_c)
    if ambient_c >= limit_c:
        return 0.0
    return table_a * sqrt((limit_c - ambient_c) / (table_c - BASE_AMBIENT_C)) * bundle_factor(bundled)


def adiabatic_factor(final_c: float, initial_c: float) -> float:
    """k of the adiabatic equation for copper in A·√s/mm²: what a conductor stands in a short, from and to so many °C.

    k = 226 · √ln(1 + (θ_f − θ_i)/(234.5 + θ_i)); 0 where it is hotter already. Source: IEC 60364-4-43.
    """
    if initial_c >= final_c:
        return 0.0
    return constant("adiabatic") * sqrt(log(1 + (final_c - initial_c) / (234.5 + initial_c)))


def conductor_temperature(ambient_c: float, limit_c: float, current_a: float, ampacity_a: float) -> float:
    """Steady conductor temperature in °C: T_a + (T_ins − T_a)·(I/I_amp)².

    Source: the rise over the air goes with the heat, so with the square of the current, from the ampacity's own definition.
    """
    if ampacity_a <= 0:
        return limit_c
    return ambient_c + (limit_c - ambient_c) * (current_a / ampacity_a) ** 2


@cache
def gauges(system: GaugeSystem) -> tuple[Wire, ...]:
    """The sizes sold in a gauge system, thin to thick."""
    return tuple(sorted((w for w in wires().values() if w.system == system), key=lambda w: w.area_mm2))
