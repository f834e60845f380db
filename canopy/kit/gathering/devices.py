"""What warms, cools, wets and dries, its switches, and what watches over it all."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.kit.gathering.base import Lines, by_name, class_price
from canopy.kit.line import KitLine
from canopy.library import devices
from canopy.plan.controls import FITS

# What switches each kind of control, where the device does not bring it.
_SWITCHES = {"thermostat": "thermostat", "hygrostat": "hygrostat", "co2": "co2-regulator"}


class Devices(Lines):
    """Lines of devices and their switches."""

    def all(self) -> Iterator[KitLine]:
        """Give the devices of each name, then a switch for each that runs as the climate asks."""
        for name, items in by_name(self.space.devices).items():
            spec = items[0].spec
            yield self.line(
                "climate",
                name,
                name,
                len(items),
                spec.kind.replace("-", " "),
                kind="device",
                weight_kg=spec.weight_kg,
                power_w=spec.power_w,
                price=class_price(devices(), spec.class_id, spec.kind),
                parts=tuple(item.id for item in items),
            )
        for device in self.space.devices:
            control = device.control.kind if device.control else next(iter(FITS.get(device.spec.kind, ())), None)
            if control is not None and not device.by_clock:
                kind = _SWITCHES[control]
                yield self.little(
                    "climate",
                    kind,
                    1,
                    f"switches {device.spec.name}, unless it brings its own",
                    key=f"{kind}.{device.id}",
                    parts=(device.id,),
                )


class Watching(Lines):
    """Lines of what one watches a space by."""

    def all(self) -> Iterator[KitLine]:
        """Give meters, traps and alarms."""
        yield self.little("watching", "sensor", 1, "at leaf height")
        if self.report.here.plants:
            yield self.little("watching", "traps", 2, "one at leaf height, one on the mix")
        if self.space.feed.way == "solution":
            yield self.little("watching", "meter", 1, "pH and strength of the solution")
        yield self.little("watching", "smoke-alarm", 1, "in the room; one for all spaces of it", optional=True)
        if any(device.spec.kind == "co2" for device in self.space.devices):
            yield self.little("watching", "co2-alarm", 1, "where people breathe")
