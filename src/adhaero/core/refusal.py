"""The one way in which a rule of the job says no."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong with one field.

    ``field`` is the path of the field as the caller named it (``sizes.width_mm``, ``row 7: load``);
    ``message`` says what is wrong, ``remedy`` what to do about it.
    """

    field: str
    message: str
    remedy: str


class Refusal(ValueError):
    """Input that breaks a rule. Raised before anything is written, so nothing is lost or half-done."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems: tuple[Problem, ...] = tuple(problems)
        super().__init__("; ".join(f"{p.field}: {p.message}" for p in self.problems))


class Doubt(Refusal):
    """Input that may well be right and would falsify the record if it were not: it is asked once more.

    The field of each problem is the key of the doubt; sent again with these keys as confirmed, it is taken, and the
    record keeps that it was asked.
    """


class Doubts:
    """Gathers what is to be asked, so that it is asked at once; what was ``confirmed`` is not asked again."""

    def __init__(self, confirmed: Iterable[str]) -> None:
        self.confirmed = frozenset(confirmed)
        self.open: list[Problem] = []

    def ask(self, key: str, message: str, remedy: str) -> None:
        """Ask, unless that was confirmed."""
        if key not in self.confirmed:
            self.open.append(Problem(key, message, remedy))

    def raise_if_any(self) -> None:
        if self.open:
            raise Doubt(self.open)


def refuse(field: str, message: str, remedy: str) -> Refusal:
    """A refusal with a single problem."""
    return Refusal([Problem(field, message, remedy)])


class Problems:
    """Collects problems, so that a user hears of all of them at once."""

    def __init__(self) -> None:
        self.found: list[Problem] = []

    def add(self, field: str, message: str, remedy: str) -> None:
        self.found.append(Problem(field, message, remedy))

    def check(self, fine: bool, field: str, message: str, remedy: str) -> bool:
        """Record a problem unless ``fine``; returns ``fine``."""
        if not fine:
            self.add(field, message, remedy)
        return fine

    def take(self, refusal: Refusal, prefix: str = "") -> None:
        """Take over the problems of a refusal, with a prefix to their fields."""
        for p in refusal.problems:
            self.add(prefix + p.field, p.message, p.remedy)

    def raise_if_any(self) -> None:
        if self.found:
            raise Refusal(self.found)
