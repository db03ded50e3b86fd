"""The guide: a chapter a stage, in the application."""

from orvik.web.guide import routes

ROUTERS = (routes.router,)
