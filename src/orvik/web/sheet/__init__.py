"""Sheet: the page and its parts."""

from orvik.web.sheet import aiming, parts, routes

ROUTERS = (routes.router, parts.router, aiming.router)
