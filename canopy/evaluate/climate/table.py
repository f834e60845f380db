"""A run as a table: one column a quantity and device, units in the header; and the last day's figures."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.climate.simulate import Days
from canopy.evaluate.climate.days import Simulated
from canopy.plan.document import Space

_COLUMNS = {
    "air_c": "air_degC",
    "rh_pct": "rh_pct",
    "vpd_kpa": "vpd_kPa",
    "leaf_c": "leaf_degC",
    "leaf_vpd_kpa": "leaf_vpd_kPa",
    "dew_c": "dew_point_degC",
    "cold_c": "coldest_surface_degC",
    "root_c": "root_degC",
    "lamp_c": "lamp_body_degC",
    "co2_ppm": "co2_ppm",
    "flow_m3_h": "air_in_m3_h",
    "given_g_h": "water_given_g_h",
    "condensed_g_h": "condensing_g_h",
    "film_g": "water_on_surfaces_g",
    "lit": "lamps_on_share",
}


def _devices(days: Days, space: Space) -> list[tuple[str, int]]:
    ids = [group.id for group in days.system.groups]
    return [(d.id, ids.index(f"{space.id}/{d.id}")) for d in space.devices if f"{space.id}/{d.id}" in ids]


def rows_of(days: Days, space: Space) -> Iterator[list[str]]:
    """Write a run as rows of text.

    Parameters
    ----------
    days : the run
    space : whose

    Returns
    -------
    iterator of list of str : the header, then a row for each interval
    """
    found = Simulated(days=days, space_id=space.id, assumed=()).traces
    devices = _devices(days, space)
    yield ["t_h", *_COLUMNS.values(), *(f"{key}_share" for key, _ in devices)]
    for row in range(len(found.hours)):
        values = [getattr(found, name)[row] for name in _COLUMNS]
        shares = [days.groups[row, number] for _, number in devices]
        yield [f"{found.hours[row]:.4f}", *(f"{value:.5g}" for value in values), *(f"{share:.4f}" for share in shares)]


def summary_of(days: Days, space: Space) -> Iterator[list[str]]:
    """Write the last day's figures.

    Parameters
    ----------
    days : the run
    space : whose

    Returns
    -------
    iterator of list of str : quantity, mean by day and by night, lowest and highest; then water, devices and what does
        not close
    """
    found = Simulated(days=days, space_id=space.id, assumed=())
    yield ["quantity", "day_mean", "night_mean", "lowest", "highest"]
    for name, header in _COLUMNS.items():
        values = getattr(found.traces, name)[found.last]
        yield [
            header,
            f"{found.mean(name, day=True):.5g}",
            f"{found.mean(name, day=False):.5g}",
            f"{values.min():.5g}",
            f"{values.max():.5g}",
        ]
    yield ["condensed_g_d", f"{found.condensed_g_d:.4g}"]
    yield ["wet_h", f"{found.wet_hours:.3g}"]
    for key, number in _devices(days, space):
        yield [f"{key}_share", f"{days.groups[found.last, number].mean():.4f}"]
    yield ["not_closed_heat", f"{days.closure.heat:.1e}"]
    yield ["not_closed_water", f"{days.closure.water:.1e}"]
