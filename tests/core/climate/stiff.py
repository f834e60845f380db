"""The same equations once more, as they stand in the physics: derivatives for a stiff solver, nothing implicit."""

from __future__ import annotations

from itertools import pairwise
from math import exp, sqrt

import numpy as np
import psychrolib
from scipy.integrate import solve_ivp

from canopy.climate.system import Enclosure, System

CP, LAM, MOL = 1020.0, 2.45e6, 0.028965
psychrolib.SetUnitSystem(psychrolib.SI)


def psat(t: float) -> float:
    return psychrolib.GetSatVapPres(t)


class Solver:
    """States of each enclosure: air, water, leaf, sheet, pot, lamp, stomata, film; then of each room: air, water."""

    def __init__(self, system: System) -> None:
        self.s = system
        self.ids = [e.id for e in system.enclosures]
        self.room_ids = [r.id for r in system.rooms]
        self.size = 8 * len(self.ids) + 2 * len(self.room_ids)
        self.weather = {w.id: (w.temperature_c[0], w.ratio[0], w.co2_ppm[0]) for w in system.weathers}

    def ws(self, t: float) -> float:
        p = psat(min(t, 80.0))
        return 0.621945 * p / (self.s.pressure_pa - p)

    def air(self, key: str, z: np.ndarray) -> tuple[float, float]:
        if key in self.ids:
            k = 8 * self.ids.index(key)
            return z[k], z[k + 1]
        if key in self.room_ids:
            k = 8 * len(self.ids) + 2 * self.room_ids.index(key)
            return z[k], z[k + 1]
        return self.weather[key][:2]

    def start(self) -> np.ndarray:
        z = np.zeros(self.size)
        for k, e in enumerate(self.s.enclosures):
            host = e.host
            while host in self.ids:
                host = self.s.enclosures[self.ids.index(host)].host
            if host in self.room_ids:
                host = self.s.rooms[self.room_ids.index(host)].beyond
            t, w, c = self.weather[host]
            rs = 0.0
            if e.leaves:
                light = self.light(e, 0) / (2 * e.leaves.lai)
                pv = self.s.pressure_pa * w / (0.621945 + w)
                rs = self.stomata(e, light, c, psat(t) - pv)
            z[8 * k : 8 * k + 8] = t, w, t, t, t, t, rs, 0.0
        for k, room in enumerate(self.s.rooms):
            z[8 * len(self.ids) + 2 * k :][:2] = self.weather[room.beyond][:2]
        return z

    def light(self, e: Enclosure, step: int) -> float:
        """Absorbed by the leaves, per ground [W/m²]."""
        ppfd = sum(g.gives.ppfd * self.s.drives[g.drive][step] for g in self.s.groups if g.where == e.id)
        return ppfd / 4.8 * 0.87 * (1 - exp(-0.75 * e.leaves.lai)) if e.leaves else 0.0

    @staticmethod
    def stomata(e: Enclosure, light: float, co2: float, deficit: float) -> float:
        by_co2 = min(1 + 6.1e-7 * max(0.0, co2 - 200) ** 2, 1.5) if light > 0.01 else 1.0
        by_deficit = min(1 + max(deficit, 0.0) / 1500, 5.0)
        return e.leaves.least_s_m * (light + 4.3) / (light + 0.54) * by_co2 * by_deficit

    def rhs(self, _t: float, z: np.ndarray, step: int, co2: list[float]) -> np.ndarray:
        out, s = np.zeros_like(z), self.s
        for k, e in enumerate(s.enclosures):
            ta, w, tl, tw, tp, tf, rs, film = z[8 * k : 8 * k + 8]
            host, floor = self.air(e.host, z), self.air(e.floor, z)
            kg = e.volume_m3 * s.density_kg_m3
            pv = s.pressure_pa * w / (0.621945 + w)
            give = np.zeros(13)
            for g in s.groups:
                if g.where == e.id:
                    give += np.array(g.gives.channels) * s.drives[g.drive][step]
            dry = sum(
                g.gives.drying_kg_s * s.drives[g.drive][step] * (w - g.gives.coil_ratio)
                for g in s.groups
                if g.where == e.id and w > g.gives.coil_ratio
            )
            inside = sum(f.area_m2 * f.inner_film_w_m2k for f in e.faces)
            (face,) = e.faces
            outside = face.area_m2 * face.outside_w_m2k
            heat = inside * (tw - ta) + e.pots.film_w_m2k * e.pots.area_m2 * (tp - ta) + e.lamp_w_k * (tf - ta)
            heat += give[5] + LAM * dry
            water = give[6] - dry
            area = face.area_m2
            g_wall = 3.0 * area / (CP * 0.9)
            onto = g_wall * (w - self.ws(tw))
            if onto < 0:
                onto *= min(1.0, max(film, 0.0) / (0.05 * area))
            water -= onto
            sheet = inside * (ta - tw) + outside * (host[0] - tw) + give[2] + LAM * onto
            e_pot = 4.0 * e.pots.area_m2 * e.pots.wet / (CP * 0.9) * (self.ws(tp) - w)
            water += e_pot
            pot = e.pots.film_w_m2k * e.pots.area_m2 * (ta - tp) + e.pots.floor_w_k * (floor[0] - tp)
            pot += give[3] - LAM * e_pot
            if e.leaves:
                le = e.leaves
                rb = 1174 * sqrt(le.size_m) / sqrt(sqrt(le.size_m * abs(tl - ta) + 207 * le.speed_m_s**2))
                faces = 2 * le.lai * le.ground_m2 * s.density_kg_m3
                gh = faces * CP / rb
                gr = 2 * le.ground_m2 * (1 - exp(-0.94 * le.lai)) * 5.4
                e_leaf = faces / (0.93 * rb + (rs if self.ws(tl) > w else 0.0)) * (self.ws(tl) - w)
                heat += gh * (tl - ta)
                water += e_leaf
                sheet += gr * (tl - tw)
                leaf = give[1] - gh * (tl - ta) - LAM * e_leaf - gr * (tl - tw)
                out[8 * k + 2] = leaf / max(le.ground_m2 * le.lai * 800.0, 1.0)
                light = self.light(e, step) / (2 * le.lai)
                out[8 * k + 6] = (self.stomata(e, light, co2[k], psat(tl) - pv) - rs) / 600
            for link in s.links:
                if link.into == e.id:
                    m = link.flow_m3_s[0, 0, 0] * s.density_kg_m3
                    t2, w2 = self.air(link.source, z)
                    heat += m * CP * (t2 - ta)
                    water += m * (w2 - w)
            out[8 * k] += heat / (kg * CP)
            out[8 * k + 1] += water / kg
            out[8 * k + 3] = sheet / (area * face.holds_j_m2k)
            out[8 * k + 4] = pot / max(e.pots.holds_j_k, 100.0)
            out[8 * k + 5] = (give[4] - e.lamp_w_k * (tf - ta)) / max(e.lamp_j_k, 1.0)
            run_off = onto if film >= 0.12 * area and onto > 0 else 0.0
            out[8 * k + 7] = onto - run_off
            if e.host in self.room_ids:
                self.into_room(out, z, e.host, outside * (tw - host[0]))
            if e.host in self.ids:
                beyond = self.s.enclosures[self.ids.index(e.host)]
                holds = beyond.volume_m3 * s.density_kg_m3 * CP
                below = e.pots.floor_w_k * (tp - floor[0]) if e.floor == e.host else 0.0
                out[8 * self.ids.index(e.host)] += (outside * (tw - host[0]) + below) / holds
        for r in s.rooms:
            self.room(out, z, r)
        return out

    def into_room(self, out: np.ndarray, z: np.ndarray, key: str, watts: float) -> None:
        room = self.s.rooms[self.room_ids.index(key)]
        holds = room.volume_m3 * self.s.density_kg_m3 * CP + room.holds_j_k
        out[8 * len(self.ids) + 2 * self.room_ids.index(key)] += watts / holds

    def room(self, out: np.ndarray, z: np.ndarray, r) -> None:
        k = 8 * len(self.ids) + 2 * self.room_ids.index(r.id)
        kg = r.volume_m3 * self.s.density_kg_m3
        t, w = z[k], z[k + 1]
        t0, w0, _ = self.weather[r.beyond]
        change = r.exchange_m3_s * self.s.density_kg_m3
        heat, water = (r.loss_w_k + change * CP) * (t0 - t), change * (w0 - w)
        for link in self.s.links:
            if link.into == r.id:
                m = link.flow_m3_s[0, 0, 0] * self.s.density_kg_m3
                t2, w2 = self.air(link.source, z)
                heat += m * CP * (t2 - t)
                water += m * (w2 - w)
        cools = r.cooling_w * min(1.2, max(0, t - 11.3) / 15.7) * np.clip(t - r.cool_to_c, 0, 1)
        heat += r.heating_w * np.clip(r.heat_to_c - t, 0, 1) - cools
        water -= cools / (CP * 15.7) * max(0.0, w - 0.0083)
        out[k] += heat / (kg * CP + r.holds_j_k)
        out[k + 1] += water / kg

    def run(self, co2: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Give seconds and states each ten minutes; ``co2`` (steps, enclosures) is taken as it was found."""
        s = self.s
        total = s.steps * s.dt_s
        edges = {0.0, total}
        for shares in s.drives.values():
            edges |= {float(k) * s.dt_s for k in np.flatnonzero(np.diff(shares) != 0) + 1}
        z, times, states = self.start(), [], []
        marks = sorted(edges)
        for low, high in pairwise(marks):
            step = int((low + high) / 2 / s.dt_s)
            at = np.arange(np.ceil(low / 600 + 1e-9) * 600, high + 1e-6, 600)
            found = solve_ivp(
                self.rhs,
                (low, high),
                z,
                "LSODA",
                t_eval=np.unique([*at, high]),
                rtol=1e-7,
                atol=1e-9,
                args=(step, list(co2[step])),
                max_step=1800,
            )
            assert found.success, found.message
            z = found.y[:, -1]
            for k, t in enumerate(found.t):
                if abs(t / 600 - round(t / 600)) < 1e-9:
                    times.append(t)
                    states.append(found.y[:, k])
        return np.array(times), np.array(states)
