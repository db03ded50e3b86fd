"""Compile: the map and its pens, slips, features as a table, custom kinds and the field notebook."""

from orvik.web.compile import kinds, linework, nets, notebook, planes, routes, sections, slips, table

_ROOMS = (routes, notebook, kinds, linework, table, planes, nets, sections)
ROUTERS = (*(room.router for room in _ROOMS), slips.on_map, slips.on_section)
