"""What a harvest comes to for the light that was given."""

from __future__ import annotations

from canopy.library.loader import shelf
from canopy.library.models import Cited, Window
from canopy.model import Id, Record


class YieldClass(Record):
    """Fresh harvest of a group of crops for each mol of light on the ground it covers [g/mol]; rough."""

    id: Id
    g_mol: Window
    cited: Cited


yields = shelf(YieldClass, "yields.toml", "yield")
