"""The path with its loads plugged in: what of it is known before pack and parts are sized."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.loads.sizing import Demand, LoadsSizing
from kegcart.core.power.kinds.inverter import inverter_needs
from kegcart.core.power.path.legs import choose_legs, is_split
from kegcart.core.power.path.network import Network, plug_in
from kegcart.core.power.path.parts import InverterNeed

if TYPE_CHECKING:
    from kegcart.core.power.document import PowerPath


@dataclass(frozen=True, slots=True)
class Wired:
    """plugged: loads by outlet. without_outlet: those that find none. legs: of the AC outlets, where the mains have two. asked: of
    every inverter.
    """

    network: Network
    plugged: dict[str, list[Demand]]
    without_outlet: list[Demand]
    legs: dict[str, str]
    asked: dict[str, InverterNeed]

    @classmethod
    def of(cls, path: "PowerPath", loads: LoadsSizing, brief: Brief, site: Site) -> "Wired":
        """The path of a design with its loads."""
        network = Network.of(path)
        plugged, without_outlet = plug_in(network, loads.demands, is_split(brief))
        legs = choose_legs(network, plugged, brief)
        return cls(network, plugged, without_outlet, legs, inverter_needs(network, plugged, legs, loads.day, site))
