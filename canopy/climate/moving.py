"""What air moves in a step, along ways and through holes, at doors, and what a room makes up for; what its heater and
conditioner do.
"""

from __future__ import annotations

from math import sqrt

from canopy.climate.balance import HEAT_J_KGK
from canopy.climate.columns import (
    DOOR,
    ROOM_CHANGE_KG_S,
    ROOM_COOL_C,
    ROOM_COOLING_W,
    ROOM_DRIVE,
    ROOM_HEAT_C,
    ROOM_HEATING_W,
)
from canopy.climate.compiled import part

# An open door exchanges air as if it were warmer inside by at least a draught's worth [K].
_DRAUGHT_K = 0.5
# A small air conditioner's coil acts as if all air at it came to 11.3 °C, saturated: then three quarters of what it
# takes in the air it is rated in (27 °C, 47 %; ISO 5151, T1) are dry heat. In hotter air it does more (rough).
_COIL_C, _COIL_RATIO, _RATED_K, _MOST_COOL = 11.3, 0.0083, 15.7, 1.2
# What a room's machines do is straight about the guess: heat [W] is BASE - SLOPE x warmth, water [kg/s] COILED x what
# the air has less than the coil; for how much of the step they may run.
SLOPE, BASE, COILED, MAY, TERMS = range(5)


@part
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


@part
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


@part
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


@part
def machine_share(rooms, q, warm):
    """How hard a room's heater and its conditioner run at a warmth, 0..1 each: in step over the last kelvin."""
    heating = min(1.0, max(0.0, rooms[q, ROOM_HEAT_C] - warm)) if rooms[q, ROOM_HEATING_W] > 0 else 0.0
    cooling = min(1.0, max(0.0, warm - rooms[q, ROOM_COOL_C])) if rooms[q, ROOM_COOLING_W] > 0 else 0.0
    return heating, cooling


@part
def let_run(rooms, drives, step, terms):
    """Set for how much of a step rooms' machines may run."""
    for q in range(len(rooms)):
        drive = int(rooms[q, ROOM_DRIVE])
        terms[q, MAY] = drives[drive, step] if drive >= 0 else 1.0


@part
def machines(rooms, q, warm, ratio, terms):
    """Set what a room's heater and conditioner do, about a guess of its air."""
    heating, cooling = machine_share(rooms, q, warm)
    heats = terms[q, MAY] * rooms[q, ROOM_HEATING_W]
    cools = terms[q, MAY] * rooms[q, ROOM_COOLING_W] * min(_MOST_COOL, max(0.0, warm - _COIL_C) / _RATED_K)
    terms[q, :MAY] = 0.0
    if 0.0 < heating < 1.0:
        terms[q, SLOPE], terms[q, BASE] = heats, heats * rooms[q, ROOM_HEAT_C]
    else:
        terms[q, BASE] = heats * heating
    if 0.0 < cooling < 1.0:
        terms[q, SLOPE] += cools
        terms[q, BASE] += cools * rooms[q, ROOM_COOL_C]
    else:
        terms[q, BASE] -= cools * cooling
    if ratio > _COIL_RATIO:
        terms[q, COILED] = cooling * cools / (HEAT_J_KGK * _RATED_K)


@part
def machine_heat_w(terms, q, warm):
    """Dry heat that a room's machines give its air, by the rows that were solved [W]."""
    return terms[q, BASE] - terms[q, SLOPE] * warm


@part
def coiled_kg_s(terms, q, ratio):
    """Water that a room's conditioner takes, by the rows that were solved [kg/s]."""
    return terms[q, COILED] * (ratio - _COIL_RATIO)
