"""An independent reference: photons thrown one by one through a box with plates in it.

It shares nothing with the core but the description of the scene. Photons
leave a lamp's face, bounce off walls and plates by chance, and are counted
where they cross a level from above.
"""

from __future__ import annotations

import numpy as np


def _around(normals, rng, exponent=1.0):
    """Cosine-power directions about unit normals, shape (n, 3)."""
    n = len(normals)
    cos = rng.random(n) ** (1 / (exponent + 1))
    sin, phi = np.sqrt(1 - cos**2), 2 * np.pi * rng.random(n)
    helper = np.where(np.abs(normals[:, :1]) > 0.9, [[0.0, 1, 0]], [[1.0, 0, 0]])
    a = np.cross(normals, helper)
    a /= np.linalg.norm(a, axis=1, keepdims=True)
    b = np.cross(normals, a)
    return cos[:, None] * normals + sin[:, None] * (np.cos(phi)[:, None] * a + np.sin(phi)[:, None] * b)


def _start(emitter, n, rng):
    plate = emitter.plate
    u = (rng.random(n) - 0.5) * plate.length_m
    v = (rng.random(n) - 0.5) * plate.width_m
    if plate.disc:
        r, phi = plate.length_m / 2 * np.sqrt(rng.random(n)), 2 * np.pi * rng.random(n)
        u, v = r * np.cos(phi), r * np.sin(phi)
    else:
        v = v + rng.choice(np.array(plate.offsets_m), n)
    return plate.centre + u[:, None] * plate.along + v[:, None] * plate.across


def count_photons(size, rho_faces, emitters, level, cells, photons, seed=1, max_bounces=400, axis=2, sign=-1):
    """PPFD on a plane by photon counting: up-facing at z = level, or at ``axis`` = level met going ``sign`` along it.

    ``rho_faces`` in the order left, right, front, back, floor, ceiling. Returns (cells, cells) [µmol/m²/s].
    """
    rng = np.random.default_rng(seed)
    size = np.asarray(size, float)
    hits = np.zeros((cells, cells))
    for emitter in emitters:
        pos = _start(emitter, photons, rng)
        going = _around(np.tile(emitter.plate.beam, (photons, 1)), rng, emitter.exponent)
        for _ in range(max_bounces):
            if not len(pos):
                break
            with np.errstate(divide="ignore", invalid="ignore"):
                far = np.where(going > 0, (size - pos) / going, np.where(going < 0, -pos / going, np.inf))
            wall = far.argmin(axis=1)
            t = far[np.arange(len(pos)), wall]
            face = 2 * wall + (going[np.arange(len(pos)), wall] > 0)
            normal = np.zeros_like(pos)
            normal[np.arange(len(pos)), wall] = -np.sign(going[np.arange(len(pos)), wall])
            rho = np.asarray(rho_faces)[face]
            for other in emitters:
                plate = other.plate
                ahead = (pos - plate.centre) @ plate.beam
                speed = going @ plate.beam
                with np.errstate(divide="ignore", invalid="ignore"):
                    when = -ahead / speed
                touch = (when > 1e-9) & (when < t) & (np.abs(ahead) > 1e-12)
                at = pos + np.where(touch, when, 0)[:, None] * going - plate.centre
                a, b = at @ plate.along, at @ plate.across
                if plate.disc:
                    inside = a * a + b * b <= plate.length_m**2 / 4
                else:
                    inside = (np.abs(a) <= plate.length_m / 2) & (
                        np.abs(b[:, None] - np.array(plate.offsets_m)) <= plate.width_m / 2
                    ).any(axis=1)
                touch &= inside
                t = np.where(touch, when, t)
                normal[touch] = np.where(ahead[touch, None] > 0, 1, -1) * plate.beam
                rho = np.where(touch, plate.reflectance, rho)
            new = pos + t[:, None] * going
            crossed = ((level - pos[:, axis]) * sign > 0) & ((level - new[:, axis]) * sign <= 0)
            if crossed.any():
                share = (pos[crossed, axis] - level) / (pos[crossed, axis] - new[crossed, axis])
                where = pos[crossed] + share[:, None] * (new - pos)[crossed]
                a, b = (other for other in range(3) if other != axis)
                i = np.clip((where[:, a] / size[a] * cells).astype(int), 0, cells - 1)
                j = np.clip((where[:, b] / size[b] * cells).astype(int), 0, cells - 1)
                np.add.at(hits, (i, j), emitter.ppf_umol_s / photons)
            alive = rng.random(len(pos)) < rho
            pos, normal = new[alive], normal[alive]
            going = _around(normal, rng)
            pos = pos + normal * 1e-9
    return hits / (np.prod(size) / size[axis] / cells**2)
