"""Proof: what is wrong with map and sheet, and the ways out."""

from orvik.web.proof import notes, put_out, routes

ROUTERS = (routes.router, notes.router, put_out.router)
