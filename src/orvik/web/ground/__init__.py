"""Ground: coordinate system, scales, border, underlays and reference layers, and features brought in."""

from orvik.web.ground import georeference, incoming, relief, routes, stack, systems, underlays, views

ROUTERS = tuple(room.router for room in (routes, stack, systems, underlays, georeference, relief, views, incoming))
