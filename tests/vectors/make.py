"""Makes the reference values in this folder. Run by hand: pip install -r requirements.txt, then python make.py.

The application never calls Python; the committed files are what the tests read.
"""

import csv
import itertools
import pathlib

import earfcn.convert
import nrarfcn
import numpy as np
import scipy
from scipy import stats

HERE = pathlib.Path(__file__).parent
ENDS_ONLY = 8


def write(name, source, heading, rows):
    with open(HERE / name, "w", newline="") as file:
        file.write(f"# {source}\n")
        out = csv.writer(file, lineterminator="\n")
        out.writerow(heading)
        out.writerows(rows)


def lte_channels():
    """Both ends and a few points of every LTE band the library knows."""
    rows = []
    for band in range(1, 89):
        try:
            first, last = nrarfcn.get_lte_earfcn_range(f"B{band}", "dl")
        except Exception:
            continue
        for earfcn in sorted({first, last, *np.linspace(first, last, ENDS_ONLY, dtype=int).tolist()}):
            rows.append((band, earfcn, f"{nrarfcn.get_frequency_by_lte_earfcn(earfcn):.1f}"))
    write("lte_channels.csv", "nrarfcn 2.6.0, get_frequency_by_lte_earfcn", ("band", "earfcn", "mhz"), rows)


def nr_channels():
    """Points over the whole raster, its three parts and their ends."""
    points = sorted({0, 1, 599999, 600000, 600001, 2016666, 2016667, 2016668, 3279165, *range(5, 3279165, 40009)})
    rows = [(n, f"{nrarfcn.get_frequency(n):.3f}") for n in points]
    write("nr_channels.csv", "nrarfcn 2.6.0, get_frequency", ("nr_arfcn", "mhz"), rows)


def lte_bands():
    """Ranges, uplink numbers and duplex mode of every LTE band the first library knows."""
    rows = []
    for band in range(1, 89):
        name = f"B{band}"
        try:
            down = nrarfcn.get_frequency_range(name, "dl")
            numbers = nrarfcn.get_lte_earfcn_range(name, "dl")
        except Exception:
            continue
        try:
            up = nrarfcn.get_frequency_range(name, "ul")
            up_numbers = nrarfcn.get_lte_earfcn_range(name, "ul")
        except Exception:
            up, up_numbers = ("", ""), ("", "")
        rows.append((band, *down, *numbers, *up, *up_numbers, nrarfcn.get_duplex_mode(name)))
    heading = ("band", "dl_low", "dl_high", "dl_first", "dl_last", "ul_low", "ul_high", "ul_first", "ul_last", "duplex")
    write("lte_bands.csv", "nrarfcn 2.6.0, get_frequency_range, get_lte_earfcn_range, get_duplex_mode", heading, rows)


def lte_channels_second():
    """The second library's own table, at both ends of each band it knows."""
    rows = []
    for row in earfcn.convert.bands:
        first = row["NDL_Min"]
        last = first + round((row["FDL_Hi"] - row["FDL_Low"]) * 10) - 1
        for number in (first, max(first, last)):
            mhz = row["FDL_Low"] + 0.1 * (number - first)
            rows.append((row["band"], number, f"{mhz:.1f}"))
    write("lte_channels_second.csv", "earfcn 0.0.3, its table of bands, F_low + 0.1 (N - N_offs)", ("band", "earfcn", "mhz"), rows)


def nr_bands():
    """Ranges and duplex mode of FR1 bands."""
    rows = []
    for band in range(1, 257):
        name = f"n{band}"
        try:
            mode = nrarfcn.get_duplex_mode(name)
        except Exception:
            continue
        down = nrarfcn.get_frequency_range(name, "dl")
        up = nrarfcn.get_frequency_range(name, "ul")
        plain = lambda pair: ["" if v == "N/A" else v for v in pair]
        rows.append((band, *plain(down), *plain(up), mode))
    write("nr_bands.csv", "nrarfcn 2.6.0, get_frequency_range, get_duplex_mode", ("band", "dl_low", "dl_high", "ul_low", "ul_high", "duplex"), rows)


def statistics():
    """Intervals of geometric means and of their ratios, on the logarithms."""
    draw = np.random.default_rng(20261124)
    rows = []
    for n, m in itertools.product((3, 4, 6, 9), (3, 5, 8)):
        a = np.round(np.exp(draw.normal(4.6, 0.25, n)), 3)
        b = np.round(np.exp(draw.normal(3.4, 0.4, m)), 3)
        own = stats.t.interval(0.90, n - 1, loc=np.log(a).mean(), scale=stats.sem(np.log(a)))
        welch = stats.ttest_ind(np.log(a), np.log(b), equal_var=False).confidence_interval(0.90)
        rows.append(
            (
                " ".join(map(str, a)),
                " ".join(map(str, b)),
                repr(float(np.median(a))),
                repr(float(stats.median_abs_deviation(a))),
                *(repr(float(np.exp(v))) for v in own),
                repr(float(stats.gmean(a) / stats.gmean(b))),
                repr(float(np.exp(welch.low))),
                repr(float(np.exp(welch.high))),
            )
        )
    heading = ("a", "b", "median", "mad", "own_low", "own_high", "ratio", "ratio_low", "ratio_high")
    source = f"scipy {scipy.__version__}: stats.t.interval, stats.ttest_ind(equal_var=False).confidence_interval(0.90), on logarithms"
    write("statistics.csv", source, heading, rows)


if __name__ == "__main__":
    lte_channels()
    nr_channels()
    lte_bands()
    lte_channels_second()
    nr_bands()
    statistics()
