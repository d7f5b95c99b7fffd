"""Loads: pasted, exported, and what their growth would break."""

from django.http import HttpRequest, HttpResponse
from ninja import Router

from kegcart.core.loads.table import read_loads, write_loads
from kegcart.core.whatif import with_growth
from kegcart.workbench import services
from kegcart.workbench.api.answers import answer, attached, effect_data, table_data
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import LoadTableOut, TextIn, WhatIfIn, WhatIfOut

router = Router(tags=["loads"])


@router.post("/loads/read", response={200: LoadTableOut, **BAD}, summary="How a pasted table of loads reads")
def read(request: HttpRequest, body: TextIn) -> HttpResponse:
    table = read_loads(body.text)
    return answer({**table_data(table.columns, table.problems), "loads": table.loads})


@router.get(
    "/designs/{design_id}/loads.csv", summary="The loads as CSV", openapi_extra={"responses": {200: {"description": "CSV"}}}
)
def export(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        watts = {key: d.watts.number for key, d in a.loads.demands.items()}
        text = "\ufeff" + write_loads(a.design.loads, watts)
    return attached(text, "text/csv; charset=utf-8", a.design.name, "loads.csv")


@router.post("/designs/{design_id}/what-if", response={200: WhatIfOut, **BAD}, summary="What if the loads grow by a share")
def what_if(request: HttpRequest, design_id: str, body: WhatIfIn) -> HttpResponse:
    with services.assessed_design(design_id) as before:
        effect = services.compared(before, with_growth(before, body.growth))
        return answer({"verdict": effect.verdict, **effect_data(effect)})
