"""What the bench refuses, with the reason: known to who only asks, without what works it out."""

from typing import Any


class CannotDialError(ValueError):
    """A fault that cannot be dialled in: which field, and why, as a sentence."""

    def __init__(self, field: str, why: str) -> None:
        super().__init__(why)
        self.field, self.why = field, why

    def __reduce__(self) -> tuple[Any, ...]:
        """It goes whole from one process to another."""
        return CannotDialError, (self.field, self.why)
