"""Every kind of part of the power path. A new kind is a file beside this one, and a line in each of the two lists here."""

from typing import Annotated, Any

from pydantic import Field

from kegcart.core.power.fed import Fed
from kegcart.core.power.kinds.ac_breaker import AcBreaker, AcBreakerKind
from kegcart.core.power.kinds.base import Kind
from kegcart.core.power.kinds.busbar import Busbar, BusbarKind
from kegcart.core.power.kinds.converter import Converter, ConverterKind
from kegcart.core.power.kinds.fuse_block import FuseBlock, FuseBlockKind
from kegcart.core.power.kinds.input import Input, InputKind
from kegcart.core.power.kinds.inverter import Inverter, InverterKind
from kegcart.core.power.kinds.outlet import Outlet, OutletKind
from kegcart.core.power.kinds.plug import Plug, PlugKind
from kegcart.core.power.kinds.protection import Protection, ProtectionKind
from kegcart.core.power.kinds.selector import Selector, SelectorKind
from kegcart.core.power.kinds.switch import Switch, SwitchKind

Node = Annotated[
    Protection | Switch | Selector | Plug | Busbar | FuseBlock | Inverter | AcBreaker | Converter | Outlet | Input,
    Field(discriminator="part"),
]
#: The kinds by the `part` of their model, in the order in which they are offered.
KINDS: dict[str, Kind[Any]] = {
    kind.key: kind
    for kind in (
        ProtectionKind(),
        SwitchKind(),
        SelectorKind(),
        PlugKind(),
        BusbarKind(),
        FuseBlockKind(),
        InverterKind(),
        AcBreakerKind(),
        ConverterKind(),
        OutletKind(),
        InputKind(),
    )
}


def kind_of(node: Fed) -> Kind[Any]:
    """The kind of a part."""
    return KINDS[node.part]


__all__ = [
    "KINDS", "AcBreaker", "Busbar", "Converter", "FuseBlock", "Input", "Inverter", "Kind", "Node", "Outlet", "Plug", "Protection",
    "Selector", "Switch", "kind_of",
]  # fmt: skip
