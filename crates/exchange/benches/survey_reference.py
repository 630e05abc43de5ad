"""Times pycraf on profiles given as lines of distance:height in metres; prints microseconds a path."""

import sys
import time

import numpy as np
from astropy import units as u
from pycraf import pathprof

with open(sys.argv[1], encoding="utf-8") as lines:
    profiles = [np.array([[float(x) for x in pair.split(":")] for pair in line.split()]) for line in lines]


def one(profile):
    prop = pathprof.PathProp(
        1.815 * u.GHz, 290 * u.K, 1013 * u.hPa, 8 * u.deg, 61 * u.deg, 8.1 * u.deg, 61.1 * u.deg, 6 * u.m, 35 * u.m,
        float(profile[1, 0]) * u.m, 50 * u.percent, polarization=1, version=16, delta_N=39.25 / u.km,
        N0=320 * u.dimensionless_unscaled, hprof_dists=profile[:, 0] / 1000 * u.km,
        hprof_heights=profile[:, 1] * u.m, hprof_bearing=0 * u.deg, hprof_backbearing=180 * u.deg,
    )
    return pathprof.loss_diffraction(prop)


one(profiles[0])
began = time.perf_counter()
for profile in profiles:
    one(profile)
print((time.perf_counter() - began) / len(profiles) * 1e6)
