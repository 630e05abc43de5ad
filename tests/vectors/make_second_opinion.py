"""A second opinion on whole paths: median basic transmission loss by the Irregular Terrain Model (itmlogic 1.2), point to point, on 40
invented profiles of 3 to 20 km.

    pip install -r requirements-second-opinion.txt && python make_second_opinion.py > second_opinion.csv

Average ground (relative permittivity 15, 5 mS/m), continental temperate climate, surface refractivity 301, vertical
polarisation, half of time, places and situations.
"""
import csv
import math
import sys

import numpy
from itmlogic.preparatory_subroutines.qlrpfl import qlrpfl
from itmlogic.statistics.avar import avar

GROUND = {"eps": 15.0, "sgm": 0.005, "ens0": 301.0, "klim": 5, "klimx": 0, "mdvarx": 11, "mdvar": 12, "lvar": 5, "kwx": 0, "gma": 157e-9}


def loss_db(mhz, step_m, heights_m, first_m, last_m):
    points = len(heights_m)
    prop = dict(GROUND, fmhz=mhz, ipol=1, hg=[first_m, last_m], pfl=[points - 1, step_m, *heights_m])
    middle = heights_m[3 + int(0.1 * points) : points - int(0.1 * points)]
    prop["ens"] = prop["ens0"] * math.exp(-(sum(middle) / len(middle)) / 9460)
    prop["wn"] = mhz / 47.7
    prop["gme"] = prop["gma"] * (1 - 0.04665 * math.exp(prop["ens"] / 179.3))
    permittivity = complex(prop["eps"], 376.62 * prop["sgm"] / prop["wn"])
    prop["zgnd"] = numpy.sqrt(permittivity - 1) / permittivity
    prop = qlrpfl(prop)
    free = 20 * math.log10(2 * prop["wn"] * prop["dist"])
    more, prop = avar(0.0, 0.0, 0.0, prop)
    return free + more


random = numpy.random.default_rng(17)
out = csv.writer(sys.stdout, lineterminator="\n")
print("# itmlogic 1.2: qlrpfl and avar(0, 0, 0), average ground, climate 5, N 301, vertical; see make_second_opinion.py")
out.writerow(["mhz", "first_above_m", "last_above_m", "step_m", "heights_m", "loss_db"])
for case in range(40):
    distance = random.uniform(3000, 20000)
    points = 101
    at = numpy.linspace(0, 1, points)
    heights = 200 + random.uniform(0, 60) * numpy.sin(2 * math.pi * at * random.uniform(0.3, 2) + random.uniform(0, 6))
    heights = heights + numpy.cumsum(random.normal(0, random.choice([0.3, 1.5, 4.0]), points))
    if case % 3 == 2:
        heights = heights + random.uniform(20, 150) * numpy.exp(-(((at - random.uniform(0.2, 0.8)) / 0.05) ** 2))
    heights = [int(one) for one in numpy.round(numpy.maximum(heights, 0))]
    mhz = float(random.choice([700, 806, 1800, 2600, 3550]))
    first, last = float(random.choice([3.0, 6.0, 10.0])), float(random.choice([25.0, 40.0, 60.0]))
    loss = loss_db(mhz, distance / (points - 1), heights, first, last)
    out.writerow([mhz, first, last, f"{distance / (points - 1):.3f}", " ".join(map(str, heights)), f"{loss:.6f}"])
