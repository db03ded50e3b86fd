"""Sheet: the page and its parts."""

from orvik.web.sheet import aiming, explanation, hand, pages, parts, routes

ROUTERS = (routes.router, parts.router, aiming.router, explanation.router, hand.router, pages.router)
