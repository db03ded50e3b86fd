"""Sheet: the page and its parts."""

from orvik.web.sheet import aiming, correlation, explanation, hand, pages, parts, routes

ROUTERS = (
    routes.router,
    parts.router,
    aiming.router,
    explanation.router,
    correlation.router,
    hand.router,
    pages.router,
)
