"""What the bench can be asked by hand, and how it refuses: known to who only asks, without what works it out."""

from collections.abc import Mapping
from typing import Any, Final

FIELDS: Final[Mapping[str, Mapping[str, str]]] = {
    "joints": {"amps": "A", "drops": "mV"},
    "rise": {"around": "°C", "first": "°C", "second": "°C", "third": "°C", "every": "min", "watts": "W"},
    "sag": {"amps": "A", "rested": "V", "early": "V", "middle": "V", "late": "V"},
}
"""What is read of each kind, with its unit; of `drops` several, one for each joint of the same lug and stud."""
OPTIONAL: Final = ("watts",)
"""What may be left out."""


class CannotDialError(ValueError):
    """A fault that cannot be dialled in: which field, and why, as a sentence."""

    def __init__(self, field: str, why: str) -> None:
        super().__init__(why)
        self.field, self.why = field, why

    def __reduce__(self) -> tuple[Any, ...]:
        """It goes whole from one process to another."""
        return CannotDialError, (self.field, self.why)
