"""Makes reference values of geodesy and magnetic declination. Run by hand: pip install -r requirements-geodesy.txt, then
python make_geodesy.py."""

import itertools

from geographiclib.geodesic import Geodesic
from make import write
from pygeomag import GeoMag

LATITUDES = (-90, -89.9, -66.5, -33.3, -0.01, 0, 12.5, 47.25, 61.8, 78.2, 90)
LONGITUDES = (-180, -179.99, -71.4, 0, 8.6, 100.1, 179.99)
# How far the second point lies from the first, degrees of latitude and longitude.
STEPS = ((0.03, 0.05), (-0.2, 0.4), (0, 1.5), (1.1, 0))


def geodesic():
    """Distance and both bearings from every point of a world grid, over the poles and the date line too."""
    rows = []
    for latitude, longitude, (north, east) in itertools.product(LATITUDES, LONGITUDES, STEPS):
        far = (max(-90, min(90, latitude + north)), (longitude + east + 180) % 360 - 180)
        line = Geodesic.WGS84.Inverse(latitude, longitude, *far)
        rows.append((latitude, longitude, *map(repr, far), repr(line["s12"]), repr(line["azi1"] % 360), repr((line["azi2"] + 180) % 360)))
    heading = ("latitude_deg", "longitude_deg", "far_latitude_deg", "far_longitude_deg", "distance_m", "bearing_deg", "back_bearing_deg")
    write("geodesic.csv", "geographiclib 2.1, Geodesic.WGS84.Inverse", heading, rows)


def declination():
    """World Magnetic Model 2025 over a grid and five years; the blackout zones at the poles left out."""
    model = GeoMag(coefficients_file="wmm/WMM_2025.COF")
    rows = []
    for latitude, longitude, year in itertools.product((-60, -33.3, -0.01, 12.5, 47.25, 61.8, 70), LONGITUDES, (2025, 2026, 2028)):
        found = model.calculate(glat=latitude, glon=longitude, alt=0.1, time=year)
        rows.append((latitude, longitude, year, repr(found.d)))
    write("declination.csv", "pygeomag 1.1.0, WMM2025, 100 m, 1 January", ("latitude_deg", "longitude_deg", "year", "declination_deg"), rows)


if __name__ == "__main__":
    geodesic()
    declination()
