#!/usr/bin/env python3
"""A shaken wire by finite differences, and a moon's path by integration, with SciPy.

* Wire: F y'' + (mu w^2 - i mu gamma w) y = 0 with y(0) = A, y(L) = 0 on 40,000 intervals, central differences, by scipy.linalg.solve_banded;
  gamma = 4 /s, A = 0.3 mm. Samples: complex amplitude at a fifth, a half and four fifths of the length, in m.
* Moon: r'' = -GM r / r^3 with G M = 4 pi^2 a^3 / T^2 from the perigee, by solve_ivp with DOP853 at rtol = 1e-12. Samples: days, distance
  in m, direction from the perigee in rad.

Needs scipy and numpy. Usage: waves.py > crates/core/tests/fixtures/waves.json
"""
import json
import math

import numpy as np
import scipy
from scipy.integrate import solve_ivp
from scipy.linalg import solve_banded

G_N = 9.80665
DAY = 86400.0


def wire(load, density, length, frequency, n=40_000):
    tension, omega = load * G_N, 2 * math.pi * frequency
    h = length / n
    middle = np.full(n - 1, -2 * tension / h**2 + density * omega**2 - 1j * density * 4.0 * omega)
    beside = np.full(n - 1, tension / h**2, dtype=complex)
    right = np.zeros(n - 1, dtype=complex)
    right[0] = -tension / h**2 * 3e-4
    y = solve_banded((1, 1), np.array([beside, middle, beside]), right)
    at = [[x, y[round(x * n) - 1].real, y[round(x * n) - 1].imag] for x in (0.2, 0.5, 0.8)]
    return {"load": load, "density": density, "length": length, "frequency": frequency, "at": at}


def moon(axis, e, days):
    pull = 4 * math.pi**2 * axis**3 / (days * DAY) ** 2
    near = axis * (1 - e)
    v = math.sqrt(pull * (1 + e) / near)
    times = np.arange(0.7, 60, 4.3)
    made = solve_ivp(
        lambda t, y: [y[2], y[3], *(-pull * np.array(y[:2]) / math.hypot(y[0], y[1]) ** 3)],
        (0, times[-1] * DAY),
        [near, 0, 0, v],
        t_eval=times * DAY,
        method="DOP853",
        rtol=1e-12,
        atol=1e-6,
    )
    x, y = made.y[:2]
    at = [[t, math.hypot(a, b), math.atan2(b, a)] for t, a, b in zip(times.tolist(), x.tolist(), y.tolist())]
    return {"axis": axis, "e": e, "period": days, "at": at}


print(
    json.dumps(
        {
            "by": f"SciPy {scipy.__version__}, NumPy {np.__version__}",
            "wires": [
                wire(0.5, 1.54e-3, 1.2, 20.0),
                wire(0.5, 4.42e-3, 1.2, 41.7),
                wire(2.0, 9.8e-3, 0.5, 133.3),
                wire(0.05, 9.8e-3, 1.5, 12.4),
            ],
            "moons": [moon(3.844e8, 0.0549, 27.3217), moon(2.5e8, 0.4, 18.0), moon(6e8, 0.0, 55.0)],
        },
        indent=1,
    )
)
