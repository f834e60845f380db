"""What lies on surfaces, what an enclosure holds, and what it gains: by the rows that were solved."""

from __future__ import annotations

from canopy.climate.balance import (
    AT_COLD,
    AT_LEAF,
    AT_POT,
    C_COLD,
    CO2_PPM,
    FILM_COLD,
    G_COLD,
    GV,
    HEAT_J_KGK,
    MOST_KG_M2,
    RATIO_AIR,
    S_COLD,
    S_LEAF,
    S_POT,
    T_AIR,
    T_LAMP,
    T_LEAF,
    T_POT,
    T_SHEET,
    WATER_J_KG,
    WS_COLD,
    WS_LEAF,
    WS_POT,
)
from canopy.climate.columns import (
    AIR_KG,
    AREA_COLD,
    AREA_REST,
    COIL,
    DRYING,
    FLOOR_W_K,
    LAMP_J_K,
    LEAF_J_K,
    OUTSIDE_W_K,
    POT_J_K,
    POT_KG_S,
    ROOM_EDGE,
    ROOM_J_K,
    ROOM_KG,
    ROOM_LOSS_W_K,
    SHEET_J_K,
    TO_AIR,
    TO_LEAF,
    VAPOUR,
)
from canopy.climate.compiled import part
from canopy.climate.moving import coiled_kg_s, machine_heat_w

MOL_KG = 0.028965
# Books: what was stored at the beginning and at the end, and what was gained, of heat [J], water [kg] and CO2 [mol].
HEAT, WATER, GASES = range(3)
BEFORE, AFTER, GAINED, PASSED, BOOKS = range(5)


@part
def wet_surfaces(x, y, p, w, fog, i, host_c, h):
    """Book water onto surfaces and off them; gives what condensed, the rest what ran off [kg/s]."""
    whole = max(p[i, AREA_COLD] + p[i, AREA_REST], 1e-12)
    condensed, drained = fog[i], 0.0
    for k in range(2):
        area = p[i, AREA_COLD + 2 * k]
        there = host_c + p[i, AREA_COLD + 2 * k + 1] * (y[i, T_SHEET] - host_c)
        held = w[i, WS_COLD + 2 * k] + w[i, S_COLD + 2 * k] * (there - w[i, AT_COLD + k])
        onto = w[i, G_COLD + 2 * k] * (y[i, RATIO_AIR] - held) + w[i, C_COLD + 2 * k]
        condensed += onto
        film = x[i, FILM_COLD + k] + h * (onto + fog[i] * area / whole)
        off = max(0.0, film - MOST_KG_M2 * area)
        y[i, FILM_COLD + k] = max(0.0, film - off)
        drained += off / h
    return condensed, drained


@part
def given_kg_s(y, p, w, i):
    """Water that leaves and pots give off [kg/s], by the rows that were solved."""
    ratio = y[i, RATIO_AIR]
    leaf = w[i, GV] * (w[i, WS_LEAF] + w[i, S_LEAF] * (y[i, T_LEAF] - w[i, AT_LEAF]) - ratio)
    pot = p[i, POT_KG_S] * (w[i, WS_POT] + w[i, S_POT] * (y[i, T_POT] - w[i, AT_POT]) - ratio)
    return leaf + pot


@part
def stored(x, p, rooms, at, books, column):
    """Write down what all enclosures and rooms hold."""
    n = len(x)
    for i in range(n):
        heat = p[i, AIR_KG] * (HEAT_J_KGK * x[i, T_AIR] + WATER_J_KG * x[i, RATIO_AIR])
        heat += p[i, LEAF_J_K] * x[i, T_LEAF] + p[i, SHEET_J_K] * x[i, T_SHEET]
        heat += p[i, POT_J_K] * x[i, T_POT] + p[i, LAMP_J_K] * x[i, T_LAMP]
        books[HEAT, column] += heat
        books[WATER, column] += p[i, AIR_KG] * x[i, RATIO_AIR] + x[i, FILM_COLD] + x[i, FILM_COLD + 1]
        books[GASES, column] += p[i, AIR_KG] / MOL_KG * x[i, CO2_PPM] * 1e-6
    for q in range(len(rooms)):
        kg, warm = rooms[q, ROOM_KG], at[n + q, 0]
        books[HEAT, column] += kg * (HEAT_J_KGK * warm + WATER_J_KG * at[n + q, 1]) + rooms[q, ROOM_J_K] * warm
        books[WATER, column] += kg * at[n + q, 1]
        books[GASES, column] += kg / MOL_KG * at[n + q, 2] * 1e-6


@part
def enter(books, kind, amount):
    """Book a gain (or a loss), and how much passed either way."""
    books[kind, GAINED] += amount
    books[kind, PASSED] += abs(amount)


@part
def book(y, p, w, push, host, floor, at, free, books, i, h, drained):
    """Book what an enclosure gains of heat and water from outside all of them, but for air."""
    heat = WATER_J_KG * push[i, VAPOUR]
    for c in range(TO_LEAF, TO_AIR + 1):
        heat += push[i, c]
    enter(books, HEAT, h * heat)
    if host[i] >= free:
        enter(books, HEAT, h * p[i, OUTSIDE_W_K] * (at[host[i], 0] - y[i, T_SHEET]))
    if floor[i] >= free:
        enter(books, HEAT, h * p[i, FLOOR_W_K] * (at[floor[i], 0] - y[i, T_POT]))
    dried = push[i, DRYING] * (y[i, RATIO_AIR] - push[i, COIL])
    enter(books, WATER, h * given_kg_s(y, p, w, i))
    enter(books, WATER, h * push[i, VAPOUR])
    enter(books, WATER, -h * (dried + drained))


@part
def book_air(rooms, n, one, two, mass, change, at, books, h):
    """Book what air brings from outside, and what rooms lose."""
    free = n + len(rooms)
    for k in range(len(mass)):
        if two[k] < free and mass[k] > 0:
            more = at[one[k], 1] - at[two[k], 1]
            warmer = at[one[k], 0] - at[two[k], 0]
            enter(books, HEAT, h * mass[k] * (HEAT_J_KGK * warmer + WATER_J_KG * more))
            enter(books, WATER, h * mass[k] * more)
            enter(books, GASES, h * mass[k] / MOL_KG * 1e-6 * (at[one[k], 2] - at[two[k], 2]))
    for q in range(len(rooms)):
        e = free + int(rooms[q, ROOM_EDGE])
        warmer, more = at[e, 0] - at[n + q, 0], at[e, 1] - at[n + q, 1]
        heat = (rooms[q, ROOM_LOSS_W_K] + change[q] * HEAT_J_KGK) * warmer + WATER_J_KG * change[q] * more
        enter(books, HEAT, h * heat)
        enter(books, WATER, h * change[q] * more)
        enter(books, GASES, h * change[q] / MOL_KG * 1e-6 * (at[e, 2] - at[n + q, 2]))


@part
def book_machines(rooms, terms, n, at, books, h):
    """Book what rooms' heaters give and conditioners take: dry heat, and water with the heat in it."""
    for q in range(len(rooms)):
        taken = coiled_kg_s(terms, q, at[n + q, 1])
        enter(books, HEAT, h * (machine_heat_w(terms, q, at[n + q, 0]) - WATER_J_KG * taken))
        enter(books, WATER, -h * taken)
