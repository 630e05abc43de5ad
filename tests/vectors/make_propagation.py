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


if __name__ == "__main__":
    building_entry()
    rural_macro()
