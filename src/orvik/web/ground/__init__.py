"""Ground: coordinate system, scales, border, underlays and reference layers, and features imported."""

from orvik.web.ground import georeference, import_features, neighbours, relief, routes, stack, systems, underlays, views

ROUTERS = tuple(
    room.router
    for room in (routes, stack, systems, underlays, georeference, relief, views, import_features, neighbours)
)
