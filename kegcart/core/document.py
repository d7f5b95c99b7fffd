"""What every part of the design document shares."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel, BeforeValidator, ConfigDict

Value = str | int | bool


class Decisions(BaseModel):
    """A part of the document: unknown fields are an error, never dropped; numbers are finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


def few(most: int) -> BeforeValidator:
    """Refuses a collection of more than so many before each of them is looked at. Errors: ValueError."""

    def check(value: Any) -> Any:
        if isinstance(value, dict | list) and len(value) > most:
            raise ValueError(f"takes at most {most} (not {len(value)})")
        return value

    return BeforeValidator(check)


def member(names: frozenset[str], what: str) -> BeforeValidator:
    """A validator that takes only keys of a reference table."""

    def check(value: object) -> object:
        if not isinstance(value, str) or value not in names:
            raise ValueError(f"'{value}' is no known {what} (known: {', '.join(sorted(names))})")
        return value

    return BeforeValidator(check)


@dataclass(frozen=True, slots=True)
class Said:
    """The words for each value of a decision, in the order of the list it is chosen from.

    Stands beside the values in the model; a `Literal` without it is its own words.
    """

    words: tuple[tuple[Value, str], ...]


YES_NO = Said(((True, "yes"), (False, "no")))


def options_of(annotation: Any) -> tuple[tuple[Value, str], ...]:
    """The values and words that a decision of this type is chosen from; empty where it is not chosen from a list."""
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *metadata = get_args(annotation)
        return next((m.words for m in metadata if isinstance(m, Said)), ()) or options_of(inner)
    if origin in (Union, UnionType):
        return next(filter(None, (options_of(a) for a in get_args(annotation))), ())
    if origin is Literal:
        return tuple((value, str(value)) for value in get_args(annotation))
    return ()


@cache
def choices(model: type[BaseModel]) -> dict[str, tuple[tuple[Value, str], ...]]:
    """By field of a model, what it is chosen from. Fields that tell one form from another (a single value) are none."""
    out = {}
    for name, field in model.model_fields.items():
        said = next((m.words for m in field.metadata if isinstance(m, Said)), ())
        options = said or options_of(field.annotation)
        if len(options) > 1:
            out[name] = options
    return out


def choices_at(model: type[BaseModel], path: str) -> tuple[tuple[Value, str], ...]:
    """What a field of a model, or of a model within it, is chosen from: `run/sheathed`. Errors: KeyError where there is no such field."""
    *within, name = path.split("/")
    for step in within:
        model = next(models_in(model.model_fields[step].annotation))
    return choices(model).get(name, ())


def models_in(annotation: Any) -> Iterator[type[BaseModel]]:
    """Every model within a type, outermost first; one that is met twice comes twice."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
        for field in annotation.model_fields.values():
            yield from models_in(field.annotation)
    for inner in get_args(annotation):
        yield from models_in(inner)


@dataclass(frozen=True, slots=True)
class Words:
    """What a kind is called: in a heading, in a sentence, in the list of what can be added, and as a new part's name."""

    title: str
    article: str
    add: str
    first_name: str


@dataclass(frozen=True, slots=True)
class FieldWords:
    """How a decision is asked for on the screen: `field` is one of the model.

    control: "quantity" (in `unit`), "numbers" (several of them), "hours" (stretches of the day), "choice" (of what the field of the model offers; `empty` says what null means), "flag"
        (`on` and `off` are what it sets), "feeder" (another part or bank), or "source" (of the charging).
    needs: a field that must be set for it to be asked. of_choice: a sized choice; it is asked only where that is one of `of_keys`.
    """

    field: str
    label: str
    control: Literal["quantity", "numbers", "hours", "choice", "flag", "feeder", "source"]
    unit: str = ""
    empty: str = ""
    on: str | bool = True
    off: str | bool = False
    needs: str = ""
    of_choice: str = ""
    of_keys: tuple[str, ...] = ()
