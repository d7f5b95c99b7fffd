"""The design document: every decision of the builder, nothing derived.

Format `kegcart/design`; every change of its shape raises the version. Collections are objects keyed by id, so that a
JSON pointer names the same thing for good. A sized choice is null (auto) or the pinned value.
"""

from hashlib import sha256
from typing import Any, Final, Literal

import jsonpatch
import jsonpointer
from pydantic import Field, ValidationError, model_validator
from pydantic_core import from_json, to_json

from kegcart.core.assembly.document import Assembly
from kegcart.core.bench.document import Bench
from kegcart.core.box.document import Enclosure
from kegcart.core.brief.document import Brief
from kegcart.core.charging.document import Charging
from kegcart.core.document import Decisions
from kegcart.core.finding import Station
from kegcart.core.loads.document import Loads
from kegcart.core.pack.document import CellPack, Pack
from kegcart.core.power.document import PowerPath
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Outlet
from kegcart.core.text import JsonError, Name, Remark
from kegcart.core.text import read_json as text_as_json
from kegcart.core.units import Units, as_builder_has_it, unit_of
from kegcart.core.upgrade import upgraded

FORMAT: Final = "kegcart/design"
VERSION: Final = 12
MAX_BYTES = 1_000_000


class Design(Decisions):
    """A whole design."""

    format: Literal["kegcart/design"] = FORMAT
    version: Literal[12] = VERSION
    name: Name
    notes: Remark = ""
    brief: Brief = Field(default_factory=Brief)
    loads: Loads = Field(default_factory=Loads)
    pack: Pack = Field(default_factory=CellPack)
    charging: Charging = Field(default_factory=Charging)
    power: PowerPath = Field(default_factory=PowerPath)
    box: Enclosure = Field(default_factory=Enclosure)
    assembly: Assembly = Field(default_factory=Assembly)
    bench: Bench = Field(default_factory=Bench)

    @model_validator(mode="after")
    def outlets_exist(self) -> "Design":
        """Errors: ValueError where a load names an outlet or a bank that is not there."""
        for key, load in self.loads.items.items():
            if load.bank not in (None, PACK, *self.power.banks):
                raise ValueError(f"load '{key}' is fed from '{load.bank}', which is neither the pack nor a further bank")
            if load.outlet is not None:
                node = self.power.network.get(load.outlet)
                if not isinstance(node, Outlet):
                    raise ValueError(f"load '{key}' is plugged into '{load.outlet}', which is no outlet of the power path")
        return self

    @model_validator(mode="after")
    def sources_exist(self) -> "Design":
        """Errors: ValueError where an input or outlet names a charging source that is not there, or that joins elsewhere already."""
        joins: dict[str, str] = {}
        for key, node in self.power.network.items():
            source = getattr(node, "source", None)
            if source is None:
                continue
            if source not in self.charging.sources:
                raise ValueError(f"'{key}' is charged by '{source}', which is no source of the charging")
            if source in joins:
                raise ValueError(f"'{key}' and '{joins[source]}' both name the source '{source}': it joins at one place")
            joins[source] = key
        return self


def begun(design: Design) -> list[Station]:
    """The stations at which something was decided; the bench has work once loads have a path."""
    parts: dict[Station, bool] = {
        "brief": design.brief != Brief(),
        "loads": bool(design.loads.items),
        "pack": design.pack != CellPack(),
        "charging": bool(design.charging.sources),
        "power": bool(design.power.network),
        "box": design.box.case is not None,
        "assembly": design.assembly != Assembly(),
        "bench": bool(design.loads.items and design.power.network),
    }
    return [station for station, decided in parts.items() if decided]


class DesignError(ValueError):
    """A design that cannot be read: `problems` are (JSON pointer, sentence) pairs."""

    def __init__(self, problems: list[tuple[str, str]]) -> None:
        super().__init__("; ".join(f"{pointer or '/'}: {text}" for pointer, text in problems))
        self.problems = problems

    def __reduce__(self) -> tuple[Any, ...]:
        """It goes whole from one process to another."""
        return DesignError, (self.problems,)


_SENTENCES = {
    "missing": "this is missing",
    "extra_forbidden": "this field is not known",
    "finite_number": "needs a finite number",
    "float_type": "needs a number",
    "int_type": "needs a whole number",
    "int_from_float": "needs a whole number",
    "string_type": "needs text",
    "bool_type": "needs true or false",
    "dict_type": "needs an object",
    "model_type": "needs an object",
    "model_attributes_type": "needs an object",
    "greater_than_equal": "this is at least {ge:.12g}",
    "greater_than": "this is more than {gt:.12g}",
    "less_than_equal": "this is at most {le:.12g}",
    "less_than": "this is less than {lt:.12g}",
    "string_too_short": "nothing is typed here",
    "string_too_long": "this is at most {max_length} characters long",
    "too_short": "needs at least {min_length}",
    "too_long": "takes at most {max_length}",
    "literal_error": "needs one of these: {expected}",
    "union_tag_invalid": "needs one of these: {expected_tags}",
    "union_tag_not_found": "the field {discriminator} is missing",
    "string_pattern_mismatch": "an id is lower-case letters, digits and hyphens, beginning with a letter, at most 40",
}

BOUNDS = ("greater_than_equal", "greater_than", "less_than_equal", "less_than")


MOST_PROBLEMS = 100
"""So many are told of a document; the rest shows when these are mended."""
TAGS = ("form", "part", "by", "kind", "at")
"""The fields by which one of several forms is told: of a pack, of a part of the path, of a measurement, of a charging source, of a place."""


def problems_of(error: ValidationError, root: Any) -> list[tuple[str, str]]:
    """What pydantic found, as (JSON pointer into `root`, sentence)."""
    out = []
    units: Units = "us" if isinstance(brief := root.get("brief"), dict) and brief.get("units") == "us" else "metric"
    for item in error.errors(include_url=False)[:MOST_PROBLEMS]:
        pointer, here, tagged = "", root, None
        for step in item["loc"]:
            if isinstance(here, dict) and here is not tagged and step in (here.get(tag) for tag in TAGS):
                tagged = here  # which form it is of comes before the first field: no step of the document
                continue
            if step == "[key]":
                continue
            pointer += "/" + str(step).replace("~", "~0").replace("/", "~1")
            here = here.get(step) if isinstance(here, dict) else None
        known = _SENTENCES.get(item["type"])
        shown = item["input"]
        context, unit = item.get("ctx", {}), ""
        if units == "us" and item["type"] in BOUNDS and (kept := unit_of(pointer)):
            own = {name: float(f"{as_builder_has_it(value, kept, units)[0]:.6g}") for name, value in context.items()}
            shown, unit = as_builder_has_it(shown, kept, units)
            context, shown, known = own, float(f"{shown:.6g}"), f"{known} {unit}"
        sentence = known.format(**context) if known else item["msg"].removeprefix("Value error, ")
        if isinstance(shown, str | int | float | bool) and item["type"] not in ("value_error", "missing"):
            written = (f"{shown:.12g}" if isinstance(shown, float) else str(shown)[:30]) + (unit and f" {unit}")
            sentence += f" (not {shown[:60]!r})" if isinstance(shown, str) else f" (not {written})"
        out.append((pointer, sentence[0].lower() + sentence[1:]))
    return out


def read_design(data: Any) -> Design:
    """A design from plain JSON data. Errors: DesignError with every problem's pointer and sentence."""
    if not isinstance(data, dict):
        raise DesignError([("", "a design is a JSON object")])
    if data.get("format") != FORMAT:
        raise DesignError([("/format", f"this is not a design file: its format should be '{FORMAT}'")])
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise DesignError(
            [("/version", f"version {str(version)[:20]!r} is not known here: this program reads versions 1 to {VERSION}")]
        )
    if version > VERSION:
        later = f"this was made by a later version of the program: it is of version {str(version)[:20]}, and this one reads 1 to {VERSION}"
        raise DesignError([("/version", later)])
    data = upgraded(data)
    try:
        return Design.model_validate(data)
    except ValidationError as error:
        raise DesignError(problems_of(error, data)) from None


def read_json(text: str) -> Any:
    """Plain data from JSON text. Errors: DesignError naming line and column."""
    try:
        return text_as_json(text)
    except JsonError as error:
        raise DesignError([("", str(error))]) from None


def write_design(design: Design) -> dict[str, Any]:
    """The design as plain JSON data."""
    return design.model_dump(mode="json")


def digest_of(design: Design) -> str:
    """The SHA-256 of the file of a design, in hexadecimal: the same wherever it is written."""
    return sha256(to_json(write_design(design))).hexdigest()


def patch_between(before: dict[str, Any], after: dict[str, Any]) -> list[dict[str, Any]]:
    """The JSON Patch that makes one design document of another, tried out: where the short one fails, whole stations."""
    short: list[dict[str, Any]] = jsonpatch.make_patch(*unlike(before, after)).patch
    try:
        if jsonpatch.apply_patch(from_json(to_json(before)), short, in_place=True) == after:
            return short
    except (jsonpatch.JsonPatchException, jsonpatch.JsonPointerException, TypeError, ValueError, KeyError):
        pass
    gone = [{"op": "remove", "path": f"/{name}"} for name in before if name not in after]
    return gone + [
        {"op": "add", "path": f"/{name}", "value": value}
        for name, value in after.items()
        if name not in before or before[name] != value
    ]


def unlike(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """Two documents without the entries that are the same in both: what is left has the same patch, found at once."""
    old, new = {}, {}
    for name in {**before, **after}:
        was, value = before.get(name), after.get(name)
        if name in before and name in after:
            if was == value:
                continue
            if isinstance(was, dict) and isinstance(value, dict):
                was, value = unlike(was, value)
        if name in before:
            old[name] = was
        if name in after:
            new[name] = value
    return old, new


def patched(document: dict[str, Any], patch: list[dict[str, Any]]) -> Design:
    """The design that a JSON Patch makes of a document. Errors: DesignError with the pointer of the operation."""
    whole = to_json(document)
    out: Any = from_json(whole)  # a copy: several times as fast as deepcopy
    room = MAX_BYTES - len(whole)
    for operation in patch:
        pointer = str(operation.get("path", ""))
        try:
            room -= brought(out, operation)
            if room < 0:
                raise DesignError([(pointer, f"with this the design would be larger than {MAX_BYTES // 1000} kB, which none is")])
            out = jsonpatch.apply_patch(out, [operation], in_place=True)
        except jsonpatch.JsonPatchTestFailed:
            raise DesignError([(pointer, "the value here is not what the patch expected")]) from None
        except (jsonpatch.JsonPatchException, jsonpatch.JsonPointerException) as error:
            raise DesignError([(pointer, f"the patch cannot be applied: {str(error)[:120]}")]) from None
        except DesignError:
            raise
        except (TypeError, ValueError, KeyError, IndexError, AttributeError, RecursionError):
            raise DesignError([(pointer, "the patch cannot be applied here")]) from None
    return read_design(out)


def brought(document: Any, operation: dict[str, Any]) -> int:
    """How many bytes an operation brings into a document, at most."""
    if operation["op"] == "copy":
        return len(to_json(jsonpointer.resolve_pointer(document, str(operation["from"]))))
    return len(to_json(operation["value"])) if "value" in operation else 0
