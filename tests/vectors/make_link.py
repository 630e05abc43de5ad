"""Posterior means and spreads of 50 made cases, by scikit-learn's Gaussian process regressor with a linear kernel.

    pip install -r requirements-link.txt && python make_link.py > link_posterior.csv

A case has up to 12 measurements of a quantity whose prior is a sum of up to 6 shared parts, each normal with spread 1: a
point is the weights that it has of each part. Rows: case, kind (0 measured, 1 asked), six weights, then the measured
residual and its noise, or the posterior's mean and spread.
"""
import csv
import sys

import numpy
from sklearn.gaussian_process import GaussianProcessRegressor
from sklearn.gaussian_process.kernels import DotProduct

PARTS = 6
random = numpy.random.default_rng(13)
out = csv.writer(sys.stdout, lineterminator="\n")
print("# scikit-learn GaussianProcessRegressor, DotProduct(sigma_0=0); see make_link.py")
out.writerow(["case", "kind", *[f"w{at}" for at in range(PARTS)], "value", "spread"])
for case in range(50):
    n = int(random.integers(1, 13))
    points = random.normal(0, 5, (n, PARTS)) * (random.random((n, PARTS)) < 0.7)
    noise = random.uniform(0.5, 4, n)
    residual = points @ random.normal(0, 1, PARTS) + random.normal(0, noise)
    asked = random.normal(0, 5, (4, PARTS)) * (random.random((4, PARTS)) < 0.7)
    kernel = DotProduct(sigma_0=0, sigma_0_bounds="fixed")
    fit = GaussianProcessRegressor(kernel, alpha=noise**2, optimizer=None).fit(points, residual)
    mean, spread = fit.predict(asked, return_std=True)
    for row, value, own in zip(points, residual, noise):
        out.writerow([case, 0, *[f"{x:.12g}" for x in row], f"{value:.12g}", f"{own:.12g}"])
    for row, value, own in zip(asked, mean, spread):
        out.writerow([case, 1, *[f"{x:.12g}" for x in row], f"{value:.12g}", f"{own:.12g}"])
