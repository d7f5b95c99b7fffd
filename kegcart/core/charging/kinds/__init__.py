"""Every kind of charging source. A new kind is a file beside this one, and a line in each of the two lists here."""

from typing import Annotated, Any

from pydantic import Field

from kegcart.core.charging.kinds.base import ChargingSource, SourceKind
from kegcart.core.charging.kinds.by_hour import ByHour, ByHourKind
from kegcart.core.charging.kinds.mains import MainsCharger, MainsKind
from kegcart.core.charging.kinds.solar import SolarArray, SolarKind
from kegcart.core.charging.kinds.station import AnotherStation, StationKind
from kegcart.core.charging.kinds.step_down import StepDown, StepDownKind
from kegcart.core.charging.kinds.vehicle import Vehicle, VehicleKind

AnySource = Annotated[MainsCharger | SolarArray | Vehicle | StepDown | ByHour | AnotherStation, Field(discriminator="kind")]
#: The kinds by the `kind` of their model, in the order in which they are offered.
SOURCE_KINDS: dict[str, SourceKind[Any]] = {
    kind.key: kind for kind in (MainsKind(), SolarKind(), VehicleKind(), StepDownKind(), ByHourKind(), StationKind())
}


def source_kind(source: ChargingSource) -> SourceKind[Any]:
    """The kind of a source."""
    return SOURCE_KINDS[source.kind]


__all__ = [
    "SOURCE_KINDS", "AnotherStation", "AnySource", "ByHour", "ChargingSource", "MainsCharger", "SolarArray", "SourceKind", "StepDown",
    "Vehicle", "source_kind",
]  # fmt: skip
