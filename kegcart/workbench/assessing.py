"""Assessments of documents, kept for a while. No models here: the processes for long work use it too."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import lru_cache
from typing import Any

from pydantic_core import from_json, to_json

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import DesignError, read_design
from kegcart.core.units import shown_in


class UnreadableError(Exception):
    """A stored document that this program cannot read, with the sentence that says why."""

    @classmethod
    def of(cls, error: DesignError) -> "UnreadableError":
        pointer, sentence = error.problems[0]
        return cls(sentence if pointer in ("", "/version") else f"{pointer}: {sentence}")


Elsewhere = tuple[tuple[str, str], ...]
"""The cells of a design that other builds hold: label, name of that build."""


@lru_cache(maxsize=24)
def _assessed(text: bytes, elsewhere: Elsewhere) -> Assessment:
    try:
        design = read_design(from_json(text))
    except DesignError as error:
        raise UnreadableError.of(error) from None
    return assess(design, dict(elsewhere))


@contextmanager
def assessed_text(text: bytes, elsewhere: Elsewhere = ()) -> Iterator[Assessment]:
    """The assessment of a stored document, written as JSON; kept, as the same decisions always give the same figures. What is written
    meanwhile is in the units of its brief.

    Errors: UnreadableError.
    """
    assessment = _assessed(text, elsewhere)
    with shown_in(assessment.design.brief.units):
        yield assessment


@contextmanager
def assessed(document: dict[str, Any], elsewhere: Mapping[str, str] | None = None) -> Iterator[Assessment]:
    """As `assessed_text`, of a document, and of its cells that other builds hold (label -> build). Errors: UnreadableError."""
    with assessed_text(to_json(document), tuple((elsewhere or {}).items())) as assessment:
        yield assessment
