"""Signs: the sign book as a plate, and the column of map units."""

from orvik.web.signs import routes, units

ROUTERS = (routes.router, units.router)
