"""The demo's stand-ins for sensors: a process of its own that speaks what a hub, plugs, a meter and a weather station
would.
"""
