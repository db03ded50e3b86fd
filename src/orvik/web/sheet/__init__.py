"""Sheet: the page and its parts."""

from orvik.web.sheet import aiming, hand, pages, parts, routes

ROUTERS = (routes.router, parts.router, aiming.router, hand.router, pages.router)
