"""Proof: the way out of a sheet."""

from orvik.web.proof import routes

ROUTERS = (routes.router,)
