"""An independent reference for planted spaces: paths traced backwards from points, with a look at a lamp at each bend.

It shares nothing with the core but the description of the scene: leafy ellipsoids are met by chance (Woodcock's null
collisions) and scatter evenly in all directions; plates and upright cylinders are met exactly.
"""

from __future__ import annotations

import numpy as np

_FAR = 1e9


class World:
    """A box with its faces' reflectances, its lamps and plates, cylinders and leafy ellipsoids."""

    def __init__(self, size, rho_faces, lamps, plates=(), pillars=(), crowns=(), omega=0.0):
        self.size, self.rho_faces = np.asarray(size, float), np.asarray(rho_faces, float)
        self.lamps, self.pillars, self.omega = list(lamps), list(pillars), omega
        self.luck = np.random.default_rng(9)
        self.plates = [lamp.plate for lamp in lamps if lamp.body] + list(plates)
        self.middles = np.array([c.middle for c in crowns]).reshape(-1, 3)
        self.axes = np.array([c.semi_axes for c in crowns]).reshape(-1, 3)
        self.k = np.array([c.weakening_per_m for c in crowns])
        # Denser than leaves are anywhere, where up to three crowns run into each other.
        self.most = float(np.sort(self.k)[-3:].sum()) if len(self.k) else 0.0

    def density(self, at):
        """Weakening at points [1/m]."""
        inside = (((at[:, None, :] - self.middles) / self.axes) ** 2).sum(-1) < 1
        return inside @ self.k

    def depth(self, here, there):
        """Optical depth of leaves between pairs of points."""
        way = there - here
        far = np.linalg.norm(way, axis=1)
        out = np.zeros(len(here))
        for middle, axes, k in zip(self.middles, self.axes, self.k, strict=True):
            s, d = (here - middle) / axes, way / axes
            a, b, c = (d * d).sum(1), (s * d).sum(1), (s * s).sum(1) - 1
            root = np.sqrt(np.maximum(b * b - a * c, 0))
            enter, leave = np.clip((-b - root) / a, 0, 1), np.clip((-b + root) / a, 0, 1)
            out += k * np.where(b * b > a * c, leave - enter, 0) * far
        return out

    def meet(self, pos, going, walls=True):
        """The first surface on each way: how far, its normal towards the way's side, its reflectance."""
        n, rows = len(pos), np.arange(len(pos))
        with np.errstate(divide="ignore", invalid="ignore"):
            far = np.where(going > 0, (self.size - pos) / going, np.where(going < 0, -pos / going, _FAR))
        wall = far.argmin(axis=1)
        t = far[rows, wall] if walls else np.full(n, _FAR)
        normal = np.zeros((n, 3))
        normal[rows, wall] = -np.sign(going[rows, wall])
        rho = self.rho_faces[2 * wall + (going[rows, wall] > 0)]
        for plate in self.plates:
            ahead, speed = (pos - plate.centre) @ plate.beam, going @ plate.beam
            with np.errstate(divide="ignore", invalid="ignore"):
                when = -ahead / speed
            touch = (when > 1e-9) & (when < t)
            at = pos + np.where(touch, when, 0)[:, None] * going - plate.centre
            a, b = at @ plate.along, at @ plate.across
            within = (np.abs(a) <= plate.length_m / 2) & (
                np.abs(b[:, None] - np.array(plate.offsets_m)) <= plate.width_m / 2
            ).any(axis=1)
            touch &= within
            if plate.passes:
                # Straight through by chance: glass by its angle (Fresnel, two faces), holes by their share.
                share = _pane(np.abs(speed)) if plate.glass else plate.passes
                touch &= self.luck.random(n) >= share
            t = np.where(touch, when, t)
            normal[touch] = np.where(ahead[touch, None] > 0, 1, -1) * plate.beam
            front, back = plate.sides
            if plate.passes:
                front, back = (side / (1 - plate.passes) for side in plate.sides)
            rho = np.where(touch, np.where(ahead > 0, front, back), rho)
        for x, y, low, high, radius, shine in self.pillars:
            t, normal, rho = self._pillar(pos, going, t, normal, rho, (x, y, low, high, radius, shine))
        return t, normal, rho

    @staticmethod
    def _pillar(pos, going, t, normal, rho, pillar):
        x, y, low, high, radius, shine = pillar
        rel = pos[:, :2] - [x, y]
        a, b = (going[:, :2] ** 2).sum(1), (rel * going[:, :2]).sum(1)
        c = (rel**2).sum(1) - radius**2
        with np.errstate(divide="ignore", invalid="ignore"):
            when = (-b - np.sqrt(np.maximum(b * b - a * c, 0))) / a
            z = pos[:, 2] + when * going[:, 2]
            touch = (b * b > a * c) & (when > 1e-9) & (when < t) & (z > low) & (z < high)
            for level, up in ((low, -1.0), (high, 1.0)):
                end = (level - pos[:, 2]) / going[:, 2]
                at = rel + end[:, None] * going[:, :2]
                cap = (end > 1e-9) & (end < np.where(touch, when, t)) & ((at**2).sum(1) < radius**2)
                cap &= going[:, 2] * up < 0
                t, touch = np.where(cap, end, t), touch & ~cap
                normal[cap] = [0, 0, up]
                rho = np.where(cap, shine, rho)
        t = np.where(touch, when, t)
        out = rel[touch] + when[touch, None] * going[touch, :2]
        normal[touch] = np.column_stack([out / radius, np.zeros(len(out))])
        return t, normal, np.where(touch, shine, rho)


def _pane(cosine):
    """What passes a pane of index 1.52, each polarisation by its own, by summing reflections one by one."""
    inside = np.sqrt(1 - (1 - cosine**2) / 1.52**2)
    left, out = np.exp(-0.0202 / inside), 0.0
    for one, two in ((cosine, inside), (inside, cosine)):
        face = ((one - 1.52 * two) / (one + 1.52 * two)) ** 2
        out = out + sum((1 - face) ** 2 * left * (face * left) ** (2 * k) for k in range(30)) / 2
    return out


def _cosine(normals, rng):
    r, phi = np.sqrt(rng.random(len(normals))), 2 * np.pi * rng.random(len(normals))
    helper = np.where(np.abs(normals[:, :1]) > 0.9, [[0.0, 1, 0]], [[1.0, 0, 0]])
    a = np.cross(normals, helper)
    a /= np.linalg.norm(a, axis=1, keepdims=True)
    b = np.cross(normals, a)
    up = np.sqrt(1 - r * r)
    return (r * np.cos(phi))[:, None] * a + (r * np.sin(phi))[:, None] * b + up[:, None] * normals


def _anywhere(n, rng):
    z, phi = 2 * rng.random(n) - 1, 2 * np.pi * rng.random(n)
    r = np.sqrt(1 - z * z)
    return np.column_stack([r * np.cos(phi), r * np.sin(phi), z])


def _look(world, at, normals, rng):
    """Light straight from a random spot of each lamp: on a surface where a normal is given, else all round, over 4."""
    out = np.zeros(len(at))
    for lamp in world.lamps:
        plate = lamp.plate
        u, v = ((rng.random(len(at)) - 0.5) * side for side in (plate.length_m, plate.width_m))
        v = v + rng.choice(np.array(plate.offsets_m), len(at))
        spot = plate.centre + u[:, None] * plate.along + v[:, None] * plate.across
        way = spot - at
        far = np.linalg.norm(way, axis=1)
        way = way / far[:, None]
        leaving = np.maximum(-(way @ plate.beam), 0)
        meets = np.where(np.isnan(normals[:, 0]), 0.25, np.maximum((way * normals).sum(1), 0))
        n = lamp.exponent
        light = lamp.ppf_umol_s * (n + 1) / (2 * np.pi) * leaving**n * meets / far**2
        rows = np.flatnonzero(light > 0)
        t, _, _ = world.meet(at[rows], way[rows], walls=False)
        light[rows] *= t > far[rows] - 1e-6
        if len(world.k):
            light[rows] *= np.exp(-world.depth(at[rows], spot[rows]))
        out += light
    return out


def trace(world, points, normals, paths=2000, seed=3, bends=60):
    """PPFD at points, all lamps together, and its standard error: shapes (n,), (n,) [µmol/m²/s]."""
    rng = np.random.default_rng(seed)
    n = len(points)
    pos, normal = np.repeat(points, paths, axis=0), np.repeat(normals, paths, axis=0).astype(float)
    score, weight = np.zeros(n * paths), np.ones(n * paths)
    alive = np.arange(n * paths)
    for _ in range(bends):
        score[alive] += weight[alive] * _look(world, pos, normal, rng)
        surface = ~np.isnan(normal[:, 0])
        going = _anywhere(len(pos), rng)
        going[surface] = _cosine(normal[surface], rng)
        t, met, rho = world.meet(pos, going)
        hit = np.zeros(len(pos), bool)
        if world.most:
            gone, moving = np.zeros(len(pos)), np.arange(len(pos))
            while len(moving):
                gone[moving] += rng.exponential(1 / world.most, len(moving))
                moving = moving[gone[moving] < t[moving]]
                here = pos[moving] + gone[moving, None] * going[moving]
                struck = rng.random(len(moving)) * world.most < world.density(here)
                hit[moving[struck]] = True
                moving = moving[~struck]
            t = np.where(hit, gone, t)
        pos = pos + t[:, None] * going + np.where(hit[:, None], 0, 1e-7 * met)
        normal = np.where(hit[:, None], np.nan, met)
        weight[alive] *= np.where(hit, world.omega, rho)
        # Faint paths end by chance, the others stand in for them.
        luck = np.clip(weight[alive] * 4, 0.05, 1)
        keep = (rng.random(len(alive)) < luck) & (weight[alive] > 0)
        weight[alive] /= luck
        alive, pos, normal = alive[keep], pos[keep], normal[keep]
        if not len(alive):
            break
    each = score.reshape(n, paths)
    return each.mean(axis=1), each.std(axis=1, ddof=1) / np.sqrt(paths)
