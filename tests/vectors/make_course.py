"""First steady step of rates by MSER-5: pymser 1.0.22 (requirements-course.txt).

python make_course.py > course.csv
"""

import numpy as np
import pymser

rng = np.random.default_rng(20)
print("# pymser 1.0.22, MSER with batches of five; made by make_course.py")
print("steady_from,rates")
made = 0
while made < 40:
    length = int(rng.integers(60, 140))
    ramp = rng.uniform(0, 4)
    level = rng.uniform(5, 400)
    time = np.arange(length) / 10
    noise = np.zeros(length)
    for at in range(1, length):
        noise[at] = 0.6 * noise[at - 1] + rng.normal(0, 0.12)
    rates = np.round(level * (1 - np.exp(-time / max(ramp / 3, 0.01))) * np.exp(noise), 2)
    curve = pymser.calculate_MSEm(rates, batch_size=5)
    first = int(pymser.MSERm_index(curve, batch_size=5))
    # Beyond the half nothing is truncated here.
    if first > (length // 5) // 2 * 5:
        continue
    made += 1
    print(f"{first}," + " ".join(str(rate) for rate in rates))
