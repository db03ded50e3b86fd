"""Symbols: the symbol book as a plate, and the column of map units."""

from orvik.web.symbols import books, colours, conditions, draw, emphases, labels, plate, routes, units

ROUTERS = (
    routes.router,
    plate.router,
    colours.router,
    labels.router,
    books.router,
    draw.router,
    emphases.router,
    conditions.router,
    units.router,
    units.table,
)
