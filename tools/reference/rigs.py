#!/usr/bin/env python3
"""Flights and falls with drag by SciPy, and falling spheres by the package fluids.

* Equations of the flights: m a = m g - rho V g + F_push - 1/2 rho c A |v| v, A = pi d^2 / 4, V = pi d^3 / 6 (S. F. Hoerner, Fluid-Dynamic Drag, 1965, 1-9),
  integrated by solve_ivp with DOP853 at rtol = 1e-12, atol = 1e-13; landings by its own events.
* Pendulum with air: theta'' = -(g/L) sin theta - (rho c A L / 2m) |theta'| theta'.
* Load on a spring with mass: the spring as a chain of many masses (eigh_tridiagonal, Richardson from 40, 80 and 160 links), and
  with its slowest swing the damped load by solve_ivp, m_e x'' = -m_e omega^2 x - b x' with m_e = k / omega^2.
* Terminal speed and drag coefficient of spheres: fluids.v_terminal and fluids.drag.drag_sphere (Barati, Neyshabouri, Ahmadi,
  Powder Technology 257 (2014) 11), its default correlation; in oil at Reynolds numbers far below 1, Stokes' law.

Needs scipy, numpy and fluids. Usage: rigs.py > crates/core/tests/fixtures/rigs.json
"""
import json
import math

import fluids
import numpy as np
import scipy
from scipy.integrate import solve_ivp
from scipy.linalg import eigh_tridiagonal

TIGHT = {"method": "DOP853", "rtol": 1e-12, "atol": 1e-13}


def flight(s, pushed=None):
    """Samples (t, x, y, v_x, v_y) every half second, and the landing."""
    area = math.pi * s["diameter"] ** 2 / 4
    k = 0.5 * s["air density"] * s["shape"] * area / s["mass"]
    gravity = s["gravity"] * (1 - s["air density"] * math.pi * s["diameter"] ** 3 / 6 / s["mass"])
    push = np.array(pushed["force"]) / s["mass"] if pushed else np.zeros(2)

    def rate(t, y, on):
        speed = math.hypot(y[2], y[3])
        a = push * on
        return [y[2], y[3], -k * speed * y[2] + a[0], -k * speed * y[3] + a[1] - gravity]

    def floor(t, y, on):
        return y[1] if t > 1e-6 else 1.0

    floor.terminal, floor.direction = True, -1
    pieces = [(0.0, pushed["from"], 0.0), (pushed["from"], pushed["to"], 1.0), (pushed["to"], 60.0, 0.0)] if pushed else [(0.0, 60.0, 0.0)]
    y, samples = s["start"], []
    for begin, end, on in pieces:
        found = solve_ivp(rate, (begin, end), y, args=(on,), events=floor, dense_output=True, **TIGHT)
        last = found.t[-1]
        step = 0.5
        first = math.ceil(begin / step - 1e-9)
        samples += [[n * step, *found.sol(n * step)] for n in range(first, int(last / step + 1e-9) + 1) if n * step < last - 1e-9]
        y = found.y[:, -1]
        if found.status == 1:
            return {"settings": s, "pushed": pushed, "samples": samples, "landed": [last, y[0]]}
    raise SystemExit("does not land")


def thrown(speed, degrees, height, diameter, mass, shape, density, gravity):
    a = math.radians(degrees)
    start = [0.0, height, speed * math.cos(a), speed * math.sin(a)]
    return {"speed": speed, "angle": a, "height": height, "diameter": diameter, "mass": mass, "shape": shape,
            "air density": density, "gravity": gravity, "start": start}


throws = [flight(thrown(*t)) for t in [
    (12.0, 45, 0.0, 0.060, 0.150, 0.47, 1.204, 9.81),
    (45.0, 35, 2.0, 0.043, 0.046, 0.30, 1.204, 9.81),
    (30.0, 70, 0.0, 0.200, 0.100, 0.47, 1.204, 9.81),
    (25.0, -20, 60.0, 0.300, 0.100, 1.10, 1.204, 9.81),
    (55.0, 10, 10.0, 0.010, 2.000, 0.47, 65.0, 8.87),
]]

fallen = []
for height, vx, vy, diameter, mass, shape, pushed in [
    (200.0, 0.0, 0.0, 0.040, 0.0027, 0.47, None),
    (500.0, 12.0, 5.0, 0.120, 0.430, 0.47, {"force": [3.0, 1.5], "from": 1.0, "to": 3.5}),
    (900.0, -8.0, 0.0, 0.450, 80.0, 1.2, {"force": [-9.0, 300.0], "from": 2.0, "to": 9.0}),
]:
    s = {"height": height, "velocity x": vx, "velocity y": vy, "diameter": diameter, "mass": mass, "shape": shape,
         "air density": 1.204, "gravity": 9.81, "start": [0.0, height, vx, vy]}
    fallen.append(flight(s, pushed))


def swing(length, degrees, mass):
    brass, air, sphere = 8440.0, 1.204, 0.47
    radius = (3 * mass / (4 * math.pi * brass)) ** (1 / 3)
    drag = air * sphere * math.pi * radius**2 * length / (2 * mass)

    # From one turning point to the next, where drag changes its sign.
    samples, now, y, way = [], 0.0, [math.radians(degrees), 0.0], -1
    while now < 40:
        def rate(t, y, way):
            return [y[1], -9.81 / length * math.sin(y[0]) - drag * way * y[1] ** 2]

        def turn(t, y, way):
            return y[1] if t > now + 0.05 else way

        turn.terminal = True
        found = solve_ivp(rate, (now, 40), y, args=(way,), events=turn, dense_output=True, **TIGHT)
        samples += [[t, float(found.sol(t)[0])] for t in (5.0, 15.0, 27.5, 40.0) if now <= t <= found.t[-1]]
        now, y, way = found.t[-1], [found.y[0, -1], 0.0], -way
    return {"length": length, "angle": math.radians(degrees), "mass": mass, "samples": samples}


def slowest(load, stiffness, own, links):
    """omega of the slowest swing of a chain: links of stiffness links * k, half of each link's mass at either end."""
    masses = np.full(links, own / links)
    masses[-1] = load + own / links / 2
    springs = np.full(links, 2.0 * links * stiffness)
    springs[-1] = links * stiffness
    between = -links * stiffness / np.sqrt(masses[:-1] * masses[1:])
    return math.sqrt(eigh_tridiagonal(springs / masses, between, select="i", select_range=(0, 0))[0][0])


def bob(load, stiffness, own, damping, pull):
    omega = math.sqrt(stiffness / load)
    if own:
        # The error of a chain falls with the square of its links; more links lose digits in the eigenvalue.
        chains = [slowest(load, stiffness, own, n) for n in (40, 80, 160)]
        once = [fine + (fine - coarse) / 3 for coarse, fine in zip(chains, chains[1:])]
        omega = once[1] + (once[1] - once[0]) / 15
    fade = damping * omega**2 / stiffness
    found = solve_ivp(lambda t, y: [y[1], -omega**2 * y[0] - fade * y[1]], (0, 12), [pull, 0.0], dense_output=True, **TIGHT)
    samples = [[t, *map(float, found.sol(t))] for t in (0.25, 1.0, 3.5, 12.0)]
    return {"settings": {"load": load, "stiffness": stiffness, "spring mass": own, "damping": damping, "pull": pull}, "samples": samples}


# Brass, steel, wood and cork in air; steel, glass and amber in glycerol-like oils.
in_air = []
for diameter, density in [(0.010, 8440), (0.020, 700), (0.040, 240), (0.004, 7850)]:
    v = fluids.v_terminal(diameter, density, 1.204, 1.81e-5)
    reynolds = 1.204 * v * diameter / 1.81e-5
    in_air.append({"diameter": diameter, "density": density, "speed": v, "reynolds": reynolds, "shape": fluids.drag.drag_sphere(reynolds)})
in_oil = []
for diameter, density, viscosity, oil in [(0.001, 7850, 0.95, 960), (0.002, 2500, 1.41, 1260), (0.0015, 1070, 0.95, 960), (0.0005, 7850, 0.25, 900)]:
    v = fluids.v_terminal(diameter, density, oil, viscosity)
    in_oil.append({"diameter": diameter, "density": density, "viscosity": viscosity, "oil density": oil, "speed": v,
                   "reynolds": oil * v * diameter / viscosity})

everything = {
    "made by": f"tools/reference/rigs.py, SciPy {scipy.__version__}, NumPy {np.__version__}, fluids {fluids.__version__}",
    "throws": throws, "falls": fallen, "swings": [swing(1.2, 60, 0.4), swing(0.5, 25, 0.05)],
    # Without damping, little, critical to the last bit, and much more; springs without mass and with as much as the load.
    "bobs": [bob(0.2, 16.0, 0.025, 0.0, 0.05), bob(0.1, 16.0, 0.1, 0.05, 0.03), bob(0.5, 50.0, 0.0, 0.4, 0.05),
             bob(0.25, 16.0, 0.0, 4.0, 0.1), bob(0.4, 30.0, 0.06, 5.0, 0.08)],
    "in air": in_air, "in oil": in_oil,
}
# A line for each case.
parts = [f' "{name}": ' + (json.dumps(part) if isinstance(part, str) else "[\n  " + ",\n  ".join(map(json.dumps, part)) + "\n ]")
         for name, part in everything.items()]
print("{\n" + ",\n".join(parts) + "\n}")
