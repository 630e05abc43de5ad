"""Makes reference values of propagation models. Run by hand: pip install -r requirements-propagation.txt, then python
make_propagation.py. Apart from make.py, because the library brings a large dependency.
"""

import itertools

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


if __name__ == "__main__":
    building_entry()
