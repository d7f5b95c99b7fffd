"""The API at /api, with its documentation at /api/docs."""

from typing import Any

from ninja import NinjaAPI
from ninja.errors import ValidationError, ValidationErrorContext

from kegcart.workbench.api import (
    assembly,
    bench,
    box,
    designs,
    errors,
    life,
    loads,
    pack,
    photos,
    power,
    rack,
    record,
    reference,
    runs,
)
from kegcart.workbench.api.body import StrictParser


class Api(NinjaAPI):
    def validation_error_from_error_contexts(self, error_contexts: list[ValidationErrorContext[Any]]) -> ValidationError:
        made = super().validation_error_from_error_contexts(error_contexts)
        # What a validator raised leads over its traceback to the frame that holds this list, and so back to itself, by a way
        # that the collector cannot see (pydantic's errors are not its own): emptied, or each refused request stays in memory.
        error_contexts.clear()
        return made


api = Api(
    title="Keg Cart",
    version="1",
    description="Design, build and test a portable power station. Every figure with its working.",
    parser=StrictParser(),
)
api.add_router("/designs", designs.router)
api.add_router("/designs", bench.router)
api.add_router("/rack", rack.router)
api.add_router("", loads.router)
api.add_router("", pack.router)
api.add_router("", power.router)
api.add_router("", box.router)
api.add_router("", assembly.router)
api.add_router("", record.router)
api.add_router("", runs.router)
api.add_router("", life.router)
api.add_router("", photos.router)
api.add_router("", reference.router)
errors.install(api)
