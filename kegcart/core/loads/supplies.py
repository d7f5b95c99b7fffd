"""The supplies on which a load can run, and all that is the same for every load on one of them."""

from dataclasses import dataclass
from functools import cache
from typing import Literal, assert_never, get_args

from kegcart.core.figure import Figure
from kegcart.core.reference import assumption

Supply = Literal["ac", "dc_12v", "usb", "pack"]
Direct = Literal["dc_12v", "usb", "pack"]


@dataclass(frozen=True, slots=True)
class SupplyFacts:
    """short: as a narrow column says it. label: as a sentence says it. means: what stands at the load; `{source}` is the pack or bank. fed: how a load is fed by it,
    in words. outlet: what its outlet is called. eta_key: the assumption of the efficiency of the converter between pack and socket;
    empty where there is none, or where it is an inverter with a curve of its own."""

    short: str
    label: str
    means: str
    fed: str
    outlet: str
    eta_key: str


def facts_of(supply: Supply) -> SupplyFacts:
    """What is the same for every load on a supply."""
    match supply:
        case "ac":
            return SupplyFacts("AC", "AC", "mains voltage, made by an inverter", "with AC", "AC outlet", "")
        case "dc_12v":
            return SupplyFacts(
                "12 V steady",
                "regulated 12 V",
                "12 V that a converter keeps, however full the pack is",
                "from regulated 12 V",
                "12 V outlet",
                "converter_eta",
            )
        case "usb":
            return SupplyFacts("USB", "USB", "5 V and more, made by USB modules", "from USB", "USB outlet", "usb_eta")
        case "pack":
            return SupplyFacts(
                "pack",
                "straight from the pack",
                "the voltage of {source} itself, as it falls and rises",
                "straight from the pack",
                "Pack-voltage outlet",
                "",
            )
    assert_never(supply)


SUPPLIES: dict[Supply, SupplyFacts] = {supply: facts_of(supply) for supply in get_args(Supply)}


def conversion(supply: Supply) -> Figure:
    """The efficiency between pack and socket, inverter apart.

    Source: typical of makers' sheets (assumptions table).
    """
    key = SUPPLIES[supply].eta_key
    return assumption(key) if key else Figure.of("η", 1.0, "share", "straight from the pack", how="nothing is converted")


@cache
def efficiency(supply: Supply) -> float:
    """The bare value of `conversion`, for sums over the steps of a day."""
    return conversion(supply).number
