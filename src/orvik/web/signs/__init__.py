"""Signs: the sign book as a plate, and the column of map units."""

from orvik.web.signs import books, colours, conditions, draw, labels, plate, routes, themes, units

ROUTERS = (
    routes.router,
    plate.router,
    colours.router,
    labels.router,
    books.router,
    draw.router,
    themes.router,
    conditions.router,
    units.router,
    units.table,
)
