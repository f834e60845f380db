"""Devices in the three views, where somebody said where they stand."""

from __future__ import annotations

from canopy.plan import Space
from canopy_web.drawing.furniture import Place
from canopy_web.drawing.scene import DeviceMark

# As wide and high as they are drawn [m], never smaller nor larger than so many pixels: nobody has said how large it is.
_WIDE_M, _HIGH_M, _LEAST_PX, _MOST_PX = 0.14, 0.16, 12.0, 24.0


def draw_devices(space: Space, place: Place, plane: str, scale: float) -> tuple[DeviceMark, ...]:
    """Draw what has a place.

    Parameters
    ----------
    place : metres of the plane to pixels
    plane : "xz" from the front, "yz" from the side, "xy" from above
    scale : pixels a metre
    """
    found = []
    wide, high = (min(_MOST_PX, max(_LEAST_PX, metres * scale)) for metres in (_WIDE_M, _HIGH_M))
    for number, device in enumerate(space.devices, 1):
        if device.x_m is None or device.y_m is None:
            continue
        x, y, z = device.x_m, device.y_m, device.z_m or 0.0
        at = place(*{"xz": (x, z), "yz": (y, z), "xy": (x, y)}[plane])
        tall = wide if plane == "xy" else high
        top = at[1] - tall / 2 if plane == "xy" else at[1] - tall
        found.append(
            DeviceMark(
                id=device.id,
                number=number,
                title=device.spec.name,
                x=round(at[0] - wide / 2, 1),
                y=round(top, 1),
                w=round(wide, 1),
                h=round(tall, 1),
                x_m=x,
                y_m=y,
                z_m=z,
            )
        )
    return tuple(found)
