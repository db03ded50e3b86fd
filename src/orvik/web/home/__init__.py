"""Home: the project folder, and a new project."""

from orvik.web.home import routes

ROUTERS = (routes.router,)
