"""Sheet: the page and its parts."""

from orvik.web.sheet import routes

ROUTERS = (routes.router,)
