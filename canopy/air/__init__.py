"""Air: what is needed and what a fan is likely to deliver. Air paths and curves will live here."""

from canopy.air.delivery import delivered_share, envelope_w_k, fan_flow_m3_h, is_open, passive_flow_m3_h, volume_m3
from canopy.air.demand import CRITERIA, AirNeeds, Demand, demands, exchange_flow_m3_h, governing

__all__ = [
    "CRITERIA", "AirNeeds", "Demand", "delivered_share", "demands", "envelope_w_k", "exchange_flow_m3_h",
    "fan_flow_m3_h", "governing", "is_open", "passive_flow_m3_h", "volume_m3",
]  # fmt: skip
