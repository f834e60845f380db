"""Air: what is needed, what fans and openings bring about, and what it is like inside and in the room."""

from canopy.air.demand import BY_NIGHT, CRITERIA, AirNeeds, Demand, demands, exchange_flow_m3_h, governing
from canopy.air.shell import door_flow_m3_h, envelope_w_k, is_open, leak_m2, open_faces, volume_m3
from canopy.air.ventilation import Breath, Ventilation, WayFlow, breath, ventilation

__all__ = [
    "BY_NIGHT",
    "CRITERIA",
    "AirNeeds",
    "Breath",
    "Demand",
    "Ventilation",
    "WayFlow",
    "breath",
    "demands",
    "door_flow_m3_h",
    "envelope_w_k",
    "exchange_flow_m3_h",
    "governing",
    "is_open",
    "leak_m2",
    "open_faces",
    "ventilation",
    "volume_m3",
]
