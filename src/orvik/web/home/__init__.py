"""Home: the plan chest, and a new project."""

from orvik.web.home import routes

ROUTERS = (routes.router,)
