"""The Space station: the bare space, its room, what stands and hangs in it."""

from __future__ import annotations

from canopy.design.shell import fresh
from canopy_web.stations.space.forms import OpeningForm
from canopy_web.stations.space.furnish_forms import ColumnForm, DaylightForm, HungForm, ShelfForm, TrellisForm
from canopy_web.stations.space.shown import space_tab
from canopy_web.workspace.station import PartKind, Station, Tab, plain

SPACE = Station(
    key="space",
    name="Space",
    urls="canopy_web.stations.space.urls",
    tabs=(Tab(key="space", name="Space", template="space/_space.html", fill=space_tab),),
    parts=(
        PartKind(
            collection="openings",
            noun="opening",
            form=plain(OpeningForm),
            axes=("u_m", "v_m"),
            fresh=fresh.fresh_opening,
        ),
        PartKind(collection="shelves", noun="shelf", form=plain(ShelfForm), fresh=fresh.fresh_shelf),
        PartKind(collection="columns", noun="column", form=plain(ColumnForm), fresh=fresh.fresh_column),
        PartKind(collection="trellises", noun="trellis", form=plain(TrellisForm), fresh=fresh.fresh_trellis),
        PartKind(
            collection="hung",
            noun="hung thing",
            form=plain(HungForm),
            fresh=fresh.fresh_hung,
            named="something hung",
        ),
        PartKind(collection="daylight", noun="window", form=plain(DaylightForm), fresh=fresh.fresh_window),
    ),
    layers=frozenset({"ports"}),
    assumed={"faces": "the linings", "room": "the room's climate", "openings": "the openings"},
)
