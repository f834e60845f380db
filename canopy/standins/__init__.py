"""Stand-ins for sensors: a household as it really is, not quite as planned, and probes not quite right.

They let one see and test the log without owning a sensor. All of it follows from a seed.
"""
