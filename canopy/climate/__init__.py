"""Climate: what the plants trade with the air. The simulation of whole days will live here."""

from canopy.climate.canopy_gas import Exchange, Stand, Surroundings, gas_exchange

__all__ = ["Exchange", "Stand", "Surroundings", "gas_exchange"]
