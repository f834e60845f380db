"""How a lamp's light is spread over directions, normalised so that the whole sphere sums to one."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.equipment import Photometry

Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True, eq=False)
class IntensityTable:
    """Intensity per photon by direction: ``values`` (h, v) at ``horizontal_deg`` 0..360 (h,) and ``vertical_deg``
    (v,).
    """

    horizontal_deg: Array
    vertical_deg: Array
    values: Array

    @classmethod
    def of(cls, photometry: Photometry) -> IntensityTable:
        """Unfold a lamp's symmetry and scale its table to one photon.

        Parameters
        ----------
        photometry : the lamp's intensities as kept in a plan

        Returns
        -------
        IntensityTable : all round, its integral over the sphere 1
        """
        raw = cls.unfolded(photometry)
        return cls(horizontal_deg=raw.horizontal_deg, vertical_deg=raw.vertical_deg, values=raw.values / raw.total())

    @classmethod
    def unfolded(cls, photometry: Photometry) -> IntensityTable:
        """Unfold a lamp's symmetry.

        Parameters
        ----------
        photometry : the lamp's intensities as kept in a plan

        Returns
        -------
        IntensityTable : all round, its intensities as they are given
        """
        horizontal, rows = np.array(photometry.horizontal_deg), np.array(photometry.intensity, dtype=np.float64)
        last = horizontal[-1]
        if last == 0:
            horizontal, rows = np.array([0.0, 360.0]), np.vstack([rows, rows])
        if last == 90:
            horizontal, rows = np.concatenate([horizontal, 180 - horizontal[-2::-1]]), np.vstack([rows, rows[-2::-1]])
            last = 180
        if last == 180:
            horizontal, rows = np.concatenate([horizontal, 360 - horizontal[-2::-1]]), np.vstack([rows, rows[-2::-1]])
        return cls(horizontal_deg=horizontal, vertical_deg=np.array(photometry.vertical_deg), values=rows)

    def total(self) -> float:
        """Integrate over the sphere.

        Returns
        -------
        float : the sum over all directions, exact for the bilinear surface between the table's angles
        """
        gamma = np.radians(self.vertical_deg)
        low, high = gamma[:-1], gamma[1:]
        width = high - low
        # ∫ sin γ over each step, and ∫ (γ - low)/width sin γ: the weights of its two ends.
        whole = np.cos(low) - np.cos(high)
        rising = (np.sin(high) - np.sin(low) - width * np.cos(high)) / width
        weight = np.zeros(len(gamma))
        weight[:-1] += whole - rising
        weight[1:] += rising
        bands = self.values @ weight
        turn = np.radians(self.horizontal_deg)
        return float(((bands[:-1] + bands[1:]) / 2 * np.diff(turn)).sum())

    @cached_property
    def shines_back(self) -> bool:
        """Whether any light goes behind the lamp."""
        return bool((self.values[:, self.vertical_deg > 90.5] > 0).any())

    @cached_property
    def narrow(self) -> float:
        """A cosine-power exponent about as narrow as the table, for choosing cells."""
        mean = self.values.mean(axis=0)
        peak = float(mean.max())
        wide = self.vertical_deg[mean >= peak / 2]
        half = min(89.0, max(2.0, float(np.ptp(wide)) if mean.argmax() else float(wide.max())))
        return float(np.log(0.5) / np.log(np.cos(np.radians(half))))

    def at(self, horizontal_deg: Array, vertical_deg: Array) -> Array:
        """Give the intensity in directions, bilinear between the table's angles.

        Parameters
        ----------
        horizontal_deg : any shape, 0..360 [°]
        vertical_deg : the same shape, 0..180 [°]

        Returns
        -------
        ndarray : the same shape [1/sr]; nothing beyond the table's vertical angles
        """
        h, v = self.horizontal_deg, self.vertical_deg
        i = np.clip(np.searchsorted(h, horizontal_deg, side="right") - 1, 0, len(h) - 2)
        j = np.clip(np.searchsorted(v, vertical_deg, side="right") - 1, 0, len(v) - 2)
        s = np.clip((horizontal_deg - h[i]) / (h[i + 1] - h[i]), 0, 1)
        t = np.clip((vertical_deg - v[j]) / (v[j + 1] - v[j]), 0, 1)
        g = self.values
        value = (1 - s) * ((1 - t) * g[i, j] + t * g[i, j + 1]) + s * ((1 - t) * g[i + 1, j] + t * g[i + 1, j + 1])
        inside = (vertical_deg >= v[0] - 1e-9) & (vertical_deg <= v[-1] + 1e-9)
        return np.asarray(np.where(inside, value, 0.0))
