#!/usr/bin/env python3
"""Period of a pendulum at large amplitude, T/T0 = (2/pi) K(m) with m = sin^2(theta0/2).

Source of the formula: Abramowitz and Stegun 17.3.1; NIST DLMF 19.2.8. Needs scipy.
Usage: elliptic.py > crates/core/tests/fixtures/elliptic.csv
"""
import math

import scipy
from scipy.special import ellipk

print(f"# tools/reference/elliptic.py, SciPy {scipy.__version__}")
print("release angle (deg),T/T0")
for degrees in (10, 45, 60, 80):
    ratio = 2 / math.pi * ellipk(math.sin(math.radians(degrees) / 2) ** 2)
    print(f"{degrees},{ratio:.15f}")
