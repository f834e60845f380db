"""Kit, cuts and build: everything that a plan implies on the way to a standing space."""

from canopy.kit.gather import kit_of
from canopy.kit.line import Kit, KitLine

__all__ = ["Kit", "KitLine", "kit_of"]
