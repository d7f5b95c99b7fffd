"""Reading and writing quantities as people type them: `0.9 m`, `90cm`, `3 ft`, `1.2k`, `12,5`, `10:30`.

The design stores plain numbers in base units. Every quantity field of the design reads text too,
so there is one reader for the screen, the API and files. What is written is in the units of the builder, see `shown_in`.
"""

import math
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date
from functools import lru_cache
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, Field, StringConstraints

from kegcart.core.document import Said

#: Multiples of each base unit, by the spellings people use.
SCALES: dict[str, dict[str, float]] = {
    "m": {
        "m": 1, "metres": 1, "meters": 1, "cm": 0.01, "mm": 0.001,
        "ft": 0.3048, "foot": 0.3048, "feet": 0.3048, "'": 0.3048, "in": 0.0254, "inch": 0.0254, "inches": 0.0254, '"': 0.0254,
    },
    "Wh": {"Wh": 1, "kWh": 1000, "mWh": 0.001},
    "mm": {"mm": 1, "cm": 10, "m": 1000, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4, "ft": 304.8, "'": 304.8},
    "cm²": {"cm²": 1, "cm2": 1, "mm²": 0.01, "mm2": 0.01, "in²": 6.4516, "in2": 6.4516, "sq in": 6.4516},
    "W": {"W": 1, "kW": 1000, "k": 1000, "mW": 0.001, "hp": 745.7},
    "V": {"V": 1, "mV": 0.001},
    "A": {"A": 1, "mA": 0.001, "kA": 1000},
    "mA": {"mA": 1, "A": 1000, "µA": 0.001},
    "Ah": {"Ah": 1, "mAh": 0.001},
    "mV": {"mV": 1, "V": 1000, "µV": 0.001},
    "ohm": {"Ω": 1, "ohm": 1, "ohms": 1, "mΩ": 0.001, "kΩ": 1000, "kohm": 1000},
    "Ω": {"Ω": 1, "ohm": 1, "mΩ": 0.001, "mohm": 0.001, "µΩ": 1e-6},
    "kΩ": {"kΩ": 1, "kohm": 1, "Ω": 0.001, "ohm": 0.001, "MΩ": 1000, "Mohm": 1000},
    "MΩ": {"MΩ": 1, "Mohm": 1, "GΩ": 1000, "kΩ": 0.001},
    "ms": {"ms": 1, "s": 1000},
    "mΩ": {"mΩ": 1, "mohm": 1, "Ω": 1000, "ohm": 1000},
    "kg": {"kg": 1, "g": 0.001, "lb": 0.45359237, "lbs": 0.45359237, "oz": 0.45359237 / 16},
    "h": {"h": 1, "hr": 1, "hour": 1, "hours": 1, "min": 1 / 60, "d": 24, "day": 24, "days": 24},
    "min": {"min": 1, "s": 1 / 60, "h": 60},
    "s": {"s": 1, "ms": 0.001, "min": 60},
    "K": {"K": 1, "°C": 1, "°F": 5 / 9, "F": 5 / 9},
    "m³/h": {"m³/h": 1, "m3/h": 1, "ft³/h": 0.3048**3, "cfm": 60 * 0.3048**3, "l/s": 3.6},
    "K/W": {"K/W": 1, "°C/W": 1, "°F/W": 5 / 9, "F/W": 5 / 9},
    "W/K": {"W/K": 1, "W/°C": 1, "W/°F": 9 / 5},
    "J/K": {"J/K": 1, "kJ/K": 1000, "Wh/K": 3600, "J/°F": 9 / 5, "kJ/°F": 1800},
    "days": {"d": 1, "day": 1, "days": 1},
    "": {"×": 1, "x": 1},
    "%": {"%": 0.01},
    "°": {"°": 1, "deg": 1, "degrees": 1, "° N": 1, "°N": 1, "N": 1, "° S": -1, "°S": -1, "S": -1},
    "money": {},
}  # fmt: skip
#: The same in lower case, as people leave the capitals out.
_FOLDED = {
    unit: {suffix.lower(): scale for suffix, scale in scales.items() if not suffix.startswith("M")}
    for unit, scales in SCALES.items()
}
_NUMBER = re.compile(r"([-+]?(?:\d+[.,]?\d*|[.,]\d+)(?:e[-+]?\d{1,3})?)\s*(.*)", re.IGNORECASE)
_FRACTION = re.compile(r"([-+]?)(?:(\d{1,6})[ -])?(\d{1,4})/(\d{1,4})(?![\d/.,])")
"""`1/2`, `7 1/2`, as a tape measure is read."""
_TWO_PARTS = re.compile(r"(.*\d\s*(?:feet|foot|ft|'|lbs?))\s*(\d.*)", re.IGNORECASE)
"""`3 ft 6 in`, `5 lb 3 oz`."""
_SECOND_PART = {"m": "in", "mm": "in", "kg": "oz"}
_CLOCK = re.compile(r"(\d{1,2})[:h](\d{2})")


COMPASS = ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")
"""Directions from north by east, as they may be typed where degrees are asked."""
LONGEST = 60
"""Characters of a figure with its unit, at most."""


def read_quantity(text: str, unit: str) -> float:
    """Read what a person typed as a number of `unit`.

    text: a number with an optional unit; decimal comma or point.
    unit: the base unit, a key of SCALES, or "°C", or "clock" for an hour of the day.
    Errors: ValueError with a sentence where it cannot be read.
    """
    if len(text) > LONGEST:
        raise ValueError(f"'{text[:20]}…' is too long for a figure")
    typed = text.strip().replace("\N{NO-BREAK SPACE}", " ").replace("−", "-")
    if not typed:
        raise ValueError("nothing is typed here")
    if unit == "clock":
        if clock := _CLOCK.fullmatch(typed):
            hours, minutes = int(clock[1]), int(clock[2])
            if minutes > 59:
                raise ValueError(f"'{text}' is no time of day: minutes go to 59")
            return hours + minutes / 60
        unit = "h"
    if unit in _SECOND_PART and (parts := _TWO_PARTS.fullmatch(typed)):
        return whole_and_part(parts[1], parts[2], unit)
    match = _NUMBER.fullmatch(_FRACTION.sub(as_decimal, typed, count=1) if "/" in typed and _FRACTION.match(typed) else typed)
    if not match:
        raise ValueError(f"'{text}' is not a number" + (f" of {unit}" if unit in SCALES and unit else ""))
    number = float(match[1].replace(",", "."))
    written = match[2].strip().replace("\N{OHM SIGN}", "Ω").replace("\N{GREEK SMALL LETTER MU}", "µ")
    suffix = written.lower()
    if unit == "°C":
        if suffix in ("", "c", "°c"):
            return number
        if suffix in ("f", "°f"):
            return (number - 32) * 5 / 9
        raise ValueError(f"'{written}' is no unit of temperature: use °C or °F")
    unit = {"share": "%", "×": ""}.get(unit, unit)
    scales = SCALES[unit]
    if unit == "%" and suffix in ("", "%"):  # 0.85, 85 and 85 % are the same share
        share = number / 100 if suffix or number > 1 else number
        if share > 1:
            raise ValueError(f"'{text}' is more than 100 %")
        return share
    if not suffix:
        if unit == "Ω":  # of a joint or a pack, where a thousand times is no typing error that is seen
            raise ValueError(f"say whether it is '{text.strip()} mΩ' or '{text.strip()} Ω'")
        return number
    scale = scales.get(written)
    if scale is not None:
        return number * scale
    scale = _FOLDED[unit].get(suffix)
    is_mega = written.startswith("M") and suffix[1:] in _FOLDED[unit] and unit not in ("m", "mm")
    if scale is not None and not is_mega:  # MW is not mW
        return number * scale
    known = ", ".join(scales) or "none"
    raise ValueError(f"'{written}' is not a unit for this figure (known: {known})")


def as_decimal(found: re.Match[str]) -> str:
    """A fraction, with the whole number before it, as a decimal. Errors: ValueError where it divides by nothing."""
    sign, whole, over, under = found.groups()
    if not int(under):
        raise ValueError(f"'{found[0]}' divides by nothing")
    return f"{sign}{int(whole or 0) + int(over) / int(under)!r}"


def whole_and_part(whole: str, part: str, unit: str) -> float:
    """What is typed in two units, feet and inches or pounds and ounces. Errors: ValueError, as of `read_quantity`."""
    finer = _SECOND_PART[unit]
    ends_bare = re.fullmatch(r"[\d\s/.,]+", part)
    first, second = read_quantity(whole, unit), read_quantity(f"{part} {finer}" if ends_bare else part, unit)
    most = read_quantity("1 ft" if finer == "in" else "1 lb", unit)
    if second >= most:
        raise ValueError(f"'{whole} {part}': the second part is as much as the first counts in")
    return first - second if whole.lstrip().startswith("-") else first + second


def reader(unit: str) -> Callable[[Any], Any]:
    """A pydantic validator that reads text as `unit` and lets numbers through, but not booleans. Errors: KeyError of no known unit."""
    if unit not in ("°C", "clock"):
        SCALES[unit]

    def read(value: Any) -> Any:
        if isinstance(value, bool):
            raise ValueError("needs a number, not true or false")
        if isinstance(value, str):
            value = read_quantity(value, unit)
        if isinstance(value, int) and abs(value) > 10**15:
            raise ValueError("this number is too large")
        if isinstance(value, float) and not math.isfinite(value):
            raise ValueError("needs a finite number")
        return value

    return read


def facing_reader(value: Any) -> Any:
    """A pydantic validator of a direction: degrees from north by east, or as the compass has it, `SW`."""
    if isinstance(value, str) and value.strip().upper() in COMPASS:
        return COMPASS.index(value.strip().upper()) * 360 / len(COMPASS)
    return reader("°")(value)


def series_reader(unit: str) -> Callable[[Any], Any]:
    """A pydantic validator that reads text as quantities of `unit` one after the other, and lets lists through.

    They are parted by spaces, lines, semicolons, or commas; a comma within a number is a decimal one where others part them.
    """

    def read(value: Any) -> Any:
        if not isinstance(value, str):
            return value
        text = re.sub(r"(?<=\d)\s+(?=[^\W\d])", "", value.strip())  # a unit belongs to the number before it
        parts = [part.strip(",") for part in re.split(r"[;\s]+", text)]
        if len(parts) == 1:
            parts = text.split(",")
        return [read_quantity(part, unit) for part in parts if part]

    return read


Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
Count = Annotated[int, Field(ge=1, le=999), BeforeValidator(reader(""))]
Length = Annotated[float, Field(ge=0, le=200), BeforeValidator(reader("m"))]
Power = Annotated[float, Field(ge=0, le=20_000), BeforeValidator(reader("W"))]
Voltage = Annotated[float, Field(ge=1, le=1000), BeforeValidator(reader("V"))]
Current = Annotated[float, Field(ge=0.1, le=5000), BeforeValidator(reader("A"))]
Energy = Annotated[float, Field(ge=0.01, le=200_000), BeforeValidator(reader("Wh"))]
MeterEnergy = Annotated[float, Field(ge=0, le=1_000_000), BeforeValidator(reader("Wh"))]
Span = Annotated[float, Field(ge=0.01, le=2000), BeforeValidator(reader("h"))]
Size = Annotated[float, Field(ge=0.05, le=3000), BeforeValidator(reader("mm"))]
SmallCurrent = Annotated[float, Field(ge=0, le=20_000), BeforeValidator(reader("mA"))]
Charge = Annotated[float, Field(ge=0.1, le=5000), BeforeValidator(reader("Ah"))]
Resistance = Annotated[float, Field(ge=0.001, le=10_000), BeforeValidator(reader("mΩ"))]
Mass = Annotated[float, Field(ge=0.001, le=5000), BeforeValidator(reader("kg"))]
Money = Annotated[float, Field(ge=0, le=10_000_000), BeforeValidator(reader("money"))]
Clock = Annotated[float, Field(ge=0, le=24), BeforeValidator(reader("clock"))]
Hours = Annotated[float, Field(ge=0.25, le=336), BeforeValidator(reader("h"))]
Minutes = Annotated[float, Field(ge=0.5, le=1440), BeforeValidator(reader("min"))]
Seconds = Annotated[float, Field(ge=0.01, le=60), BeforeValidator(reader("s"))]
Days = Annotated[int, Field(ge=1, le=14), BeforeValidator(reader("days"))]
ShelfDays = Annotated[int, Field(ge=1, le=730), BeforeValidator(reader("days"))]
HOTTEST_C = 70.0
Temperature = Annotated[float, Field(ge=-40, le=HOTTEST_C), BeforeValidator(reader("°C"))]
MOST_RISE_K = 40.0
Rise = Annotated[float, Field(ge=0, le=MOST_RISE_K), BeforeValidator(reader("K"))]
AirFlow = Annotated[float, Field(ge=0.5, le=2000), BeforeValidator(reader("m³/h"))]
Area = Annotated[float, Field(ge=1, le=100_000), BeforeValidator(reader("cm²"))]
Latitude = Annotated[float, Field(ge=-90, le=90), BeforeValidator(reader("°"))]
Tilt = Annotated[float, Field(ge=0, le=90), BeforeValidator(reader("°"))]
Facing = Annotated[float, Field(ge=0, le=360), BeforeValidator(facing_reader)]
Fraction = Annotated[float, Field(ge=0, le=1), BeforeValidator(reader("%"))]
Multiple = Annotated[float, Field(ge=1, le=20), BeforeValidator(reader(""))]


NOTHING = 1e-9
"""What rounding leaves of nothing, in any unit."""


def significant(value: float, digits: int = 3) -> str:
    """A number to so many significant digits, without exponent or trailing zeros after the point."""
    size = abs(value)
    if size < NOTHING:
        return "0"
    if 1e-4 <= size < 10**digits - 0.5:  # where this format writes no exponent
        text = f"{value:.{digits}g}"
    elif not math.isfinite(value):
        return "∞"
    else:
        places = digits - 1 - math.floor(math.log10(size))
        text = f"{value:.{places}f}".rstrip("0").rstrip(".") if places > 0 else f"{value:.0f}"
    return text.replace("-", "−") if value < 0 else text


def clock(hour: float) -> str:
    """An hour of the day as `19:30`."""
    minutes = round(hour * 60) % (24 * 60)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def calendar_day(on: date) -> str:
    """A day as `26 Apr 2025`, whatever the language of the machine."""
    return f"{on.day} {MONTHS[on.month - 1]} {on.year}"


def day_and_hour(hour: float) -> str:
    """When something happens in a run, as hours from midnight of its first day: `on day 2 at 15:18`."""
    day, minutes = divmod(round(hour * 60), 24 * 60)
    return f"on day {day + 1} at {clock(minutes / 60)}"


def duration(hours: float) -> str:
    """A length of time in the unit a person would say it in: 50 ms, 5 min, 4 h 42 min, 3.4 days."""
    seconds = hours * 3600
    if seconds < 0.9995:
        return f"{significant(seconds * 1000)} ms"
    if seconds < 99.5:
        return f"{significant(seconds)} s"
    if hours < 1:
        return f"{significant(seconds / 60)} min"
    if hours < 9.99:
        whole, minutes = divmod(round(hours * 60), 60)
        return f"{whole} h {minutes} min" if minutes else f"{whole} h"
    return f"{significant(hours)} h"


SHOWN: dict[str, float] = {
    "V": 0.001, "A": 0.00001, "W": 0.01, "Wh": 0.01, "VA": 0.01, "%": 0.01, "°C": 0.1, "K": 0.1,
    "mΩ": 0.001, "Ω": 0.001, "mm²": 0.01, "kg": 0.01, "m": 0.001, "Ah": 0.001, "°F": 0.1, "lb": 0.01, "ft": 0.001, "in": 0.0001,
}  # fmt: skip
"""The least step that a meter, a scale or a rule shows, by unit."""
LEAST_FEET = 0.9995
"""Below so many feet a length is said in inches."""
SMALL = 0.1
"""Below so many V or A they are said in thousandths."""


def as_shown(value: float, unit: str) -> float:
    """A value as a meter shows it: in steps of its last digit."""
    step = SHOWN.get(unit)
    return value if step is None or not math.isfinite(value) else round(value / step) * step


def told(value: float, unit: str, digits: int = 3) -> str:
    """A value with its unit, to so many digits, and no more than a meter shows: rounded once, by whichever is coarser."""
    finer = abs(value) >= SHOWN.get(unit, 0.0) * 10**digits
    return f"{significant(value if finer else as_shown(value, unit), digits)} {unit}".rstrip()


Units = Annotated[Literal["metric", "us"], Said((("metric", "metric (m, kg, °C)"), ("us", "US customary (ft, lb, °F)")))]
_shown_in: ContextVar[Units] = ContextVar("shown_in", default="metric")


@contextmanager
def shown_in(units: Units) -> Iterator[None]:
    """Quantities are written in these units meanwhile; nothing that is computed or stored changes."""
    before = _shown_in.set(units)
    try:
        yield
    finally:
        _shown_in.reset(before)


def units_shown() -> Units:
    """The units in which quantities are written."""
    return _shown_in.get()


class Customary(NamedTuple):
    """How a metric unit is shown in the United States: by which unit, how many of it a metric one is, and from which zero."""

    unit: str
    per: float
    zero: float = 0.0


CUSTOMARY: dict[str, Customary] = {
    "m": Customary("ft", 1 / 0.3048),
    "mm": Customary("in", 1 / 25.4),
    "cm²": Customary("in²", 1 / 6.4516),
    "m²": Customary("ft²", 1 / 0.3048**2),
    "m³/h": Customary("ft³/h", 1 / 0.3048**3),
    "kg": Customary("lb", 1 / 0.45359237),
    "°C": Customary("°F", 9 / 5, 32.0),
    "K": Customary("°F", 9 / 5),
    "K/W": Customary("°F/W", 9 / 5),
    "W/K": Customary("W/°F", 5 / 9),
    "J/K": Customary("J/°F", 5 / 9),
    "%/K": Customary("%/°F", 5 / 9),
}
"""Source: the international yard and pound (1959), NIST SP 811. The area of copper is said as the gauge system has it, and a
constant of a table as its source gives it."""


BY_NAME = {"_m3h": "m³/h", "_m": "m", "_mm": "mm", "_cm2": "cm²", "_kg": "kg", "_c": "°C", "_k": "K"}


def unit_of(pointer: str) -> str:
    """The unit in which a decision is kept, by the end of its name, where the builder may have another for it; else empty."""
    return next((unit for end, unit in BY_NAME.items() if pointer.endswith(end)), "")


def as_builder_has_it(value: float, unit: str, units: Units | None = None) -> tuple[float, str]:
    """A value and its unit in the builder's units, by default those shown at present."""
    if (units or _shown_in.get()) == "metric" or unit not in CUSTOMARY:
        return value, unit
    shown, per, zero = CUSTOMARY[unit]
    return value * per + zero, shown


def write_quantity(value: float | str, unit: str) -> str:
    """A value with its unit as a sentence would say it, in the builder's units: 2.67 kWh, 0.86 mΩ, 15 %, 3 ft."""
    return _written(value, unit, _shown_in.get())


@lru_cache(maxsize=16_384)  # most figures of an answer are those of the answer before
def _written(value: float | str, unit: str, units: Units) -> str:
    if isinstance(value, str):
        return value
    value, unit = as_builder_has_it(value, unit, units)
    if unit == "ft" and abs(value) < LEAST_FEET:
        value, unit = value * 12, "in"
    if unit == "clock":
        return clock(value)
    if unit == "share":
        return told(value * 100, "%")
    if unit == "min":
        return duration(value / 60)
    if unit in ("V", "A") and 0 < abs(as_shown(value, unit)) < SMALL:
        return f"{significant(as_shown(value, unit) * 1000)} m{unit}"
    if unit in ("J/K", "J/°F") and abs(value) >= 1000:
        return f"{significant(value / 1000)} k{unit}"
    if unit in ("W", "Wh", "VA", "A") and abs(value) >= (1000 if unit != "A" else 1500):
        return f"{significant(value / 1000)} k{unit}"
    if unit == "money":
        return significant(value, max(3, len(str(int(abs(value))))))
    if unit == "Ω":
        return told(value * 1000, "mΩ")
    if unit == "ohm":
        return told(value, "Ω")
    if unit == "°C":
        return told(value, unit, 2 if abs(value) < 10 else 3)
    return told(value, unit)
