"""Proof: what is wrong with map and sheet, and the export."""

from orvik.web.proof import export_routes, notes, routes

ROUTERS = (routes.router, notes.router, export_routes.router)
