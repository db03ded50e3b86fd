"""Names for pairs of coordinates and for boxes, by what they count in."""

from __future__ import annotations

# Easting and northing, in the units of the project's coordinate system.
GroundXY = tuple[float, float]
# Longitude and latitude, in degrees from Greenwich.
LonLat = tuple[float, float]
# From the left edge and the top edge of the page, in millimetres.
PageXY = tuple[float, float]
# West, south, east and north, in the units of a coordinate system.
GroundBox = tuple[float, float, float, float]
# Left, top, right and bottom, in millimetres.
PageBox = tuple[float, float, float, float]
