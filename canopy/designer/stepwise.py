"""Work of many tries that goes on one at a time, so that it tells how far it has come and can be left at any time."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator


class Stepwise(ABC):
    """What looks for something by ``_tries``, which yields before each try and ends where nothing is left to try."""

    finished: bool = False
    _under_way: Iterator[bool] | None = None

    @abstractmethod
    def _tries(self) -> Iterator[bool]:
        """Do the whole work, stopping at each try."""

    def go_on(self) -> bool:
        """Try one more thing.

        Returns
        -------
        bool : whether there is more to try
        """
        if self._under_way is None:
            self._under_way = self._tries()
        if not self.finished:
            self.finished = next(self._under_way, None) is None
        return not self.finished

    def to_the_end(self) -> None:
        """Try everything there is to try."""
        while self.go_on():
            pass
