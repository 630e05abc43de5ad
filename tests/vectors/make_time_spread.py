"""How hourly medians of a path's loss scatter over a year below their median: the standard deviation that the Irregular Terrain Model
takes in a continental temperate climate (itmlogic 1.2, `avar`, sgtm).

    pip install -r requirements-second-opinion.txt && python make_time_spread.py > time_spread.csv
"""
import csv
import sys

from itmlogic.statistics.avar import avar

out = csv.writer(sys.stdout, lineterminator="\n")
print("# itmlogic 1.2: avar, climate 5, sgtm; see make_time_spread.py")
out.writerow(["mhz", "distance_m", "first_above_m", "last_above_m", "spread_db"])
for mhz in [700.0, 1800.0, 3550.0]:
    for distance_m in [500.0, 2000.0, 5000.0, 10000.0, 20000.0, 40000.0, 80000.0]:
        for first_m, last_m in [(3.0, 25.0), (10.0, 60.0)]:
            prop = {
                "lvar": 5, "klim": 5, "mdvar": 12, "kwx": 0, "wn": mhz / 47.7, "he": [first_m, last_m], "dist": distance_m, "dh": 90.0,
                "aref": 0.0,
            }
            _, prop = avar(0.0, 0.0, 0.0, prop)
            out.writerow([mhz, distance_m, first_m, last_m, f"{prop['sgtm']:.6f}"])
