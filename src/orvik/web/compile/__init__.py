"""Compile: the map and its pens, slips, custom kinds and the field notebook."""

from orvik.web.compile import kinds, linework, notebook, routes, slips

ROUTERS = tuple(room.router for room in (routes, slips, notebook, kinds, linework))
