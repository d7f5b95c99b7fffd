"""Assessments of documents, kept for a while. No models here: the processes for long work use it too."""

from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from pydantic_core import from_json, to_json

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import read_design


@lru_cache(maxsize=24)
def assessed_text(text: bytes, elsewhere: tuple[tuple[str, str], ...] = ()) -> Assessment:
    """The assessment of a document, written as JSON; kept, as the same decisions always give the same figures."""
    return assess(read_design(from_json(text)), dict(elsewhere))


def assessed(document: dict[str, Any], elsewhere: Mapping[str, str] | None = None) -> Assessment:
    """The assessment of a stored document, and of its cells that other builds hold (label -> build)."""
    return assessed_text(to_json(document), tuple((elsewhere or {}).items()))
