"""What air feels in a carbon filter: how fast it meets the bed, how long it stays, how long the bed will last."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

from canopy.equipment import FilterSpec

CARBON_KG_M3 = 480.0
FACE_GOOD_M_S, FACE_MOST_M_S = 0.25, 0.40
CONTACT_GOOD_S, CONTACT_POOR_S = 0.10, 0.06
# Above this humidity water fills the pores of the carbon.
DAMP_RH_PCT = 70.0
# Resistance of a filter that has aged, for looking ahead.
AGED = 1.5


@dataclass(frozen=True, kw_only=True)
class FilterLoad:
    """A filter at a flow; what needs the bed's measures is None where they are not known.

    ``life_share`` is how long it lasts against what its rated flow would leave of it.
    """

    part_id: str
    flow_m3_h: float
    rated_share: float
    face_m_s: float | None
    contact_s: float | None
    carbon_kg: float | None
    life_share: float
    drop_pa: float
    aged_drop_pa: float


def filter_load(part_id: str, spec: FilterSpec, flow_m3_h: float, loading: float = 1.0) -> FilterLoad:
    """Judge a filter's bed at a flow.

    Parameters
    ----------
    part_id : its id
    spec : the filter
    flow_m3_h : flow through it [m³/h]
    loading : its resistance against new

    Returns
    -------
    FilterLoad : face velocity on the middle of the bed, empty-bed contact time, carbon, relative life

    Notes
    -----
    By definition A_f = π (D_i + t) L, V_b = π/4 ((D_i + 2 t)² − D_i²) L, contact = V_b/Q, carbon 480 kg/m³; life
    goes with the bed and inversely with the flow.
    """
    flow = flow_m3_h / 3600
    face = contact = carbon = None
    if spec.bed_inner_m and spec.bed_thickness_m and spec.bed_length_m:
        inner, bed, length = spec.bed_inner_m, spec.bed_thickness_m, spec.bed_length_m
        volume = pi / 4 * ((inner + 2 * bed) ** 2 - inner**2) * length
        carbon = CARBON_KG_M3 * volume
        face = flow / (pi * (inner + bed) * length)
        contact = volume / flow if flow > 0 else None
    ratio = max(flow_m3_h, 0.0) / spec.rated_flow_m3_h
    drop = spec.rated_pressure_pa * ratio**spec.exponent
    return FilterLoad(
        part_id=part_id,
        flow_m3_h=flow_m3_h,
        rated_share=ratio,
        face_m_s=face,
        contact_s=contact,
        carbon_kg=carbon,
        life_share=1 / ratio if ratio > 0 else float("inf"),
        drop_pa=drop * loading,
        aged_drop_pa=drop * max(loading, AGED),
    )
