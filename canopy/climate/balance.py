"""One step of the simulation: heat and water of all enclosures and rooms in one linear system, implicit in time.

Backward Euler with saturation taken straight about the last guess and taken again until it stays (Newton): leaves,
sheet, pots and lamps' bodies of an enclosure are eliminated by hand, what is left are the warmth and the water of each
air. The fluxes that are booked are those of the rows that were solved, so that heat and water close exactly.
"""

from __future__ import annotations

from math import exp, sqrt

from canopy.climate.columns import (
    AIR_KG,
    AREA_COLD,
    COIL,
    DRYING,
    FLOOR_W_K,
    GROUND_M2,
    INSIDE_W_K,
    LAI,
    LAMP_J_K,
    LAMP_W_K,
    LEAF_J_K,
    LEAF_M,
    LEAST_S_M,
    OUTSIDE_W_K,
    POT_J_K,
    POT_KG_S,
    POT_W_K,
    PPFD,
    SHARE_COLD,
    SHEET_J_K,
    SPEED_M_S,
    TO_AIR,
    TO_LAMP,
    TO_LEAF,
    TO_POT,
    TO_SHEET,
    VAPOUR,
)
from canopy.climate.compiled import part
from canopy.climate.moist import saturated, saturation_pa, vapour_pa

HEAT_J_KGK, WATER_J_KG = 1020.0, 2.45e6
# Convection at a wall [W/m²K], and Lewis' number to two thirds: what carries water where heat goes.
_WALL_W_M2K, _LEWIS = 3.0, 0.9
# Water on a surface: wets it all from here on, and runs off beyond [kg/m²].
WET_KG_M2, MOST_KG_M2 = 0.05, 0.12
_D0_PA, _OPENS_S = 1500.0, 600.0

# State of an enclosure: warmth of air, leaves, sheet, pots, lamps' bodies; water of the air; CO2; stomata; water on the
# colder and on the other surface.
T_AIR, T_LEAF, T_SHEET, T_POT, T_LAMP, RATIO_AIR, CO2_PPM, STOMATA, FILM_COLD, FILM_REST, STATES = range(11)
# What is worked out for an enclosure in a step: conductances of leaves for heat, water and radiation; for each of the
# two surfaces its conductance for water and a fixed flux; their saturation and its slope about the guess.
(
    GH,
    GV,
    GR,
    G_COLD,
    C_COLD,
    G_REST,
    C_REST,
    WS_LEAF,
    S_LEAF,
    AT_LEAF,
    WS_POT,
    S_POT,
    AT_POT,
    WS_COLD,
    S_COLD,
    WS_REST,
    S_REST,
    AT_COLD,
    AT_REST,
    WORK,
) = range(20)
# Inner nodes as straight functions of (1, air, water, beyond, floor).
IN_LEAF, IN_SHEET, IN_POT, IN_LAMP, INNER = range(5)


@part
def stomata_s_m(light_w_m2, co2_ppm, least_s_m, deficit_pa):
    """Resistance of a leaf's stomata [s/m] (Stanghellini 1987; vapour deficit of the Leuning kind)."""
    lit = light_w_m2 > 0.01
    by_co2 = min(1 + 6.1e-7 * max(0.0, co2_ppm - 200) ** 2, 1.5) if lit else 1.0
    by_deficit = min(1 + max(deficit_pa, 0.0) / _D0_PA, 5.0)
    return least_s_m * (light_w_m2 + 4.3) / (light_w_m2 + 0.54) * by_co2 * by_deficit


@part
def relax_stomata(x, p, push, i, dt, pressure):
    """Let stomata follow light, CO2 and deficit, as leaves do within ten minutes."""
    if p[i, GROUND_M2] <= 0:
        return
    light = push[i, PPFD] / 4.8 * 0.87 * (1 - exp(-0.75 * p[i, LAI])) / (2 * p[i, LAI])
    deficit = saturation_pa(min(x[i, T_LEAF], 60.0)) - vapour_pa(x[i, RATIO_AIR], pressure)
    wanted = stomata_s_m(light, x[i, CO2_PPM], p[i, LEAST_S_M], deficit)
    if x[i, STOMATA] <= 0:
        x[i, STOMATA] = wanted
    x[i, STOMATA] += (1 - exp(-dt / _OPENS_S)) * (wanted - x[i, STOMATA])


@part
def conductances(x, y, p, w, i, host_c, dt, pressure, density):
    """What conducts heat and water in an enclosure about the guess ``y``, films as they were in ``x``."""
    ground, lai = p[i, GROUND_M2], p[i, LAI]
    w[i, GH] = w[i, GV] = w[i, GR] = 0.0
    w[i, AT_LEAF], w[i, AT_POT] = y[i, T_LEAF], y[i, T_POT]
    w[i, WS_LEAF], w[i, S_LEAF] = saturated(y[i, T_LEAF], pressure)
    if ground > 0:
        size, speed = p[i, LEAF_M], p[i, SPEED_M_S]
        still = size * abs(y[i, T_LEAF] - y[i, T_AIR]) + 207 * speed * speed
        boundary = 1174 * sqrt(size) / sqrt(sqrt(max(still, 1e-6)))
        faces = 2 * lai * ground * density
        # Dew on a leaf needs no stomata.
        shut = x[i, STOMATA] if w[i, WS_LEAF] > y[i, RATIO_AIR] else 0.0
        w[i, GH] = faces * HEAT_J_KGK / boundary
        w[i, GV] = faces / (0.93 * boundary + shut)
        w[i, GR] = 2 * ground * (1 - exp(-0.94 * lai)) * 5.4
    w[i, WS_POT], w[i, S_POT] = saturated(y[i, T_POT], pressure)
    for k in range(2):
        area, share = p[i, AREA_COLD + 2 * k], p[i, SHARE_COLD + 2 * k]
        if area <= 0:
            w[i, G_COLD + 2 * k] = w[i, C_COLD + 2 * k] = 0.0
            continue
        there = host_c + share * (y[i, T_SHEET] - host_c)
        ws, slope = saturated(there, pressure)
        film = x[i, FILM_COLD + k]
        g, fixed = _WALL_W_M2K * area / (HEAT_J_KGK * _LEWIS), 0.0
        if ws >= y[i, RATIO_AIR]:
            g *= min(1.0, film / max(WET_KG_M2 * area, 1e-12))
            if g * (ws - y[i, RATIO_AIR]) * dt > film:
                g, fixed = 0.0, -film / dt
        w[i, G_COLD + 2 * k], w[i, C_COLD + 2 * k] = g, fixed
        w[i, WS_COLD + 2 * k], w[i, S_COLD + 2 * k] = ws, slope
        w[i, AT_COLD + k] = there


@part
def eliminate(x, p, push, w, inner, i, dt):
    """Write leaves, sheet, pots and lamps' bodies as straight functions of air, water, the beyond and the floor."""
    c = inner[i]
    c[:, :] = 0.0
    # Lamps' bodies and pots stand alone.
    below = p[i, LAMP_J_K] / dt + p[i, LAMP_W_K]
    c[IN_LAMP, 0] = (p[i, LAMP_J_K] / dt * x[i, T_LAMP] + push[i, TO_LAMP]) / below
    c[IN_LAMP, 1] = p[i, LAMP_W_K] / below
    wet, slope = WATER_J_KG * p[i, POT_KG_S], w[i, S_POT]
    below = p[i, POT_J_K] / dt + p[i, POT_W_K] + p[i, FLOOR_W_K] + wet * slope
    c[IN_POT, 0] = p[i, POT_J_K] / dt * x[i, T_POT] + push[i, TO_POT] - wet * (w[i, WS_POT] - slope * w[i, AT_POT])
    c[IN_POT, 0] /= below
    c[IN_POT, 1], c[IN_POT, 2], c[IN_POT, 4] = p[i, POT_W_K] / below, wet / below, p[i, FLOOR_W_K] / below
    # Leaves and sheet shine on each other.
    gh, gv, gr = w[i, GH], WATER_J_KG * w[i, GV], w[i, GR]
    a11 = p[i, LEAF_J_K] / dt + gh + gv * w[i, S_LEAF] + gr
    a22 = p[i, SHEET_J_K] / dt + p[i, INSIDE_W_K] + p[i, OUTSIDE_W_K] + gr
    b20 = p[i, SHEET_J_K] / dt * x[i, T_SHEET] + push[i, TO_SHEET]
    b22, b23 = 0.0, p[i, OUTSIDE_W_K]
    for k in range(2):
        g, fixed = WATER_J_KG * w[i, G_COLD + 2 * k], WATER_J_KG * w[i, C_COLD + 2 * k]
        share, s = p[i, SHARE_COLD + 2 * k], w[i, S_COLD + 2 * k]
        at = w[i, AT_COLD + k]
        a22 += g * s * share
        b20 += fixed - g * (w[i, WS_COLD + 2 * k] - s * at)
        b22 += g
        b23 -= g * s * (1 - share)
    b10 = p[i, LEAF_J_K] / dt * x[i, T_LEAF] + push[i, TO_LEAF] - gv * (w[i, WS_LEAF] - w[i, S_LEAF] * w[i, AT_LEAF])
    whole = a11 * a22 - gr * gr
    c[IN_LEAF, 0], c[IN_SHEET, 0] = (b10 * a22 + gr * b20) / whole, (a11 * b20 + gr * b10) / whole
    c[IN_LEAF, 1] = (gh * a22 + gr * p[i, INSIDE_W_K]) / whole
    c[IN_SHEET, 1] = (a11 * p[i, INSIDE_W_K] + gr * gh) / whole
    c[IN_LEAF, 2], c[IN_SHEET, 2] = (gv * a22 + gr * b22) / whole, (a11 * b22 + gr * gv) / whole
    c[IN_LEAF, 3], c[IN_SHEET, 3] = gr * b23 / whole, a11 * b23 / whole


@part
def put(a, b, row, node, wet, factor, free, at):
    """Add a term ``factor`` × an air's warmth (or water, ``wet`` 1) to a row: an unknown, or an air that is given."""
    if node < free:
        a[row, 2 * node + wet] += factor
    else:
        b[row] -= factor * at[node, wet]


@part
def put_inner(a, b, row, i, c, factor, host, floor, free, at):
    """Add ``factor`` × an inner node's temperature to a row."""
    b[row] -= factor * c[0]
    a[row, 2 * i] += factor * c[1]
    a[row, 2 * i + 1] += factor * c[2]
    if c[3] != 0.0:
        put(a, b, row, host, 0, factor * c[3], free, at)
    if c[4] != 0.0:
        put(a, b, row, floor, 0, factor * c[4], free, at)


@part
def air_rows(a, b, x, p, push, w, inner, i, host, floor, dt, free, at):
    """Write an enclosure's two rows, heat and water, but for the air that comes and goes."""
    warm, wet, c = 2 * i, 2 * i + 1, inner[i]
    kg = p[i, AIR_KG]
    a[warm, warm] += kg * HEAT_J_KGK / dt + p[i, INSIDE_W_K] + p[i, POT_W_K] + p[i, LAMP_W_K] + w[i, GH]
    b[warm] += kg * HEAT_J_KGK / dt * x[i, T_AIR] + push[i, TO_AIR]
    put_inner(a, b, warm, i, c[IN_SHEET], -p[i, INSIDE_W_K], host, floor, free, at)
    put_inner(a, b, warm, i, c[IN_POT], -p[i, POT_W_K], host, floor, free, at)
    put_inner(a, b, warm, i, c[IN_LAMP], -p[i, LAMP_W_K], host, floor, free, at)
    put_inner(a, b, warm, i, c[IN_LEAF], -w[i, GH], host, floor, free, at)
    # What a machine takes out of the air leaves its heat of evaporation there.
    a[warm, wet] -= WATER_J_KG * push[i, DRYING]
    b[warm] -= WATER_J_KG * push[i, DRYING] * push[i, COIL]
    a[wet, wet] += kg / dt + w[i, GV] + p[i, POT_KG_S] + push[i, DRYING]
    b[wet] += kg / dt * x[i, RATIO_AIR] + push[i, VAPOUR] + push[i, DRYING] * push[i, COIL]
    b[wet] += w[i, GV] * (w[i, WS_LEAF] - w[i, S_LEAF] * w[i, AT_LEAF])
    put_inner(a, b, wet, i, c[IN_LEAF], -w[i, GV] * w[i, S_LEAF], host, floor, free, at)
    b[wet] += p[i, POT_KG_S] * (w[i, WS_POT] - w[i, S_POT] * w[i, AT_POT])
    put_inner(a, b, wet, i, c[IN_POT], -p[i, POT_KG_S] * w[i, S_POT], host, floor, free, at)
    for k in range(2):
        g, share, s = w[i, G_COLD + 2 * k], p[i, SHARE_COLD + 2 * k], w[i, S_COLD + 2 * k]
        about = w[i, AT_COLD + k]
        a[wet, wet] += g
        b[wet] += g * (w[i, WS_COLD + 2 * k] - s * about) - w[i, C_COLD + 2 * k]
        put_inner(a, b, wet, i, c[IN_SHEET], -g * s * share, host, floor, free, at)
        put(a, b, wet, host, 0, -g * s * (1 - share), free, at)


@part
def solve_rows(a, b, n):
    """Solve the rows in place (Gauss, the largest pivot first); the answer is in ``b``."""
    for k in range(n):
        best = k
        for row in range(k + 1, n):
            if abs(a[row, k]) > abs(a[best, k]):
                best = row
        if best != k:
            for col in range(k, n):
                a[k, col], a[best, col] = a[best, col], a[k, col]
            b[k], b[best] = b[best], b[k]
        for row in range(k + 1, n):
            factor = a[row, k] / a[k, k]
            if factor != 0.0:
                for col in range(k, n):
                    a[row, col] -= factor * a[k, col]
                b[row] -= factor * b[k]
    for k in range(n - 1, -1, -1):
        for col in range(k + 1, n):
            b[k] -= a[k, col] * b[col]
        b[k] /= a[k, k]


@part
def inner_c(c, air_c, ratio, host_c, floor_c):
    """Temperature of an inner node, by its straight function."""
    return c[0] + c[1] * air_c + c[2] * ratio + c[3] * host_c + c[4] * floor_c
