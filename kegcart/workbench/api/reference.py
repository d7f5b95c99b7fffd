"""Reference lists for the screen, and the published schema of the file format."""

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel

from kegcart.core.bench.run_file import RunFile
from kegcart.core.catalogue import CATALOGUE
from kegcart.core.charging.kinds import SOURCE_KINDS, SourceKind
from kegcart.core.charging.kinds.solar import MOST_IN_SERIES
from kegcart.core.design import Design
from kegcart.core.document import FieldWords, choices, choices_at, models_in
from kegcart.core.electrical.protection import lists_by_voltage
from kegcart.core.loads.supplies import SUPPLIES
from kegcart.core.log.file import file_schema
from kegcart.core.log.learned import measurable
from kegcart.core.measured import LABELS, UNITS
from kegcart.core.pack.forms import FORMS
from kegcart.core.pack.rack import limits_of
from kegcart.core.power.fed import Fed
from kegcart.core.power.kinds import KINDS, Kind
from kegcart.core.reference import (
    appliances,
    busbars,
    chemistries,
    connectors,
    controller_types,
    families,
    inverter_classes,
    load_kinds,
    sizes,
    wires,
)
from kegcart.core.reference.boxes import box_materials, fixture_materials, holds
from kegcart.core.reference.hardware import label_sheets
from kegcart.workbench.api.answers import answer
from kegcart.workbench.api.schemas import ApplianceOut, ReferenceOut
from kegcart.workbench.starts import STARTS

DRAFT = "https://json-schema.org/draft/2020-12/schema"
router = Router(tags=["reference"])
CHARGING_SIZES = ("charger", "vehicle-converter", "step-down")


def option(value: str | float | bool, label: str) -> dict[str, Any]:
    return {"value": value, "label": label}


def amps(values: tuple[float, ...]) -> list[dict[str, Any]]:
    return [option(v, f"{v:g} A") for v in values]


def lists() -> dict[str, list[dict[str, Any]]]:
    """Every list a choice is made from: sized ones by the name their figure gives, decisions as "Model.field"."""
    ratings = sorted({r for row in inverter_classes() for r in row.ratings_w})
    out = {
        "gauge": [option(w.key, w.key) for w in wires().values()],
        "busbar": [option(b.key, f"{b.key} mm") for b in sorted(busbars().values(), key=lambda b: b.ampacity_a)],
        "chemistry": [option(c.key, c.label) for c in chemistries().values()],
        "cell-chemistry": [option(c.key, c.label) for c in chemistries().values() if c.kind == "lithium"],
        "load-kind": [option(k.key, k.label) for k in load_kinds().values()],
        "pack-form": [option(key, form.names[key]) for key, form in FORMS.items()],
        **{f"family:{volts:g}": [option(f.key, f.label) for f in able] for volts, able in lists_by_voltage().items()},
        "inverter": [option(r, f"{r:g} W") for r in ratings],
        **{
            key: amps(sizes(key).sizes)
            for key in (
                "switch",
                "shunt",
                "board",
                "converter",
                "fuse-block",
                "ac-breaker-120",
                "ac-breaker-230",
                *CHARGING_SIZES,
            )
        },
        **{key: [option(v, f"{v:g} V") for v in sizes(key).sizes] for key in ("dc-voltage", "usb-voltage")},
        **{f"rating:{f.key}": amps(f.ratings_a) for f in families().values()},
    }
    for kind in ("mppt", "pwm"):
        out[f"controller:{kind}"] = [option(c.key, c.label) for c in controller_types().values() if c.type == kind]
    out["label-sheet"] = [option(sheet.key, sheet.label) for sheet in label_sheets().values()]
    out["in-series"] = [option(n, str(n)) for n in range(1, MOST_IN_SERIES + 1)]
    out["box-material"] = [option(m.key, m.label) for m in box_materials().values()]
    out["fixture-material"] = [option(m.key, m.label) for m in fixture_materials().values()]
    out["hold"] = [option(h.key, h.label) for h in holds().values()]
    for supply in SUPPLIES:
        out[f"connector:{supply}"] = [option(c.key, c.label) for c in connectors().values() if supply in c.supplies]
    for model in dict.fromkeys(models_in(Design)):
        out |= {f"{model.__name__}.{field}": listed(options) for field, options in choices(model).items()}
    return out


def listed(options: tuple[tuple[str | float | bool, str], ...]) -> list[dict[str, Any]]:
    return [option(value, label) for value, label in options]


def fields_of(model: type[BaseModel], fields: Iterable[FieldWords]) -> list[dict[str, Any]]:
    """How the decisions of a kind are asked for, each with what it is chosen from."""
    return [{**asdict(f), "options": listed(choices_at(model, f.field))} for f in fields]


def source_kind(kind: SourceKind[Any]) -> dict[str, Any]:
    """All that the screen asks of a kind of charging source."""
    words = kind.facts.words
    model: type[BaseModel] = kind.model
    return {
        "key": kind.key,
        "title": words.title,
        "add": words.add,
        "first_name": words.first_name,
        "fields": fields_of(model, kind.facts.fields),
    }


def part_kind(kind: Kind[Any]) -> dict[str, Any]:
    """All that the screen asks of a kind of part: its words, what feeds it, what is decided of it."""
    facts = kind.facts
    model: type[Fed] = kind.model
    return {
        "key": kind.key,
        "title": facts.words.title,
        "add": facts.words.add,
        "first_name": facts.words.first_name,
        "role": facts.role,
        "fed_by": sorted(facts.fed_by),
        "regulated": facts.regulated,
        "choices": [asdict(choice) for choice in facts.choices],
        "fields": fields_of(model, facts.fields),
        "has_negative": "negative" in kind.model.model_fields,
        "own": list(facts.own),
        "measured": list(measurable(kind.key)),
    }


@router.get("/reference", response=ReferenceOut, summary="Lists to choose from")
def reference(request: HttpRequest) -> HttpResponse:
    kinds = [
        {name: getattr(k, name) for name in ("key", "label", "surge", "surge_s", "power_factor", "steady")}
        for k in load_kinds().values()
    ]
    return answer(
        {
            "options": lists(),
            "kinds": kinds,
            "parts": [part_kind(kind) for kind in KINDS.values()],
            "sources": [source_kind(kind) for kind in SOURCE_KINDS.values()],
            "cell_limits": {name: limits_of(name)["maximum"] for name in ("capacity_ah", "resistance_mohm", "resting_v")},
            "supplies": [
                {"key": key, "short": facts.short, "label": facts.label, "means": facts.means, "outlet": facts.outlet}
                for key, facts in SUPPLIES.items()
            ],
            "starts": [asdict(start) for start in STARTS],
            "cells_12v": {key: row.cells_12v for key, row in chemistries().items()},
            "checks": {
                entry.id: {"title": entry.title, "requires": entry.requires, "source": entry.source}
                for entry in CATALOGUE.values()
            },
            "measurable": [{"key": key, "label": label, "unit": UNITS[key]} for key, label in LABELS.items()],
        }
    )


@router.get("/reference/appliances", response=list[ApplianceOut], summary="Typical appliances to start a load from")
def shelf_of_appliances(request: HttpRequest) -> HttpResponse:
    names = [
        "key",
        "label",
        "kind",
        "supply",
        "watts_low",
        "watts",
        "watts_high",
        "on_min",
        "off_min",
        "power_factor",
        "surge",
        "hours",
        "direct",
    ]
    return answer(
        [
            {**{name: getattr(a, name) for name in names}, "source": a.basis.source, "basis": a.basis.kind}
            for a in appliances().values()
        ]
    )


@router.get(
    "/schema/design.json",
    summary="JSON Schema of the design file",
    openapi_extra={"responses": {200: {"description": "A JSON Schema"}}},
)
def design_schema(request: HttpRequest) -> HttpResponse:
    return answer({"$schema": DRAFT, **Design.model_json_schema()})


@router.get(
    "/schema/build.json",
    summary="JSON Schema of the file of a build with its record",
    openapi_extra={"responses": {200: {"description": "A JSON Schema"}}},
)
def build_schema(request: HttpRequest) -> HttpResponse:
    return answer({"$schema": DRAFT, **file_schema()})


@router.get(
    "/schema/test.json",
    summary="JSON Schema of the file of a load test, as an archive has it",
    openapi_extra={"responses": {200: {"description": "A JSON Schema"}}},
)
def test_schema(request: HttpRequest) -> HttpResponse:
    return answer({"$schema": DRAFT, **RunFile.model_json_schema()})
