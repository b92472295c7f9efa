#!/usr/bin/env python3
"""Motions under forces, for the step model: positions and velocities by SciPy's solve_ivp (DOP853, rtol 1e-12), and terminal speeds by fluids.

The terminal speed of a ball in air: fluids.v_terminal with the drag coefficient of a constant law is compared through k = rho*c_D*A/2.
Usage: step_model.py > crates/core/tests/fixtures/step_model.json
"""
import json
import math

import fluids
import numpy
import scipy
from scipy.integrate import solve_ivp

G = 9.80665


def motion(forces, mass, start, until):
    def derivative(t, s):
        x, y, vx, vy = s
        fx, fy = forces(t, x, y, vx, vy)
        return [vx, vy, fx / mass, fy / mass]

    times = numpy.linspace(0, until, 6)
    found = solve_ivp(derivative, (0, until), start, method="DOP853", rtol=1e-12, atol=1e-14, t_eval=times)
    return {"t": list(times), "x": list(found.y[0]), "y": list(found.y[1]), "v_x": list(found.y[2]), "v_y": list(found.y[3])}


def squared(k):
    def force(t, x, y, vx, vy):
        v = math.hypot(vx, vy)
        return -k * v * vx, -k * v * vy - 0.0043 * G
    return force


cases = {
    "dial": motion(squared(0.0125), 0.0043, [0, 3.8, 0, 0], 2.0),
    "thrown dial": motion(squared(0.002), 0.0043, [0, 1, 6, 5], 1.5),
    "spring": motion(lambda t, x, y, vx, vy: (0, -12.0 * (y - 0.5) - 0.3 * G - 0.2 * vy), 0.3, [0, 0.1, 0, 0], 3.0),
    "own": motion(lambda t, x, y, vx, vy: (0.4 * math.sin(3 * t) - 0.5 * x, 0), 0.2, [0.1, 0, 0, 0], 4.0),
}
# A ball in air, iterated with the drag coefficient of Barati's correlation; k at that speed.
d, rho_ball, rho, mu = 0.02, 200.0, 1.2, 1.8e-5
v = fluids.v_terminal(D=d, rhop=rho_ball, rho=rho, mu=mu)
cd = fluids.drag_sphere(Re=fluids.Reynolds(V=v, D=d, rho=rho, mu=mu))
area, volume = math.pi * d * d / 4, math.pi * d**3 / 6
terminal = {"mass": rho_ball * volume, "volume": volume, "density": rho, "k": 0.5 * rho * cd * area, "g": scipy.constants.g, "speed": v}
print(json.dumps({"made by": f"tools/reference/step_model.py, SciPy {scipy.__version__}, fluids {fluids.__version__}", "cases": cases, "terminal": terminal}, indent=1))
