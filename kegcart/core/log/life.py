"""The life of a build, as it is recorded: use and recharge, faults and mends, what was replaced, measured and looked after, each on its day."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar, Final, Literal

from pydantic import BeforeValidator, Field, StringConstraints, TypeAdapter, ValidationError, ValidationInfo, field_validator

from kegcart.core.design import DesignError, problems_of
from kegcart.core.document import Decisions
from kegcart.core.power.kinds import KINDS
from kegcart.core.reference.visits import visit_types
from kegcart.core.table import read_date
from kegcart.core.text import JsonError, Printable, read_json
from kegcart.core.units import Charge, Energy, Resistance, Temperature, read_quantity

EARLIEST = date(2000, 1, 1)
MOST_TEXT = 500

What = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=MOST_TEXT), Printable]
Remark = Annotated[str, StringConstraints(strip_whitespace=True, max_length=MOST_TEXT), Printable]
Place = Annotated[str, StringConstraints(max_length=200), Printable]
"""JSON pointer of the part that it is about; empty: of the whole."""


def known_day(value: Any) -> Any:
    """A day from which records can be. Errors: ValueError."""
    day = read_date(value.strip()) if isinstance(value, str) else value
    if isinstance(day, date) and day < EARLIEST:
        raise ValueError(f"is before {EARLIEST.year}")
    return day


def known_visit(value: Any) -> Any:
    """Errors: ValueError where there is no such visit."""
    if value not in visit_types():
        raise ValueError(f"'{str(value)[:40]}' is no visit that is known (known: {', '.join(visit_types())})")
    return value


class Entry(Decisions):
    """What every entry has: the day it happened, and a remark."""

    title: ClassVar[str]
    """What it is called on the screen and in the table."""

    on: Annotated[date, BeforeValidator(known_day)]
    remark: Remark = ""


class UseEntry(Entry):
    """Energy that was taken out."""

    title = "use"
    kind: Literal["use"]
    energy_wh: Energy


class RechargeEntry(Entry):
    """Energy that was put in."""

    title = "recharge"
    kind: Literal["recharge"]
    energy_wh: Energy


class CapacityEntry(Entry):
    """A capacity test: Ah from full to the first cut-off, and the temperature of the cells."""

    title = "capacity"
    kind: Literal["capacity"]
    capacity_ah: Charge
    cell_c: Temperature = 25.0


class ResistanceEntry(Entry):
    """The pack's resistance at its posts, and the temperature of the cells."""

    title = "resistance"
    kind: Literal["resistance"]
    resistance_mohm: Resistance
    cell_c: Temperature = 25.0


class FaultEntry(Entry):
    """Something that went wrong."""

    title = "fault"
    kind: Literal["fault"]
    what: What
    place: Place = ""


class MendEntry(Entry):
    """Something that was mended; `fault` is the entry of the fault that it ends, where it was recorded."""

    title = "mend"
    kind: Literal["mend"]
    what: What
    place: Place = ""
    fault: Annotated[str, StringConstraints(max_length=40)] = ""


class SwapEntry(Entry):
    """A part or a cell replaced: what came out, and what went in."""

    title = "replaced"
    kind: Literal["swap"]
    place: Place = ""
    was: What
    now: What


class VisitEntry(Entry):
    """A visit that was made."""

    title = "visit"
    kind: Literal["visit"]
    visit: Annotated[str, BeforeValidator(known_visit)]


class PhotoEntry(Entry):
    """A photo: the digest of its file, its size in pixels, what it shows, and the act of the step that it was taken at."""

    title = "photo"
    kind: Literal["photo"]
    digest: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    width: Annotated[int, Field(ge=1, le=20_000)]
    height: Annotated[int, Field(ge=1, le=20_000)]
    what: Remark = ""
    place: Place = ""
    step: Annotated[str, StringConstraints(max_length=120)] = ""


MEASURED_IN: Final[Mapping[str, str]] = {"_ma": "mA", "_w": "W", "_v": "V", "_a": "A"}
"""The unit of a figure that is measured of a part, by the end of its field."""


def unit_measured(field: str) -> str:
    """The unit of a field that can be measured; empty where it can not be."""
    return next((unit for end, unit in MEASURED_IN.items() if field.endswith(end)), "")


def known_figures(value: Any) -> Any:
    """Figures as they stand in a table. Errors: ValueError."""
    try:
        return read_json(value) if isinstance(value, str) else value
    except JsonError:
        raise ValueError("is no JSON object") from None


def known_part(value: Any) -> Any:
    """Errors: ValueError where there is no such kind of part."""
    if value not in ("", *KINDS):
        raise ValueError(f"'{str(value)[:20]}' is no kind of part")
    return value


class MeasuredEntry(Entry):
    """A figure measured of a part of the power path, and what that part was then: its kind, its name, its figures as a design has them."""

    title = "measured"
    kind: Literal["measured"]
    place: Annotated[Place, Field(min_length=1)]
    field: Annotated[str, StringConstraints(min_length=1, max_length=40), Printable]
    value: Annotated[float, Field(ge=0, le=1e6)]
    part: Annotated[str, BeforeValidator(known_part)] = ""
    called: Annotated[str, StringConstraints(max_length=120), Printable] = ""
    figures: Annotated[
        dict[Annotated[str, Field(max_length=40)], bool | float | Annotated[str, Field(max_length=40)] | None],
        Field(max_length=12),
        BeforeValidator(known_figures),
    ] = Field(default_factory=dict)

    @field_validator("value", mode="before")
    @classmethod
    def in_its_unit(cls, value: Any, others: ValidationInfo) -> Any:
        """A value typed with any unit of its field. Errors: ValueError."""
        if isinstance(value, bool):
            raise ValueError("needs a number")
        return read_quantity(value, unit_measured(others.data.get("field", ""))) if isinstance(value, str) else value


class NoteEntry(Entry):
    """Anything else worth keeping: an idea, what was learned, or the reason for the changes of the design of that day."""

    title = "note"
    kind: Literal["note"]
    what: What
    of: Literal["", "change"] = ""


EntryKind = Literal["use", "recharge", "capacity", "resistance", "fault", "mend", "swap", "visit", "photo", "measured", "note"]
FORMS: Final[Mapping[EntryKind, type[Entry]]] = {
    "use": UseEntry,
    "recharge": RechargeEntry,
    "fault": FaultEntry,
    "mend": MendEntry,
    "swap": SwapEntry,
    "capacity": CapacityEntry,
    "resistance": ResistanceEntry,
    "measured": MeasuredEntry,
    "visit": VisitEntry,
    "photo": PhotoEntry,
    "note": NoteEntry,
}
"""The kinds of entries, as they are offered."""

AnyEntry = Annotated[
    UseEntry
    | RechargeEntry
    | CapacityEntry
    | ResistanceEntry
    | FaultEntry
    | MendEntry
    | SwapEntry
    | VisitEntry
    | PhotoEntry
    | MeasuredEntry
    | NoteEntry,
    Field(discriminator="kind"),
]
_READER: TypeAdapter[Any] = TypeAdapter(AnyEntry)


@dataclass(frozen=True, slots=True)
class Lived:
    """An entry as it stands in the log: the id it has there, its kind, its day, and its own fields."""

    item: str
    kind: EntryKind
    on: date
    data: Mapping[str, Any]


Life = list[Lived]
"""What a build has lived through, the oldest first."""


def read_entry(data: Mapping[str, Any], today: date) -> Entry:
    """An entry as it was typed. Errors: DesignError with every problem's pointer and sentence."""
    try:
        entry: Entry = _READER.validate_python(data)
    except ValidationError as error:
        raise DesignError(problems_of(error, data)) from None
    if entry.on > today:
        raise DesignError([("/on", f"{entry.on.isoformat()} is yet to come")])
    return entry


def stored_form(entry: Entry) -> dict[str, Any]:
    """An entry as plain JSON data, without its kind."""
    return entry.model_dump(mode="json", exclude={"kind"})


def lived(item: str, kind: EntryKind, data: Mapping[str, Any]) -> Lived:
    """An entry out of the store: it was read when it was stored, and is not again."""
    return Lived(item, kind, date.fromisoformat(data["on"]), data)


def of_kind(life: Iterable[Lived], *kinds: EntryKind) -> list[Lived]:
    """The entries of some kinds, in their order."""
    return [entry for entry in life if entry.kind in kinds]
