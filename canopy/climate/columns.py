"""Where each figure of an enclosure lies in the arrays that the compiled loop reads, and in those it writes."""

from __future__ import annotations

# What an enclosure is: dry air [kg]; sheet inside and outside [W/K]; sheet [J/K]; the two kinds of its surface, the
# colder one first: area [m²] and how much of the sheet's difference to the beyond it has; leaves: heat [J/K], ground
# [m²], leaf area index, least resistance of a leaf [s/m], its size [m], air speed over it [m/s]; pots: conductance to
# air [W/K], for vapour [kg/s], heat [J/K], conductance to the floor [W/K]; lamps' bodies: heat [J/K] and conductance
# [W/K]; an open door [m³/s per √K]; what roots and medium breathe out [mol/s].
(
    AIR_KG,
    INSIDE_W_K,
    OUTSIDE_W_K,
    SHEET_J_K,
    AREA_COLD,
    SHARE_COLD,
    AREA_REST,
    SHARE_REST,
    LEAF_J_K,
    GROUND_M2,
    LAI,
    LEAST_S_M,
    LEAF_M,
    SPEED_M_S,
    POT_W_K,
    POT_KG_S,
    POT_J_K,
    FLOOR_W_K,
    LAMP_J_K,
    LAMP_W_K,
    DOOR,
    BREATH_MOL_S,
    PARAMETERS,
) = range(23)

# What a room is: which given air is what it would be without the spaces in it; its dry air [kg], what else in it takes
# up heat [J/K], what it loses to the rest of the home [W/K], its own exchange of air [kg/s]; a heater's most [W] and
# what it heats to [°C]; what a conditioner takes of dry heat [W] and what it cools to; what must let both run (or -1).
(
    ROOM_EDGE,
    ROOM_KG,
    ROOM_J_K,
    ROOM_LOSS_W_K,
    ROOM_CHANGE_KG_S,
    ROOM_HEATING_W,
    ROOM_HEAT_C,
    ROOM_COOLING_W,
    ROOM_COOL_C,
    ROOM_DRIVE,
    ROOM_COLUMNS,
) = range(11)
# What is written down of a room, as means: warmth, water and CO2 of its air; shares of its heater and conditioner.
ROOM_OUT_HEATING, ROOM_OUT_COOLING, ROOM_OUTPUTS = 3, 4, 5

# What a group of lamps or devices does to an enclosure while it runs: light on the leaves [µmol/m²/s]; heat [W] to
# leaves, sheet, pots, lamps' bodies and air; water given [kg/s]; CO2 given [mol/s]; water taken: kg/s per kg/kg above
# the coil's, and the coil's humidity ratio; water a dryer is rated for at 26.7 °C and 60 % [kg/s], its kind (1 with
# refrigerant, 2 desiccant, 3 Peltier); what a wet pad gives for each kg/kg of its air's wet-bulb deficit [kg/s].
PPFD, TO_LEAF, TO_SHEET, TO_POT, TO_LAMP, TO_AIR, VAPOUR, GAS, DRYING, COIL, RATED, DRYER, PAD, CHANNELS = range(14)
REFRIGERANT, DESICCANT, PELTIER = 1.0, 2.0, 3.0

# What is written down of an enclosure, as means over an interval; water on its surfaces at the end of it [kg].
(
    OUT_AIR,
    OUT_RATIO,
    OUT_LEAF,
    OUT_SHEET,
    OUT_POT,
    OUT_LAMP,
    OUT_CO2,
    OUT_GIVEN,
    OUT_CONDENSED,
    OUT_FILM,
    OUT_FLOW,
    OUT_COLD,
    OUT_LIT,
    OUTPUTS,
) = range(14)

# What a sensor reads.
SENSE_AIR, SENSE_RH, SENSE_POT, SENSE_LEAF, SENSE_CO2, SENSE_VPD, SENSES = range(7)

# A control: the enclosure it senses in, what it senses, 1 runs below and -1 above its setting, the group that must
# allow it (or -1), whether it drives a fan (its enclosure) or a group.
CONTROL_WHERE, CONTROL_SENSE, CONTROL_SIGN, CONTROL_GATE, CONTROL_INTS = range(5)
# Its settings by day and by night, the band between on and off, over how much it rises from least to full output (0:
# on or off), least time on and off [s], output while it does not ask, and while it does.
SET_DAY, SET_NIGHT, BAND, RAMP, LEAST_ON_S, LEAST_OFF_S, IDLE, FULL, CONTROL_REALS = range(9)
