"""The simulation's loop over time: groups and controls, flows, the balances of every step, and what is written down."""

from __future__ import annotations

from math import exp, sqrt
from typing import NamedTuple

import numpy as np

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
    IN_LAMP,
    IN_LEAF,
    IN_POT,
    IN_SHEET,
    INNER,
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
    WORK,
    WS_COLD,
    WS_LEAF,
    WS_POT,
    air_rows,
    conductances,
    eliminate,
    inner_c,
    put,
    put_inner,
    relax_stomata,
    solve_rows,
)
from canopy.climate.columns import (
    AIR_KG,
    AREA_COLD,
    AREA_REST,
    BAND,
    BREATH_MOL_S,
    CHANNELS,
    COIL,
    CONTROL_GATE,
    CONTROL_SENSE,
    CONTROL_SIGN,
    CONTROL_WHERE,
    DESICCANT,
    DOOR,
    DRYER,
    DRYING,
    FLOOR_W_K,
    FULL,
    GAS,
    GROUND_M2,
    IDLE,
    LAI,
    LAMP_J_K,
    LEAF_J_K,
    LEAST_OFF_S,
    LEAST_ON_S,
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
    PAD,
    PELTIER,
    POT_J_K,
    POT_KG_S,
    PPFD,
    RAMP,
    RATED,
    ROOM_CHANGE_KG_S,
    ROOM_EDGE,
    ROOM_J_K,
    ROOM_KG,
    ROOM_LOSS_W_K,
    SENSE_AIR,
    SENSE_CO2,
    SENSE_LEAF,
    SENSE_POT,
    SENSE_RH,
    SENSES,
    SET_DAY,
    SET_NIGHT,
    SHEET_J_K,
    TO_AIR,
    TO_LEAF,
    VAPOUR,
)
from canopy.climate.compiled import loop
from canopy.climate.moist import saturated, saturated_ratio, saturation_pa, vapour_pa

MOL_KG = 0.028965
_PASSES, _SETTLED_K = 12, 0.02
# An open door exchanges air as if it were warmer inside by at least a draught's worth [K].
_DRAUGHT_K = 0.5
_HOTTEST_C, _AGAIN_K = 60.0, 3.0
# Books: what was stored at the beginning and at the end, and what was gained, of heat [J], water [kg] and CO2 [mol].
HEAT, WATER, GASES = range(3)
BEFORE, AFTER, GAINED, PASSED, BOOKS = range(5)


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


@loop
def gross_umol_m2_s(absorbed, co2_ppm):
    """Photosynthesis per area of ground, as `canopy_gas.gross_uptake_umol_m2_s`."""
    inner = 0.7 * co2_ppm
    k = max(0.0, (inner - 43) / (inner + 86))
    if k == 0.0 or absorbed <= 0:
        return 0.0
    rise, top = 0.10 * k * absorbed, 32 * k / 0.649
    return (rise + top - sqrt((rise + top) ** 2 - 3.2 * rise * top)) / 1.6


@loop
def sense(x, i, what, pressure):
    """What a perfect sensor would read in an enclosure."""
    if what == SENSE_AIR:
        return x[i, T_AIR]
    if what == SENSE_POT:
        return x[i, T_POT]
    if what == SENSE_LEAF:
        return x[i, T_LEAF]
    if what == SENSE_CO2:
        return x[i, CO2_PPM]
    full, there = saturation_pa(min(x[i, T_AIR], 95.0)), vapour_pa(x[i, RATIO_AIR], pressure)
    return 100 * there / full if what == SENSE_RH else (full - there) / 1000


@loop
def decide(k, control, setting, held, reading, lit, gate, h):
    """What a control asks for, 0..1, by what its sensor reads; ``held`` is whether it asks, and for how long now."""
    idle, more = setting[k, IDLE], setting[k, FULL] - setting[k, IDLE]
    if control[k, CONTROL_SENSE] < 0:
        return idle + more * gate
    short = ((setting[k, SET_DAY] if lit else setting[k, SET_NIGHT]) - reading) * control[k, CONTROL_SIGN]
    if setting[k, RAMP] > 0:
        return idle + more * min(1.0, max(0.0, short / setting[k, RAMP])) * gate
    held[k, 1] += h
    if held[k, 0] > 0.5:
        # Runs until the band is made up.
        if short <= -setting[k, BAND] / 2 and held[k, 1] >= setting[k, LEAST_ON_S]:
            held[k, 0], held[k, 1] = 0.0, 0.0
    elif short > setting[k, BAND] / 2 and held[k, 1] >= setting[k, LEAST_OFF_S]:
        held[k, 0], held[k, 1] = 1.0, 0.0
    return idle + more * gate if held[k, 0] > 0.5 else idle


@loop
def flow_m3_s(table, share, rises, level, rise_k):
    """What a link moves: over the states of its ways (states, levels, rises), the level of its fans and the warmth."""
    levels, warm = table.shape[1], table.shape[2]
    at = min(max(level, 0.0), 1.0) * (levels - 1)
    low = max(0, min(int(at), levels - 2))
    high, up = min(low + 1, levels - 1), at - low
    r = 0
    while r < warm - 2 and rise_k > rises[r + 1]:
        r += 1
    later = min(r + 1, warm - 1)
    on = min(1.0, max(0.0, (rise_k - rises[r]) / (rises[later] - rises[r]))) if later > r else 0.0
    total = 0.0
    for state in range(table.shape[0]):
        if share[state] != 0.0:
            here = table[state, low, r] * (1 - on) + table[state, low, later] * on
            there = table[state, high, r] * (1 - on) + table[state, high, later] * on
            total += share[state] * (here + up * (there - here))
    return total


@loop
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


@loop
def cuts_of(control, setting, slew, dt):
    """Into how many a step is cut so that no control runs through its band in one."""
    cuts = 1
    for k in range(len(control)):
        what = control[k, CONTROL_SENSE]
        if what >= 0 and setting[k, RAMP] == 0:
            rate = abs(slew[control[k, CONTROL_WHERE], what])
            cuts = max(cuts, min(10, int(rate * dt / (0.25 * max(setting[k, BAND], 1e-3))) + 1))
    return cuts


@loop
def asked(control, setting, target, drives, lit_of, sensed, held, output, level, step, h):
    """Set what controls ask of each group, 0..1, and of each enclosure's fan."""
    output[:] = 1.0
    level[:] = 0.0
    for k in range(len(control)):
        if target[k] >= 0:
            output[target[k]] = 0.0
    for k in range(len(control)):
        i, what = control[k, CONTROL_WHERE], control[k, CONTROL_SENSE]
        gate = drives[control[k, CONTROL_GATE], step] if control[k, CONTROL_GATE] >= 0 else 1.0
        lit = lit_of[i] >= 0 and drives[lit_of[i], step] > 0.5
        more = decide(k, control, setting, held, sensed[i, max(what, 0)], lit, gate, h)
        if target[k] >= 0:
            output[target[k]] = max(output[target[k]], more)
        else:
            level[-1 - target[k]] = max(level[-1 - target[k]], more)


@loop
def dryer_share(kind, temperature_c, rh_pct):
    """What a dehumidifier takes against its rating at 26.7 °C and 60 % (EnergyPlus' usual curve for refrigerant ones; a
    Peltier one falls off as that does, squared; desiccant ones hardly do; nothing below 5 °C).
    """
    if temperature_c < 5:
        return 0.0
    if kind == DESICCANT:
        return 1.0
    t, r = temperature_c, rh_pct
    share = -1.162525707 + 0.02271469 * t - 0.000113208 * t * t + 0.021110538 * r - 0.0000693034 * r * r
    share = min(1.7, max(0.0, share + 0.000378843 * t * r))
    return share * min(share, 1.0) if kind == PELTIER else share


@loop
def wet_bulb_deficit(temperature_c, ratio, pressure):
    """What air could still take up while it cools itself, W_s(T_wb) - W [kg/kg]."""
    bulb = temperature_c
    for _ in range(6):
        most, slope = saturated(bulb, pressure)
        off = HEAT_J_KGK * (temperature_c - bulb) - WATER_J_KG * (most - ratio)
        bulb += off / (HEAT_J_KGK + WATER_J_KG * slope)
    return max(0.0, saturated_ratio(bulb, pressure) - ratio)


@loop
def dry_and_wet(g, i, on, gives, x, p, push, h, pressure):
    """Let dehumidifiers take by the air they are in, and wet pads give."""
    warm, ratio = x[i, T_AIR], x[i, RATIO_AIR]
    if gives[g, RATED] > 0 and ratio > gives[g, COIL]:
        rh = 100 * vapour_pa(ratio, pressure) / saturation_pa(min(warm, 95.0))
        taken = gives[g, RATED] * dryer_share(gives[g, DRYER], warm, rh)
        push[i, DRYING] += on * taken / max(ratio - gives[g, COIL], 5e-4)
    if gives[g, PAD] > 0:
        deficit = wet_bulb_deficit(warm, ratio, pressure)
        given_off = on * min(gives[g, PAD] * deficit, deficit * p[i, AIR_KG] / h)
        push[i, VAPOUR] += given_off
        push[i, TO_AIR] -= WATER_J_KG * given_off


@loop
def given(what, drives, cut_c, sensed, tripped, x, p, tank, output, push, step, h, pressure):
    """Set what each group gives: by its hours, its controls, its tank and the safety cut-off."""
    where, drive_of, cuts, gives = what
    for i in range(len(cut_c)):
        if sensed[i, SENSE_AIR] > cut_c[i]:
            tripped[i] = 1.0
        elif sensed[i, SENSE_AIR] < cut_c[i] - _AGAIN_K:
            tripped[i] = 0.0
    push[:, :] = 0.0
    for g in range(len(where)):
        i, on = where[g], drives[drive_of[g], step] * output[g]
        if cuts[g] > 0 and tripped[i] > 0:
            on = 0.0
        if gives[g, VAPOUR] > 0 and tank[g] < 1e8:
            on = min(on, max(tank[g], 0.0) / (gives[g, VAPOUR] * h))
            tank[g] -= on * gives[g, VAPOUR] * h
        output[g] = on
        for c in range(CHANNELS):
            if c == COIL:
                push[i, c] = max(push[i, c], gives[g, c])
            elif c < RATED and (c != DRYING or x[i, RATIO_AIR] > gives[g, COIL]):
                push[i, c] += on * gives[g, c]
        if on > 0:
            dry_and_wet(g, i, on, gives, x, p, push, h, pressure)


@loop
def links(ways, table, weight, rises, door_of, drives, p, level, at, one, two, mass, density, step):
    """Set the dry air along each link [kg/s] and whence it goes: ways and holes as solved, then by way of the host what
    doors let through and what evens out the sum.
    """
    src, dst, owner, host = ways
    n, count = len(host), len(src)
    for k in range(count):
        i = owner[k]
        rise_k = abs(at[i, 0] - at[host[i], 0])
        moved = density * flow_m3_s(table[k], weight[i, :, step], rises, level[i], rise_k)
        one[k], two[k], mass[k] = src[k], dst[k], moved
        if moved < 0:
            one[k], two[k], mass[k] = dst[k], src[k], -moved
    for i in range(n):
        off, opened = 0.0, 0.0
        for k in range(count):
            if two[k] == i:
                off += mass[k]
            if one[k] == i:
                off -= mass[k]
        if door_of[i] >= 0:
            warm = max(abs(at[i, 0] - at[host[i], 0]), _DRAUGHT_K)
            opened = density * p[i, DOOR] * drives[door_of[i], step] * sqrt(warm)
        inwards = count + 2 * i
        one[inwards], two[inwards], mass[inwards] = host[i], i, opened + max(0.0, -off)
        one[inwards + 1], two[inwards + 1], mass[inwards + 1] = i, host[i], opened + max(0.0, off)


@loop
def room_changes(rooms, n, one, two, mass, change):
    """Set each room's exchange with what is beyond [kg/s]: its own, and what makes up for air that is drawn from it."""
    for q in range(len(rooms)):
        off = 0.0
        for k in range(len(mass)):
            if one[k] == n + q:
                off += mass[k]
            if two[k] == n + q:
                off -= mass[k]
        change[q] = rooms[q, ROOM_CHANGE_KG_S] + max(0.0, off)


@loop
def exchange_rows(a, b, one, two, mass, at, free):
    """Add what links bring to the rows of the airs they reach; what leaves is booked with what replaces it."""
    for k in range(len(mass)):
        to, kg_s = two[k], mass[k]
        if to < free and kg_s > 0:
            a[2 * to, 2 * to] += kg_s * HEAT_J_KGK
            a[2 * to + 1, 2 * to + 1] += kg_s
            put(a, b, 2 * to, one[k], 0, -kg_s * HEAT_J_KGK, free, at)
            put(a, b, 2 * to + 1, one[k], 1, -kg_s, free, at)


@loop
def room_rows(a, b, rooms, n, change, old, at, h):
    """Write rooms' rows: what they hold, what they lose and how their air changes."""
    free = n + len(rooms)
    for q in range(len(rooms)):
        warm, e = 2 * (n + q), free + int(rooms[q, ROOM_EDGE])
        holds = (rooms[q, ROOM_KG] * HEAT_J_KGK + rooms[q, ROOM_J_K]) / h
        a[warm, warm] += holds + rooms[q, ROOM_LOSS_W_K] + change[q] * HEAT_J_KGK
        b[warm] += holds * old[n + q, 0] + (rooms[q, ROOM_LOSS_W_K] + change[q] * HEAT_J_KGK) * at[e, 0]
        a[warm + 1, warm + 1] += rooms[q, ROOM_KG] / h + change[q]
        b[warm + 1] += rooms[q, ROOM_KG] / h * old[n + q, 1] + change[q] * at[e, 1]


@loop
def warm_beyond(a, b, i, node, c, by_w_k, host, floor, free, at):
    """Give the air beyond a sheet or under a pot the heat that passes to it."""
    if node < free:
        warm = 2 * node
        a[warm, warm] += by_w_k
        put_inner(a, b, warm, i, c, -by_w_k, host, floor, free, at)


@loop
def rows(a, b, x, y, p, host, floor, rooms, push, work, inner, moves, old, at, h, pressure, density):
    """Write all rows about the guess."""
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
    room_rows(a, b, rooms, n, change, old, at, h)
    exchange_rows(a, b, one, two, mass, at, free)


@loop
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


@loop
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


@loop
def drops(a0, b0, at, fogged, fog, n):
    """What the water rows of saturated airs have left over has turned to drops [kg/s]."""
    for i in range(n):
        fog[i] = 0.0
        if fogged[i] > 0:
            left = b0[2 * i + 1]
            for k in range(len(b0) // 2):
                left -= a0[2 * i + 1, 2 * k] * at[k, 0] + a0[2 * i + 1, 2 * k + 1] * at[k, 1]
            fog[i] = left


@loop
def oversaturated(y, fogged, pressure):
    """Mark airs that would hold more than they can; gives whether there is a new one."""
    found = False
    for i in range(len(y)):
        if fogged[i] == 0 and y[i, RATIO_AIR] > saturated_ratio(y[i, T_AIR], pressure) * (1 + 1e-9):
            fogged[i] = 1.0
            found = True
    return found


@loop
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


@loop
def given_kg_s(y, p, w, i):
    """Water that leaves and pots give off [kg/s], by the rows that were solved."""
    ratio = y[i, RATIO_AIR]
    leaf = w[i, GV] * (w[i, WS_LEAF] + w[i, S_LEAF] * (y[i, T_LEAF] - w[i, AT_LEAF]) - ratio)
    pot = p[i, POT_KG_S] * (w[i, WS_POT] + w[i, S_POT] * (y[i, T_POT] - w[i, AT_POT]) - ratio)
    return leaf + pot


@loop
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


@loop
def enter(books, kind, amount):
    """Book a gain (or a loss), and how much passed either way."""
    books[kind, GAINED] += amount
    books[kind, PASSED] += abs(amount)


@loop
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


@loop
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


@loop
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


@loop
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
def follow(sensed, slew, read, y, sensor_s, h, pressure):
    """Let the sensors that somebody reads follow what they are in."""
    nearer = 1 - exp(-h / sensor_s)
    for i in range(len(y)):
        for what in range(SENSES):
            if read[i, what] == 0:
                continue
            before = sensed[i, what]
            sensed[i, what] += nearer * (sense(y, i, what, pressure) - before)
            slew[i, what] = (sensed[i, what] - before) / h


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
            # Until saturation is where it was taken, and no air holds more than it can.
            y[:, :] = x
            fogged[:] = 0.0
            for _ in range(_PASSES):
                moves = one, two, mass, change
                rows(a, b, x, y, p, host, floor, rooms, push, work, inner, moves, old, at, h, f.pressure, f.density)
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
            follow(sensed, slew, read, y, f.sensor_s, h, f.pressure)
            for g in range(len(f.where)):
                out.groups[row, g] += share * output[g]
            for q in range(len(rooms)):
                for c in range(3):
                    out.rooms[row, q, c] += share * at[n + q, c]
            x[:, :] = y
        if over >= 0:
            break
    stored(x, p, rooms, at, out.books, AFTER)
    return over
