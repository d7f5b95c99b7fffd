"""What instruments are asked, and their answers read: lines of text, whatever the instrument."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from math import isfinite

from kegcart.core.reference.bench import CLOCK, Ask, InstrumentType, instrument_types, meter_of

UNITS: Mapping[str, Mapping[str, float]] = {
    "V": {"v": 1.0, "vdc": 1.0, "vac": 1.0, "volt": 1.0, "volts": 1.0, "mv": 1e-3, "uv": 1e-6, "µv": 1e-6, "kv": 1e3},
    "A": {"a": 1.0, "adc": 1.0, "aac": 1.0, "amp": 1.0, "amps": 1.0, "ma": 1e-3, "ua": 1e-6, "µa": 1e-6, "ka": 1e3},
    "W": {"w": 1.0, "watt": 1.0, "watts": 1.0, "mw": 1e-3, "kw": 1e3},
    "°C": {"°c": 1.0, "c": 1.0, "degc": 1.0, "cel": 1.0},
    "s": {"s": 1.0, "sec": 1.0, "ms": 1e-3, "min": 60.0, "h": 3600.0},
}
"""Units as instruments write them, in lower case, by the unit that a channel is kept in. Milliwatts are no megawatts: no bench has those."""
FAHRENHEIT = ("°f", "f", "degf", "far")
BEYOND = 9.8e37
"""Instruments write 9.9E37 for beyond their range, and 9.91E37 for no number. Source: standard commands for programmable instruments."""
SHOWN = 40
"""So much of an answer is shown that could not be read."""
MOST_ANSWER = 4000
_VALUE = re.compile(r"([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d{1,3})?)\s*([^\d\s.,;][^\s,;]*)?")
_ONE_COMMA = re.compile(r"[-+]?\d+,\d+(?:[eE][-+]?\d{1,3})?\s*[^\d\s.,;]*")


class AnswerError(ValueError):
    """An answer that is none, with the sentence that says why."""


def unit_of(channel: str) -> str:
    """The unit that a channel is kept in."""
    return {"v": "V", "a": "A", "w": "W", "c": "°C", "s": "s"}[channel.rsplit(".", 1)[1]]


def known_channel(channel: str, cells: int, points: int) -> bool:
    """Whether a station with so many cells in series and parts on its main path has such a channel. A `*` stands for each number."""
    if channel == CLOCK:
        return True
    words = channel.split(".")
    number = words[1] if len(words) == 3 else ""
    most = {"cell": cells, "part": points}.get(words[0])
    if most is None:
        try:
            return bool(meter_of(channel)) and not number
        except KeyError:
            return False
    unit = {"cell": "v", "part": "c"}[words[0]]
    return len(words) == 3 and words[2] == unit and (number == "*" or (number.isdecimal() and 1 <= int(number) <= most))


def spelled_out(ask: Ask, cells: int, points: int) -> Ask:
    """A query for a station with so many cells in series and parts on its main path."""
    channels = list[str]()
    for channel in ask.channels:
        many = {"cell": cells, "part": points}.get(channel.split(".")[0], 0)
        channels += [channel.replace("*", str(n)) for n in range(1, many + 1)] if "*" in channel else [channel]
    return replace(ask, text=ask.text.replace("*", str(len(channels))), channels=tuple(channels))


def kind_named(name: str) -> InstrumentType | None:
    """The kind of an instrument by the name it gives; None where no kind is known by it. Of several the longest word tells."""
    said = name.lower()
    fitting = [kind for kind in instrument_types().values() if kind.known_by in said]
    return max(fitting, key=lambda kind: len(kind.known_by), default=None)


def read_answer(answer: str, ask: Ask) -> dict[str, float]:
    """The values of an answer by channel, each in the unit of its channel.

    A number may carry a unit of its own, which then counts. Errors: AnswerError.
    """
    text = answer.strip()
    if not text:
        raise AnswerError("it answers nothing")
    if len(ask.channels) == 1 and _ONE_COMMA.fullmatch(text):
        text = text.replace(",", ".")
    parts = [part.strip() for part in re.split(r"[,;]", text)]
    if len(parts) != len(ask.channels):
        if not all(_VALUE.fullmatch(part) for part in parts):
            raise AnswerError(f"it answers no number: {shown(answer)}")
        raise AnswerError(f"it gives {counted(len(parts))} where {len(ask.channels)} are asked: {shown(answer)}")
    return {channel: value_of(part, ask, channel) for part, channel in zip(parts, ask.channels, strict=True)}


def value_of(part: str, ask: Ask, channel: str) -> float:
    """One value of an answer. Errors: AnswerError."""
    found = _VALUE.fullmatch(part)
    if not found:
        raise AnswerError(f"it answers no number: {shown(part)}")
    value, unit = float(found[1]), (found[2] or "").lower()
    if abs(value) >= BEYOND or not isfinite(value):
        raise AnswerError("it is beyond its range")
    kept = unit_of(channel)
    if not unit:
        return converted(value * ask.scale, ask.unit.lower(), kept)
    return converted(value, unit, kept)


def converted(value: float, unit: str, kept: str) -> float:
    """A value of some unit in that of its channel. Errors: AnswerError, where it is of another kind."""
    if kept == "°C" and unit in FAHRENHEIT:
        return (value - 32) / 1.8
    scale = UNITS[kept].get(unit)
    if scale is None:
        raise AnswerError(f"it answers in {unit[:12]} where {kept} is asked")
    return value * scale


def another_unit(answer: str, ask: Ask) -> str:
    """The unit that an answer carries and that is another than what is asked for; empty where it is the same, or none."""
    found = _VALUE.fullmatch(re.split(r"[,;]", answer.strip())[0].strip())
    unit = (found[2] or "") if found else ""
    same = UNITS.get(ask.unit, {})
    return unit if unit and same.get(unit.lower()) != 1.0 else ""


def counted(many: int) -> str:
    """So many values, in words."""
    return "one value" if many == 1 else f"{many} values"


def shown(answer: str) -> str:
    """An answer as it may be shown: short, and without what cannot be printed."""
    clean = "".join(c if c.isprintable() else "·" for c in answer.strip())
    return f"'{clean[:SHOWN]}{'…' if len(clean) > SHOWN else ''}'"


def commands(acts: Mapping[str, str], act: str, value: float = 0.0) -> str:
    """The text by which an instrument is told to do something, its value put in. Errors: KeyError."""
    text = acts[act]
    return text.format(value) if "{" in text else text


def taken_twice(asked: Iterable[Sequence[Ask]]) -> list[list[Ask]]:
    """What each instrument is asked, without channels that one before it gives already."""
    taken: set[str] = set()
    out = []
    for asks in asked:
        kept = [ask for ask in asks if not set(ask.channels) & taken]
        for ask in kept:
            taken |= set(ask.channels) - {CLOCK}
        out.append(kept)
    return out
