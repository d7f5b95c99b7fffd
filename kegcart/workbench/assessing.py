"""Assessments of documents, kept for a while. No models here: the processes for long work use it too."""

from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from pydantic_core import from_json, to_json

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import DesignError, read_design


class UnreadableError(Exception):
    """A stored document that this program cannot read, with the sentence that says why."""

    @classmethod
    def of(cls, error: DesignError) -> "UnreadableError":
        pointer, sentence = error.problems[0]
        return cls(sentence if pointer in ("", "/version") else f"{pointer}: {sentence}")


@lru_cache(maxsize=24)
def assessed_text(text: bytes, elsewhere: tuple[tuple[str, str], ...] = ()) -> Assessment:
    """The assessment of a stored document, written as JSON; kept, as the same decisions always give the same figures.

    Errors: UnreadableError.
    """
    try:
        design = read_design(from_json(text))
    except DesignError as error:
        raise UnreadableError.of(error) from None
    return assess(design, dict(elsewhere))


def assessed(document: dict[str, Any], elsewhere: Mapping[str, str] | None = None) -> Assessment:
    """The assessment of a stored document, and of its cells that other builds hold (label -> build). Errors: UnreadableError."""
    return assessed_text(to_json(document), tuple((elsewhere or {}).items()))
