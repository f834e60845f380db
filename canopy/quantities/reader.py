"""How a person reads figures: their unit system, and light as PPFD, lux or foot-candles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from canopy.quantities.show import number, significant

LightKey = Literal["ppfd", "lux", "fc"]
PPFD, PPF = "µmol/m²/s", "µmol/s"
# Says how far lux and foot-candles may be off, where light is read so; nothing where it is read as PPFD.
LIGHT_DOUBT = "doubt of light"
# One foot-candle is one lumen per square foot; 1 ft² = 0.09290304 m² exactly.
LUX_PER_FOOT_CANDLE = 1 / 0.09290304
_NAMES: dict[str, str] = {"ppfd": f"PPFD, {PPFD}", "lux": "lux", "fc": "foot-candles"}
_SYMBOLS: dict[str, str] = {"ppfd": PPFD, "lux": "lx", "fc": "fc"}


@dataclass(frozen=True, kw_only=True)
class LightUnit:
    """A unit of light, with what one µmol/m²/s of the light at hand is in lux, and how far that may be off [share].

    Photons turn into lux through the light's colour: another lamp, another factor.
    """

    key: LightKey = "ppfd"
    lux_per_umol: float = 1.0
    doubt: float = 0.0

    @property
    def per_umol(self) -> float:
        """What one µmol/m²/s is in this unit."""
        per = {"ppfd": 1.0, "lux": self.lux_per_umol, "fc": self.lux_per_umol / LUX_PER_FOOT_CANDLE}
        return per[self.key]

    @property
    def symbol(self) -> str:
        """Its printed symbol."""
        return _SYMBOLS[self.key]

    @property
    def is_photons(self) -> bool:
        """Whether light is read as PPFD."""
        return self.key == "ppfd"

    def over(self, what: str) -> str:
        """Write what stands over a picture of it.

        Parameters
        ----------
        what : what is shown, such as "at 50 cm"

        Returns
        -------
        str : such as "PPFD at 50 cm, µmol/m²/s" or "Foot-candles at 50 cm ± 8 %"
        """
        if self.is_photons:
            return f"PPFD {what}, {PPFD}"
        return f"{_NAMES[self.key].capitalize()} {what}{self.doubt_text}"

    @property
    def title(self) -> str:
        """What stands over a column of it, with its doubt."""
        return _NAMES[self.key] + self.doubt_text

    @property
    def doubt_text(self) -> str:
        """How far it may be off, such as " ± 8 %"; nothing for PPFD and where nothing was turned."""
        return "" if self.is_photons or self.doubt < 0.005 else f" ±\u00a0{100 * self.doubt:.0f}\u00a0%"

    def number(self, ppfd_umol_m2_s: float, decimals: int | None = None) -> str:
        """Write a PPFD as a number of this unit.

        Parameters
        ----------
        ppfd_umol_m2_s : the light [µmol/m²/s], not negative
        decimals : so many decimals for PPFD; three significant digits when None, and for lux and foot-candles

        Returns
        -------
        str : the number; "under 1" (of PPFD) for what no leaf can use and no model knows
        """
        if 0 < ppfd_umol_m2_s < 1:
            return f"under {significant(self.per_umol, 1)}"
        value = ppfd_umol_m2_s * self.per_umol
        if self.is_photons and decimals is not None:
            return number(value, decimals)
        return significant(value)

    def text(self, ppfd_umol_m2_s: float) -> str:
        """Write a PPFD with this unit.

        Parameters
        ----------
        ppfd_umol_m2_s : the light [µmol/m²/s], not negative

        Returns
        -------
        str : such as "243 µmol/m²/s" or "1510 fc"
        """
        return f"{self.number(ppfd_umol_m2_s)}\u00a0{self.symbol}"

    def output(self, ppf_umol_s: float) -> str:
        """Write a lamp's photons: as µmol/s, or as lumens where light is read in lux or foot-candles.

        Parameters
        ----------
        ppf_umol_s : its photons [µmol/s]

        Returns
        -------
        str : such as "820 µmol/s" or "54400 lm"
        """
        if self.is_photons:
            return f"{significant(ppf_umol_s)}\u00a0{PPF}"
        return f"{significant(ppf_umol_s * self.lux_per_umol)}\u00a0lm"


@dataclass(frozen=True, kw_only=True)
class Reader:
    """How a person reads figures: "metric" or "us", and their unit of light."""

    system: str = "metric"
    light: LightUnit = LightUnit()


def reader_of(reader: str | Reader) -> Reader:
    """Take a unit system alone for a reader who reads light as PPFD.

    Parameters
    ----------
    reader : "metric", "us", or a reader

    Returns
    -------
    Reader : the reader
    """
    return Reader(system=reader) if isinstance(reader, str) else reader
