#!/usr/bin/env python3
"""Cars on tracks and planets on orbits by SciPy, and the binomial law of thrown discs.

* Tracks: scipy.interpolate.CubicSpline, natural, in the length of the chords; m a = -m g sin(phi) - sign(v) mu N with
  N = m (v^2 kappa + g cos(phi)), in the spline's own parameter, integrated by solve_ivp with DOP853 at rtol = 1e-12, atol = 1e-13, with
  an event at every turning point.
* Planets: r'' = -GM r / r^3 by the same; G M of the sun 1.3271244e20 m^3/s^2 (IAU 2015 resolution B3), au 149 597 870 700 m.
* Discs: scipy.stats.binom, in bins of at least ten expected of 10,000, and chi2.ppf(0.999).

Needs scipy and numpy. Usage: paths.py > crates/core/tests/fixtures/paths.json
"""
import json
import math

import numpy as np
import scipy
from scipy.integrate import solve_ivp
from scipy.interpolate import CubicSpline
from scipy.stats import binom, chi2

TIGHT = {"method": "DOP853", "rtol": 1e-12, "atol": 1e-13}
G = 9.81


def track(nodes, friction, speed, until, k):
    """Samples (t, x, y, v) every fifth of a second."""
    nodes = np.array(nodes)
    u = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(nodes, axis=0).T))])
    curve = CubicSpline(u, nodes, bc_type="natural")
    first, second = curve.derivative(), curve.derivative(2)

    def rate(t, y, way):
        (dx, dy), (ddx, ddy) = first(y[0]), second(y[0])
        r = math.hypot(dx, dy)
        normal = y[1] ** 2 * (dx * ddy - dy * ddx) / r**3 + G * dx / r
        assert normal > 0, "it leaves the track"
        return [y[1] / r, (-G * dy / r - way * friction * normal) / (1 + k)]

    def turns(t, y, way):
        return way * y[1]

    turns.terminal, turns.direction = True, -1
    t, y, way, samples = 0.0, [1e-12, max(speed, 1e-12)], 1.0, []
    while t < until:
        found = solve_ivp(rate, (t, until), y, args=(way,), events=turns, dense_output=True, **TIGHT)
        last = found.t[-1]
        samples += [[n * 0.2, *map(float, curve(found.sol(n * 0.2)[0])), float(found.sol(n * 0.2)[1])]
                    for n in range(math.ceil(t / 0.2 - 1e-9), int(last / 0.2 + 1e-9) + 1)]
        t, y, way = last, [found.y[0, -1], -way * 1e-12], -way
    return {"nodes": nodes.tolist(), "friction": friction, "speed": speed, "k": k, "samples": samples}


def planet(sun, at, v, days):
    """Samples (t in days, x, y in au, v_x, v_y in km/s)."""
    au, day, pull = 149597870700.0, 86400.0, 1.3271244e20 * sun
    scale = pull * day**2 / au**3

    def rate(t, y):
        r3 = math.hypot(y[0], y[1]) ** 3
        return [y[2], y[3], -scale * y[0] / r3, -scale * y[1] / r3]

    speed = au / day / 1e3
    start = [*at, v[0] / speed, v[1] / speed]
    found = solve_ivp(rate, (0.0, days[-1]), start, t_eval=days, **TIGHT)
    rows = [[float(t), float(y[0]), float(y[1]), float(y[2] * speed), float(y[3] * speed)] for t, y in zip(found.t, found.y.T)]
    return {"sun": sun, "at": at, "v": v, "samples": rows}


def discs(number, chance, throws):
    """Expected of 10,000 in bins, for what is left after some throws."""
    stays = (1 - chance) ** throws
    p = 1e4 * binom.pmf(np.arange(number + 1), number, stays)
    bins, low, sum_ = [], 0, 0.0
    for n, e in enumerate(p):
        sum_ += e
        if sum_ >= 10 and 1e4 - (sum(b[2] for b in bins) + sum_) >= 10:
            bins.append([low, n, float(sum_)])
            low, sum_ = n + 1, 0.0
    bins.append([low, number, float(1e4 - sum(b[2] for b in bins))])
    return {"number": number, "sides": round(1 / chance), "throws": throws, "bins": bins, "bound": float(chi2.ppf(0.999, len(bins) - 1))}


out = {
    "made by": f"tools/reference/paths.py, SciPy {scipy.__version__}, NumPy {np.__version__}",
    "tracks": [
        track([(0, 3), (3, 1.4), (6, 2.3), (9, 1.3), (12, 2.1), (15, 1.2)], 0.0, 0.0, 3.0, 0.0),
        track([(0, 3), (2, 1.1), (4, 0.3), (6, 1.1), (8, 3)], 0.08, 0.5, 8.0, 0.0),
        track([(0, 3), (2, 1.1), (4, 0.3), (6, 1.1), (8, 3.4)], 0.0, 0.0, 8.0, 0.4),
    ],
    "planets": [
        planet(1.0, [1.0, 0.0], [0.0, 29.78], [10.0, 100.0, 400.0]),
        planet(0.7, [2.0, 1.0], [-6.0, 9.0], [50.0, 300.0, 700.0]),
        planet(1.5, [0.5, -0.3], [10.0, 60.0], [5.0, 20.0, 60.0]),
        planet(1.0, [1.0, 0.0], [0.0, 48.0], [10.0, 100.0, 300.0]),
    ],
    "discs": [discs(100, 1 / 2, 1), discs(100, 1 / 2, 3), discs(200, 1 / 6, 4)],
}
parts = [f' "{name}": ' + (json.dumps(part) if isinstance(part, str) else "[\n  " + ",\n  ".join(map(json.dumps, part)) + "\n ]")
         for name, part in out.items()]
print("{\n" + ",\n".join(parts) + "\n}")
