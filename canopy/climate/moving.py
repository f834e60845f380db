"""What air moves in a step: along ways and through holes, at doors, and what a room makes up for."""

from __future__ import annotations

from math import sqrt

from canopy.climate.columns import DOOR, ROOM_CHANGE_KG_S
from canopy.climate.compiled import loop

# An open door exchanges air as if it were warmer inside by at least a draught's worth [K].
_DRAUGHT_K = 0.5


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
