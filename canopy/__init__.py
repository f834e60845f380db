"""Mild Canopy's core: the rules and the computation, without any interface."""

__version__ = "0.1.0"
