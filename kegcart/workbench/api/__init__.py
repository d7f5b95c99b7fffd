"""The API at /api, with its documentation at /api/docs."""

from ninja import NinjaAPI

from kegcart.workbench.api import bench, designs, errors, loads, pack, power, rack, reference

api = NinjaAPI(
    title="Keg Cart", version="1", description="Design, build and test a portable power station. Every figure with its working."
)
api.add_router("/designs", designs.router)
api.add_router("/designs", bench.router)
api.add_router("/rack", rack.router)
api.add_router("", loads.router)
api.add_router("", pack.router)
api.add_router("", power.router)
api.add_router("", reference.router)
errors.install(api)
