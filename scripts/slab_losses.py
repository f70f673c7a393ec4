"""Writes crates/testkit/data/slabs.csv: losses of layered walls by a general-purpose RF library, for the reference checks.

Usage, in an environment of its own:  pip install scikit-rf==2.2.0 numpy==2.4.6 && python3 scripts/slab_losses.py

Each layer is a section of transmission line whose propagation constant and impedance follow from the layer's permittivity; the
stack is their cascade between ports of the impedance of free space at that angle. The library does the cascading and the change of
impedance; the materials are ITU-R P.2040, Table 3.
"""
import csv

import numpy as np
import skrf
from skrf.media import DefinedGammaZ0

assert skrf.__version__ == "2.2.0", skrf.__version__

LIGHT = 299_792_458.0
ETA = 376.730313668
EPSILON_0 = 8.8541878128e-12
# a, b, c, d of eps' = a f^b, sigma = c f^d, f in GHz.
SUBSTANCES = {
    "concrete": (5.24, 0, 0.0462, 0.7822),
    "brick": (3.91, 0, 0.0238, 0.16),
    "plasterboard": (2.73, 0, 0.0085, 0.9395),
    "wood": (1.99, 0, 0.0047, 1.0718),
    "glass": (6.31, 0, 0.0036, 1.3394),
    "chipboard": (2.58, 0, 0.0217, 0.78),
    "ceiling board": (1.48, 0, 0.0011, 1.075),
    "air": (1, 0, 0, 0),
}
STACKS = {
    "concrete 100": [("concrete", 100)],
    "concrete 150": [("concrete", 150)],
    "concrete 200": [("concrete", 200)],
    "brick 105": [("brick", 105)],
    "brick 215": [("brick", 215)],
    "stud wall": [("plasterboard", 12.5), ("air", 75), ("plasterboard", 12.5)],
    "double board wall": [("plasterboard", 25), ("air", 75), ("plasterboard", 25)],
    "timber door": [("wood", 44)],
    "single glass": [("glass", 6)],
    "double glazing": [("glass", 4), ("air", 16), ("glass", 4)],
    "timber floor": [("chipboard", 22), ("air", 200), ("plasterboard", 12.5)],
    "cavity of brick": [("brick", 105), ("air", 75), ("brick", 105)],
}


def loss(layers, ghz, degrees, polarisation):
    frequency = skrf.Frequency(ghz, ghz, 1, "ghz")
    sin, cos = np.sin(np.radians(degrees)), np.cos(np.radians(degrees))
    k0 = 2 * np.pi * ghz * 1e9 / LIGHT
    port = ETA / cos if polarisation == "TE" else ETA * cos
    whole = None
    for name, millimetres in layers:
        a, b, c, d = SUBSTANCES[name]
        eps = a * ghz**b - 1j * c * ghz**d / (2 * np.pi * ghz * 1e9 * EPSILON_0)
        q = np.sqrt(eps - sin**2)
        impedance = ETA / q if polarisation == "TE" else ETA * q / eps
        medium = DefinedGammaZ0(frequency, gamma=1j * k0 * q, z0=impedance)
        section = medium.line(millimetres / 1000, "m")
        section.renormalize(port, s_def="pseudo")
        whole = section if whole is None else whole**section
    return -20 * np.log10(abs(whole.s[0, 1, 0]))


def main():
    with open("crates/testkit/data/slabs.csv", "w", newline="") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(["stack", "layers", "ghz", "degrees", "polarisation", "loss_db"])
        for stack, layers in STACKS.items():
            words = " + ".join(f"{name} {mm}" for name, mm in layers)
            for ghz in (2.437, 5.5, 6.2):
                for degrees in (0, 30, 60):
                    for polarisation in ("TE", "TM"):
                        value = loss(layers, ghz, degrees, polarisation)
                        table.writerow([stack, words, ghz, degrees, polarisation, f"{value:.6f}"])


main()
