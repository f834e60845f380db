"""What runs in a step: sensors, controls, hours, tanks, the safety cut-off, and what devices do by the air."""

from __future__ import annotations

from math import exp

from canopy.climate.balance import CO2_PPM, HEAT_J_KGK, RATIO_AIR, T_AIR, T_LEAF, T_POT, WATER_J_KG
from canopy.climate.columns import (
    AIR_KG,
    BAND,
    CHANNELS,
    COIL,
    CONTROL_GATE,
    CONTROL_SENSE,
    CONTROL_SIGN,
    CONTROL_WHERE,
    DESICCANT,
    DRYER,
    DRYING,
    FULL,
    IDLE,
    LEAST_OFF_S,
    LEAST_ON_S,
    PAD,
    PELTIER,
    RAMP,
    RATED,
    SENSE_AIR,
    SENSE_CO2,
    SENSE_LEAF,
    SENSE_POT,
    SENSE_RH,
    SENSES,
    SET_DAY,
    SET_NIGHT,
    TO_AIR,
    VAPOUR,
)
from canopy.climate.compiled import part
from canopy.climate.moist import saturated, saturated_ratio, saturation_pa, vapour_pa

# A cut-off that has tripped lets go when it is so much cooler [K].
_AGAIN_K = 3.0
# A small air conditioner's coil, the air it is rated in (ISO 5151, T1), how much more it does in hotter air (rough).
_COIL_C, _RATED_C, _MOST_COOL = 7.0, 27.0, 1.2


@part
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


@part
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


@part
def cuts_of(control, setting, slew, dt):
    """Into how many a step is cut so that no control runs through its band in one."""
    cuts = 1
    for k in range(len(control)):
        what = control[k, CONTROL_SENSE]
        if what >= 0 and setting[k, RAMP] == 0:
            rate = abs(slew[control[k, CONTROL_WHERE], what])
            cuts = max(cuts, min(10, int(rate * dt / (0.25 * max(setting[k, BAND], 1e-3))) + 1))
    return cuts


@part
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


@part
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


@part
def wet_bulb_deficit(temperature_c, ratio, pressure):
    """What air could still take up while it cools itself, W_s(T_wb) - W [kg/kg]."""
    bulb = temperature_c
    for _ in range(6):
        most, slope = saturated(bulb, pressure)
        off = HEAT_J_KGK * (temperature_c - bulb) - WATER_J_KG * (most - ratio)
        bulb += off / (HEAT_J_KGK + WATER_J_KG * slope)
    return max(0.0, saturated_ratio(bulb, pressure) - ratio)


@part
def dry_and_wet(g, i, on, gives, x, p, push, h, pressure):
    """Let coolers and dehumidifiers take by the air they are in, and wet pads give."""
    warm, ratio = x[i, T_AIR], x[i, RATIO_AIR]
    if gives[g, TO_AIR] < 0 and gives[g, VAPOUR] == 0:
        # A coil (not a mist, whose drops cool as they dry) takes the less the nearer the air is to it, and never more
        # than the air holds above it.
        full, over = -on * gives[g, TO_AIR], max(0.0, warm - _COIL_C)
        taken = min(full * min(_MOST_COOL, over / (_RATED_C - _COIL_C)), HEAT_J_KGK * p[i, AIR_KG] * over / h)
        push[i, TO_AIR] += full - taken
    if gives[g, RATED] > 0 and ratio > gives[g, COIL]:
        rh = 100 * vapour_pa(ratio, pressure) / saturation_pa(min(warm, 95.0))
        taken = gives[g, RATED] * dryer_share(gives[g, DRYER], warm, rh)
        push[i, DRYING] += on * taken / max(ratio - gives[g, COIL], 5e-4)
    if gives[g, PAD] > 0:
        deficit = wet_bulb_deficit(warm, ratio, pressure)
        given_off = on * min(gives[g, PAD] * deficit, deficit * p[i, AIR_KG] / h)
        push[i, VAPOUR] += given_off
        push[i, TO_AIR] -= WATER_J_KG * given_off


@part
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


@part
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
