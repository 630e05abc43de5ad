"""Vectors for the survey: UTM by pyproj 3.7.2, height-gain correction by proplib-p2108 (ITU-R P.2108-1 clause 3.1),
grid references by mgrs.

pip install -r requirements-survey.txt; python make_survey.py
"""

import itertools
import random
from importlib.metadata import version

from pyproj import Transformer

random.seed(5)


def utm():
    with open("utm.csv", "w", encoding="utf-8") as out:
        out.write(f"# pyproj {version('pyproj')}: Transformer.from_crs(4326, 32600 + zone or 32700 + zone)\n")
        out.write("latitude_deg,longitude_deg,zone,north,easting_m,northing_m\n")
        for index in range(180):
            latitude = random.uniform(-79, 83)
            zone = random.randint(1, 60)
            # Every third point lies in the neighbouring zone, as a tile's edge may.
            spread = 5.0 if index % 3 == 0 else 3.0
            longitude = -183 + 6 * zone + random.uniform(-spread, spread)
            longitude = (longitude + 180) % 360 - 180
            north = latitude >= 0
            code = (32600 if north else 32700) + zone
            x, y = Transformer.from_crs(4326, code, always_xy=True).transform(longitude, latitude)
            out.write(f"{latitude:.8f},{longitude:.8f},{zone},{int(north)},{x:.4f},{y:.4f}\n")


def p2108():
    from ITS.ITU.PSeries import P2108

    kinds = [P2108.ClutterType(number) for number in (1, 2, 3, 5, 6)]
    with open("p2108.csv", "w", encoding="utf-8") as out:
        out.write(f"# proplib-p2108 {version('proplib-p2108')}: HeightGainTerminalCorrectionModel(f, h, w_s, R, type)\n")
        out.write("kind,frequency_mhz,antenna_m,street_m,clutter_m,loss_db\n")
        cases = itertools.product(range(5), (0.7, 0.9, 1.8, 2.6, 3.0), (1.5, 4.0, 8.0, 9.9), (27.0,), (10.0, 15.0))
        for kind, ghz, antenna, street, clutter in cases:
            loss = P2108.HeightGainTerminalCorrectionModel(ghz, antenna, street, clutter, kinds[kind])
            out.write(f"{kind + 1},{ghz * 1000:.0f},{antenna},{street},{clutter},{loss:.6f}\n")



def mgrs():
    from mgrs import MGRS

    grid = MGRS()
    with open("mgrs.csv", "w", encoding="utf-8") as out:
        out.write(f"# mgrs {version('mgrs')} (GEOTRANS): toMGRS(latitude, longitude, MGRSPrecision=5)\n")
        out.write("latitude_deg,longitude_deg,mgrs\n")
        for _ in range(240):
            latitude, longitude = random.uniform(-79.9, 83.9), random.uniform(-179.9, 179.9)
            latitude, longitude = round(latitude, 7), round(longitude, 7)
            out.write(f"{latitude},{longitude},{grid.toMGRS(latitude, longitude)}\n")


utm()
p2108()
mgrs()
