"""Makes reference values of propagation models. Run by hand: pip install -r requirements-propagation.txt, then python
make_propagation.py. Apart from make.py, because the library brings a large dependency.
"""

import itertools

import numpy as np
from astropy import units as u
from make import write
from pycraf import pathprof


def building_entry():
    """ITU-R P.2109-1 over frequency, elevation, share and both kinds of building."""
    kinds = {"traditional": pathprof.BuildingType.TRADITIONAL, "thermally_efficient": pathprof.BuildingType.THERM_EFF}
    rows = []
    for (name, kind), mhz, elevation, share in itertools.product(
        kinds.items(), (100, 700, 806, 1800, 2600, 3550, 6000, 28000), (0, 10, 45), (0.05, 0.25, 0.5, 0.75, 0.95)
    ):
        loss = pathprof.building_entry_loss(mhz / 1000 * u.GHz, elevation * u.deg, share * u.dimensionless_unscaled, kind)
        rows.append((name, mhz, elevation, share, repr(float(loss.value.squeeze()))))
    write("p2109.csv", "pycraf 2.1.0, pathprof.building_entry_loss", ("building", "mhz", "elevation_deg", "share", "loss_db"), rows)


def rural_macro():
    """TR 38.901 rural macro over a grid of frequencies, distances and heights."""
    rows = []
    for mhz, mast, terminal in itertools.product((700, 1800, 3550), (20, 35, 60), (1.5, 5, 10)):
        distances = np.array([10, 50, 200, 1000, 3000, 4900, 5000, 8000, 10000]) * u.m
        losses = pathprof.imt_rural_macro_losses(
            mhz / 1000 * u.GHz, distances, h_bs=mast * u.m, h_ue=terminal * u.m, W=20 * u.m, h=5 * u.m
        )
        los, nlos, prob = (np.asarray(getattr(part, "value", part), dtype=float) for part in losses)
        for at, distance in enumerate(distances.value):
            rows.append((mhz, mast, terminal, distance, repr(float(los[at])), repr(float(nlos[at])), repr(float(prob[at]))))
    heading = ("mhz", "mast_m", "terminal_m", "distance_m", "los_db", "nlos_db", "los_probability")
    write("rural_macro.csv", "pycraf 2.1.0, pathprof.imt_rural_macro_losses, W 20 m, h 5 m", heading, rows)


def ground(rng):
    """An invented profile: gentle land, hills or one ridge, whole metres."""
    points = int(rng.integers(12, 48))
    step = float(rng.choice([30, 90, 250]))
    at = np.arange(points)
    kind = rng.integers(0, 3)
    heights = 20 + 30 * rng.random() * np.sin(at / points * 6 * rng.random())
    if kind == 1:
        heights = heights + np.cumsum(rng.normal(0, 12, points))
    if kind == 2:
        heights = heights + 260 * rng.random() * np.exp(-(((at - points * (0.2 + 0.6 * rng.random())) / 3) ** 2))
    return step * at, np.round(np.maximum(heights, 0))


def diffraction():
    """Delta-Bullington (P.452-16 4.2) on invented profiles, 50 % of time, effective earth of delta N 39.25 (k 4/3)."""
    rng = np.random.default_rng(20261125)
    rows = []
    for _ in range(240):
        distances, heights = ground(rng)
        mhz = float(rng.choice([700, 806, 1800, 2600, 3550]))
        first, last = float(np.round(rng.uniform(1.5, 12), 1)), float(np.round(rng.uniform(10, 60), 1))
        losses = []
        for polarization in (0, 1):
            prop = pathprof.PathProp(
                mhz / 1000 * u.GHz, 290 * u.K, 1013 * u.hPa, 8 * u.deg, 61 * u.deg, 8.1 * u.deg, 61.1 * u.deg,
                first * u.m, last * u.m, float(distances[1]) * u.m, 50 * u.percent, polarization=polarization, version=16,
                delta_N=39.25 / u.km, N0=320 * u.dimensionless_unscaled, hprof_dists=distances / 1000 * u.km,
                hprof_heights=heights * u.m, hprof_bearing=0 * u.deg, hprof_backbearing=180 * u.deg,
            )
            losses.append(float(pathprof.loss_diffraction(prop)[0].value))
        rows.append((mhz, first, last, distances[1], " ".join(f"{h:.0f}" for h in heights), *map(repr, losses)))
    heading = ("mhz", "first_above_m", "last_above_m", "step_m", "heights_m", "horizontal_db", "vertical_db")
    write("diffraction.csv", "pycraf 2.1.0, pathprof.loss_diffraction, version 16, 50 %, delta N 39.25", heading, rows)


if __name__ == "__main__":
    building_entry()
    rural_macro()
    diffraction()
