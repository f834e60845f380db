"""The simulation's loop over time: the rows of every step, their solution, CO2, and what is written down."""

from __future__ import annotations

from math import exp, sqrt
from typing import NamedTuple

import numpy as np

from canopy.climate.balance import (
    CO2_PPM,
    FILM_COLD,
    HEAT_J_KGK,
    IN_LAMP,
    IN_LEAF,
    IN_POT,
    IN_SHEET,
    INNER,
    RATIO_AIR,
    T_AIR,
    T_LAMP,
    T_LEAF,
    T_POT,
    T_SHEET,
    WATER_J_KG,
    WORK,
    air_rows,
    conductances,
    eliminate,
    inner_c,
    put,
    put_inner,
    relax_stomata,
    solve_rows,
)
from canopy.climate.books import (
    AFTER,
    BEFORE,
    GASES,
    MOL_KG,
    book,
    book_air,
    book_machines,
    enter,
    given_kg_s,
    stored,
    wet_surfaces,
)
from canopy.climate.columns import (
    AIR_KG,
    AREA_COLD,
    BREATH_MOL_S,
    CHANNELS,
    CONTROL_SENSE,
    CONTROL_WHERE,
    FLOOR_W_K,
    GAS,
    GROUND_M2,
    LAI,
    OUT_AIR,
    OUT_CO2,
    OUT_COLD,
    OUT_CONDENSED,
    OUT_FILM,
    OUT_FLOW,
    OUT_GIVEN,
    OUT_LAMP,
    OUT_LEAF,
    OUT_LIT,
    OUT_POT,
    OUT_RATIO,
    OUT_SHEET,
    OUTSIDE_W_K,
    PPFD,
    ROOM_EDGE,
    ROOM_J_K,
    ROOM_KG,
    ROOM_LOSS_W_K,
    ROOM_OUT_COOLING,
    ROOM_OUT_HEATING,
    SENSE_AIR,
    SENSES,
)
from canopy.climate.compiled import loop, part
from canopy.climate.moist import saturated, saturated_ratio
from canopy.climate.moving import (
    BASE,
    COILED,
    MAY,
    SLOPE,
    TERMS,
    coiled_kg_s,
    let_run,
    links,
    machine_share,
    machines,
    room_changes,
)
from canopy.climate.switching import asked, cuts_of, follow, given, sense

_PASSES, _SETTLED_K = 12, 0.02
_HOTTEST_C = 60.0


class Fixed(NamedTuple):
    """What stays through a run; arrays by enclosure, room, edge, group, control or link, as `columns` numbers them.

    ``edges`` (edges, 3, moments) holds warmth, water and CO2 of given airs every ``edge_every_s``; ``drives`` (groups
    and gates, steps) shares of full output; ``weight`` (enclosures, states, steps) shares of the time in each state of
    the ways; ``table`` (links, states, levels, rises) flows [m³/s].
    """

    p: np.ndarray
    host: np.ndarray
    floor: np.ndarray
    lit_of: np.ndarray
    door_of: np.ndarray
    cut_c: np.ndarray
    rooms: np.ndarray
    edges: np.ndarray
    edge_every_s: float
    drives: np.ndarray
    gives: np.ndarray
    where: np.ndarray
    drive_of: np.ndarray
    cuts: np.ndarray
    control: np.ndarray
    setting: np.ndarray
    target: np.ndarray
    src: np.ndarray
    dst: np.ndarray
    owner: np.ndarray
    table: np.ndarray
    weight: np.ndarray
    rises: np.ndarray
    dt: float
    every: int
    pressure: float
    density: float
    sensor_s: float


class Written(NamedTuple):
    """What is written down: means over intervals of enclosures, rooms, groups and fans' levels, and the books."""

    enclosures: np.ndarray
    rooms: np.ndarray
    groups: np.ndarray
    levels: np.ndarray
    books: np.ndarray


@part
def gross_umol_m2_s(absorbed, co2_ppm):
    """Photosynthesis per area of ground, as `canopy_gas.gross_uptake_umol_m2_s`."""
    inner = 0.7 * co2_ppm
    k = max(0.0, (inner - 43) / (inner + 86))
    if k == 0.0 or absorbed <= 0:
        return 0.0
    rise, top = 0.10 * k * absorbed, 32 * k / 0.649
    return (rise + top - sqrt((rise + top) ** 2 - 3.2 * rise * top)) / 1.6


@part
def edges_at(edges, every_s, at, free, second_s):
    """Read the given airs at a moment."""
    last = edges.shape[2] - 1
    place = second_s / every_s
    first = min(int(place), last)
    part = min(place - first, 1.0)
    for e in range(edges.shape[0]):
        for c in range(3):
            here = edges[e, c, first]
            at[free + e, c] = here + part * (edges[e, c, min(first + 1, last)] - here)


@part
def exchange_rows(a, b, one, two, mass, at, free):
    """Add what links bring to the rows of the airs they reach; what leaves is booked with what replaces it."""
    for k in range(len(mass)):
        to, kg_s = two[k], mass[k]
        if to < free and kg_s > 0:
            a[2 * to, 2 * to] += kg_s * HEAT_J_KGK
            a[2 * to + 1, 2 * to + 1] += kg_s
            put(a, b, 2 * to, one[k], 0, -kg_s * HEAT_J_KGK, free, at)
            put(a, b, 2 * to + 1, one[k], 1, -kg_s, free, at)


@part
def room_rows(a, b, rooms, terms, n, change, old, at, h):
    """Write rooms' rows: what they hold, what they lose, how their air changes, and their heaters and conditioners."""
    free = n + len(rooms)
    for q in range(len(rooms)):
        warm, e = 2 * (n + q), free + int(rooms[q, ROOM_EDGE])
        holds = (rooms[q, ROOM_KG] * HEAT_J_KGK + rooms[q, ROOM_J_K]) / h
        a[warm, warm] += holds + rooms[q, ROOM_LOSS_W_K] + change[q] * HEAT_J_KGK
        b[warm] += holds * old[n + q, 0] + (rooms[q, ROOM_LOSS_W_K] + change[q] * HEAT_J_KGK) * at[e, 0]
        a[warm + 1, warm + 1] += rooms[q, ROOM_KG] / h + change[q]
        b[warm + 1] += rooms[q, ROOM_KG] / h * old[n + q, 1] + change[q] * at[e, 1]
        machines(rooms, q, at[n + q, 0], at[n + q, 1], terms)
        a[warm, warm] += terms[q, SLOPE]
        b[warm] += terms[q, BASE]
        a[warm + 1, warm + 1] += terms[q, COILED]
        b[warm + 1] -= coiled_kg_s(terms, q, 0.0)


@part
def warm_beyond(a, b, i, node, c, by_w_k, host, floor, free, at):
    """Give the air beyond a sheet or under a pot the heat that passes to it."""
    if node < free:
        warm = 2 * node
        a[warm, warm] += by_w_k
        put_inner(a, b, warm, i, c, -by_w_k, host, floor, free, at)


@part
def rows(a, b, x, y, p, host, floor, about, pressure, density):
    """Write all rows about the guess."""
    rooms, terms, push, work, inner, moves, old, at, h = about
    one, two, mass, change = moves
    n, free = len(host), len(host) + len(rooms)
    a[:, :] = 0.0
    b[:] = 0.0
    for i in range(n):
        conductances(x, y, p, work, i, at[host[i], 0], h, pressure, density)
        eliminate(x, p, push, work, inner, i, h)
        air_rows(a, b, x, p, push, work, inner, i, host[i], floor[i], h, free, at)
        warm_beyond(a, b, i, host[i], inner[i, IN_SHEET], p[i, OUTSIDE_W_K], host[i], floor[i], free, at)
        warm_beyond(a, b, i, floor[i], inner[i, IN_POT], p[i, FLOOR_W_K], host[i], floor[i], free, at)
    room_rows(a, b, rooms, terms, n, change, old, at, h)
    exchange_rows(a, b, one, two, mass, at, free)


@part
def hold_saturated(a, b, i, air_c, pressure):
    """Hold an air at saturation: its heat row takes in its water row, whose place saturation takes."""
    warm, wet = 2 * i, 2 * i + 1
    for col in range(a.shape[1]):
        a[warm, col] += WATER_J_KG * a[wet, col]
        a[wet, col] = 0.0
    b[warm] += WATER_J_KG * b[wet]
    most, slope = saturated(air_c, pressure)
    a[wet, wet], a[wet, warm] = 1.0, -slope
    b[wet] = most - slope * air_c


@part
def take(b, y, at, inner, host, floor, rooms):
    """Take the solution for the next guess; gives by how much any temperature moved [K]."""
    n, moved = len(host), 0.0
    for k in range(n + len(rooms)):
        moved = max(moved, abs(b[2 * k] - at[k, 0]))
        at[k, 0], at[k, 1] = b[2 * k], b[2 * k + 1]
    for i in range(n):
        air, ratio = at[i, 0], at[i, 1]
        beyond, below = at[host[i], 0], at[floor[i], 0]
        leaf = inner_c(inner[i, IN_LEAF], air, ratio, beyond, below)
        sheet = inner_c(inner[i, IN_SHEET], air, ratio, beyond, below)
        pot = inner_c(inner[i, IN_POT], air, ratio, beyond, below)
        moved = max(moved, abs(leaf - y[i, T_LEAF]), abs(sheet - y[i, T_SHEET]), abs(pot - y[i, T_POT]))
        y[i, T_AIR], y[i, RATIO_AIR] = air, ratio
        y[i, T_LEAF], y[i, T_SHEET], y[i, T_POT] = leaf, sheet, pot
        y[i, T_LAMP] = inner_c(inner[i, IN_LAMP], air, ratio, beyond, below)
    return moved


@part
def drops(a0, b0, at, fogged, fog, n):
    """What the water rows of saturated airs have left over has turned to drops [kg/s]."""
    for i in range(n):
        fog[i] = 0.0
        if fogged[i] > 0:
            left = b0[2 * i + 1]
            for k in range(len(b0) // 2):
                left -= a0[2 * i + 1, 2 * k] * at[k, 0] + a0[2 * i + 1, 2 * k + 1] * at[k, 1]
            fog[i] = left


@part
def oversaturated(y, fogged, pressure):
    """Mark airs that would hold more than they can; gives whether there is a new one."""
    found = False
    for i in range(len(y)):
        if fogged[i] == 0 and y[i, RATIO_AIR] > saturated_ratio(y[i, T_AIR], pressure) * (1 + 1e-9):
            fogged[i] = 1.0
            found = True
    return found


@part
def carbon(ca, cb, x, y, p, push, rooms, one, two, mass, change, old, at, books, h):
    """Solve a step of CO2: what leaves take goes with what is there, so that it never falls below nothing."""
    n, free = len(x), len(x) + len(rooms)
    ca[:, :] = 0.0
    cb[:] = 0.0
    for i in range(n):
        moles, ground, now = p[i, AIR_KG] / MOL_KG * 1e-6, p[i, GROUND_M2], x[i, CO2_PPM]
        absorbed = push[i, PPFD] * 0.87 * (1 - exp(-0.75 * p[i, LAI])) if ground > 0 else 0.0
        y[i, CO2_PPM] = gross_umol_m2_s(absorbed, now) * 1e-6 * ground / max(now, 1e-9)
        ca[i, i] += moles / h + y[i, CO2_PPM]
        cb[i] += moles / h * now + p[i, BREATH_MOL_S] + push[i, GAS]
    for q in range(len(rooms)):
        row, moles, fresh = n + q, rooms[q, ROOM_KG] / MOL_KG * 1e-6, change[q] / MOL_KG * 1e-6
        ca[row, row] += moles / h + fresh
        cb[row] += moles / h * old[row, 2] + fresh * at[free + int(rooms[q, ROOM_EDGE]), 2]
    for k in range(len(mass)):
        moved, to = mass[k] / MOL_KG * 1e-6, two[k]
        if to < free and moved > 0:
            ca[to, to] += moved
            if one[k] < free:
                ca[to, one[k]] -= moved
            else:
                cb[to] += moved * at[one[k], 2]
    solve_rows(ca, cb, free)
    for k in range(free):
        at[k, 2] = cb[k]
    for i in range(n):
        enter(books, GASES, h * (p[i, BREATH_MOL_S] + push[i, GAS]))
        enter(books, GASES, -h * y[i, CO2_PPM] * cb[i])
        y[i, CO2_PPM] = cb[i]


@part
def note(row, y, p, i, share, given_off, condensed, host_c, lit, moved):
    """Add an enclosure's part of an interval's means."""
    row[OUT_AIR] += share * y[i, T_AIR]
    row[OUT_RATIO] += share * y[i, RATIO_AIR]
    row[OUT_LEAF] += share * y[i, T_LEAF]
    row[OUT_SHEET] += share * y[i, T_SHEET]
    row[OUT_POT] += share * y[i, T_POT]
    row[OUT_LAMP] += share * y[i, T_LAMP]
    row[OUT_CO2] += share * y[i, CO2_PPM]
    row[OUT_GIVEN] += share * given_off
    row[OUT_CONDENSED] += share * condensed
    row[OUT_FILM] = y[i, FILM_COLD] + y[i, FILM_COLD + 1]
    row[OUT_COLD] += share * (host_c + p[i, AREA_COLD + 1] * (y[i, T_SHEET] - host_c))
    row[OUT_LIT] += share * lit
    row[OUT_FLOW] += share * moved


@loop
def run(f: Fixed, x: np.ndarray, at: np.ndarray, tank: np.ndarray, out: Written, steps: int) -> int:
    """Go through all steps from a state; gives the step in which an air passed 60 °C, where it ends, or -1.

    ``x`` (enclosures, states) and ``at`` (airs, 3) hold the state, the airs of enclosures and rooms before those given.
    """
    p, host, floor, rooms, drives, push = f.p, f.host, f.floor, f.rooms, f.drives, np.zeros((len(f.host), CHANNELS))
    n, count = len(host), len(f.src)
    free = n + len(rooms)
    y, work, inner = x.copy(), np.zeros((n, WORK)), np.zeros((n, INNER, 5))
    a, b, a0, b0 = (
        np.zeros((2 * free, 2 * free)),
        np.zeros(2 * free),
        np.zeros((2 * free, 2 * free)),
        np.zeros(2 * free),
    )
    terms = np.zeros((len(rooms), TERMS))
    ca, cb, old, change = np.zeros((free, free)), np.zeros(free), at.copy(), np.zeros(len(rooms))
    one, two = np.zeros(count + 2 * n, dtype=np.int64), np.zeros(count + 2 * n, dtype=np.int64)
    mass, fog, fogged = np.zeros(count + 2 * n), np.zeros(n), np.zeros(n)
    level, output, tripped = np.zeros(n), np.zeros(len(f.where)), np.zeros(n)
    held, sensed, slew = np.zeros((len(f.control), 2)), np.zeros((n, SENSES)), np.zeros((n, SENSES))
    read = np.zeros((n, SENSES))
    for i in range(n):
        read[i, SENSE_AIR] = f.cut_c[i] < 1e5
        for sense_ in range(SENSES):
            sensed[i, sense_] = sense(x, i, sense_, f.pressure)
    for k in range(len(f.control)):
        read[f.control[k, CONTROL_WHERE], max(f.control[k, CONTROL_SENSE], 0)] = 1.0
    held[:, 1] = 1e9
    stored(x, p, rooms, at, out.books, BEFORE)
    over = -1
    for step in range(steps):
        edges_at(f.edges, f.edge_every_s, at, free, (step + 0.5) * f.dt)
        cuts = cuts_of(f.control, f.setting, slew, f.dt)
        h, share, row = f.dt / cuts, 1.0 / (cuts * f.every), step // f.every
        for _ in range(cuts):
            old[:, :] = at
            asked(f.control, f.setting, f.target, drives, f.lit_of, sensed, held, output, level, step, h)
            what = f.where, f.drive_of, f.cuts, f.gives
            given(what, drives, f.cut_c, sensed, tripped, x, p, tank, output, push, step, h, f.pressure)
            for i in range(n):
                relax_stomata(x, p, push, i, h, f.pressure)
            ways = f.src, f.dst, f.owner, host
            links(ways, f.table, f.weight, f.rises, f.door_of, drives, p, level, at, one, two, mass, f.density, step)
            room_changes(rooms, n, one, two, mass, change)
            let_run(rooms, drives, step, terms)
            # Until saturation is where it was taken, and no air holds more than it can.
            y[:, :] = x
            fogged[:] = 0.0
            for _ in range(_PASSES):
                moves = one, two, mass, change
                about = rooms, terms, push, work, inner, moves, old, at, h
                rows(a, b, x, y, p, host, floor, about, f.pressure, f.density)
                a0[:, :] = a
                b0[:] = b
                for i in range(n):
                    if fogged[i] > 0:
                        hold_saturated(a, b, i, y[i, T_AIR], f.pressure)
                solve_rows(a, b, 2 * free)
                moved = take(b, y, at, inner, host, floor, rooms)
                if not oversaturated(y, fogged, f.pressure) and moved < _SETTLED_K:
                    break
            drops(a0, b0, at, fogged, fog, n)
            carbon(ca, cb, x, y, p, push, rooms, one, two, mass, change, old, at, out.books, h)
            for i in range(n):
                host_c = at[host[i], 0]
                condensed, drained = wet_surfaces(x, y, p, work, fog, i, host_c, h)
                book(y, p, work, push, host, floor, at, free, out.books, i, h, drained)
                if p[i, GROUND_M2] <= 0:
                    y[i, T_LEAF] = x[i, T_LEAF]
                if y[i, T_AIR] > _HOTTEST_C:
                    over = step
                moved = 0.0
                for k in range(len(mass)):
                    if two[k] == i:
                        moved += mass[k] / f.density
                lit = drives[f.lit_of[i], step] if f.lit_of[i] >= 0 else 0.0
                note(out.enclosures[row, i], y, p, i, share, given_kg_s(y, p, work, i), condensed, host_c, lit, moved)
                out.levels[row, i] += share * level[i]
            book_air(rooms, n, one, two, mass, change, at, out.books, h)
            book_machines(rooms, terms, n, at, out.books, h)
            follow(sensed, slew, read, y, f.sensor_s, h, f.pressure)
            for g in range(len(f.where)):
                out.groups[row, g] += share * output[g]
            for q in range(len(rooms)):
                for c in range(3):
                    out.rooms[row, q, c] += share * at[n + q, c]
                heating, cooling = machine_share(rooms, q, at[n + q, 0])
                out.rooms[row, q, ROOM_OUT_HEATING] += share * heating * terms[q, MAY]
                out.rooms[row, q, ROOM_OUT_COOLING] += share * cooling * terms[q, MAY]
            x[:, :] = y
        if over >= 0:
            break
    stored(x, p, rooms, at, out.books, AFTER)
    return over
