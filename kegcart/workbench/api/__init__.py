"""The API at /api, with its documentation at /api/docs."""

from ninja import NinjaAPI

from kegcart.workbench.api import bench, designs, errors, loads, pack, power, rack, reference
from kegcart.workbench.api.body import StrictParser

api = NinjaAPI(
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
api.add_router("", reference.router)
errors.install(api)
