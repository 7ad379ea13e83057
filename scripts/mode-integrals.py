#!/usr/bin/env python3
"""Integrals of products of membrane modes over devices' outlines, by SciPy's adaptive quadrature (QUADPACK).

Writes crates/ember-core/tests/reference/mode_integrals.json, which ember-core's test `mode_integrals` holds its own sums against. Needs
scipy; run from the project's root: python3 scripts/mode-integrals.py

Modes are J_m(j_mn r) cos or sin(m angle) on the unit disc, scaled so that their square averages to 1 over it; an integral is given as the
average over the whole disc, with the product taken as 0 outside of the outline. Angles in degrees from the player's side.
"""

import json
import math
from pathlib import Path

from scipy.integrate import dblquad
from scipy.special import jn_zeros, jv

MODES = [(0, 1, "cos"), (1, 1, "cos"), (1, 1, "sin"), (2, 1, "cos"), (2, 1, "sin"), (0, 2, "cos"), (3, 1, "cos"), (1, 2, "sin")]
OUTLINES = [
    {"shape": "disc", "radius": 0.85, "angle_deg": 180.0, "size": 0.098},
    {"shape": "disc", "radius": 0.5, "angle_deg": 60.0, "size": 0.1476},
    {"shape": "disc", "radius": 0.0, "angle_deg": 0.0, "size": 0.328},
    {"shape": "strip", "radius": 0.8, "angle_deg": 200.0, "length": 0.525, "width": 0.164},
    {"shape": "ring", "inner": 0.755, "outer": 0.985},
    {"shape": "ring", "inner": 0.33, "outer": 0.985},
    {"shape": "arc", "inner": 0.667, "outer": 0.833, "angle_deg": 100.0, "span_deg": 180.0},
    {"shape": "segment", "angle_deg": 180.0, "depth": 0.55},
    {"shape": "segment", "angle_deg": 30.0, "depth": 1.0},
]


def mode(m, n, member):
    zero = jn_zeros(m, n)[-1]
    average = jv(m + 1, zero) ** 2 * (1.0 if m == 0 else 0.5)
    turn = math.cos if member == "cos" else math.sin
    return lambda r, angle: jv(m, zero * r) * turn(m * angle) / math.sqrt(average)


def integral(outline, f, g):
    """Average over the unit disc of f g inside the outline."""
    polar = lambda angle, r: f(r, angle) * g(r, angle) * r

    def cartesian(y, x):
        r = math.hypot(x, y)
        if r > 1.0:
            return 0.0
        angle = math.atan2(y, x) + math.radians(outline["angle_deg"])
        return f(r, angle) * g(r, angle)

    quad = lambda *args: dblquad(*args, epsabs=1e-9, epsrel=1e-8)[0] / math.pi
    shape = outline["shape"]
    if shape == "ring":
        return quad(polar, outline["inner"], outline["outer"], 0.0, 2.0 * math.pi)
    if shape == "arc":
        middle, half = math.radians(outline["angle_deg"]), math.radians(outline["span_deg"]) / 2.0
        return quad(polar, outline["inner"], outline["outer"], middle - half, middle + half)
    if shape == "disc":
        centre, size = outline["radius"], outline["size"]
        half = lambda x: math.sqrt(max(size**2 - (x - centre) ** 2, 0.0))
        return quad(cartesian, centre - size, centre + size, lambda x: -half(x), half)
    if shape == "strip":
        centre, width, length = outline["radius"], outline["width"], outline["length"]
        return quad(cartesian, centre - width / 2, centre + width / 2, -length / 2, length / 2)
    half = lambda x: math.sqrt(max(1.0 - x * x, 0.0))
    return quad(cartesian, 1.0 - outline["depth"], 1.0, lambda x: -half(x), half)


def main():
    cases = []
    for outline in OUTLINES:
        rows = [[integral(outline, mode(*a), mode(*b)) if j <= i else None for j, b in enumerate(MODES)] for i, a in enumerate(MODES)]
        rows = [[rows[max(i, j)][min(i, j)] for j in range(len(MODES))] for i in range(len(MODES))]
        cases.append({"outline": outline, "integrals": [[round(x, 9) for x in row] for row in rows]})
    modes = [{"m": m, "n": n, "member": member} for m, n, member in MODES]
    path = Path(__file__).resolve().parent.parent / "crates/ember-core/tests/reference/mode_integrals.json"
    path.write_text(json.dumps({"modes": modes, "cases": cases}, indent=1) + "\n")


main()
