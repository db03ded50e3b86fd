"""Compile: the map and its pens, slips, features as a table, custom kinds and the field notebook."""

from orvik.web.compile import kinds, linework, nets, notebook, planes, routes, sections, slips, table

ROUTERS = tuple(room.router for room in (routes, slips, notebook, kinds, linework, table, planes, nets, sections))
