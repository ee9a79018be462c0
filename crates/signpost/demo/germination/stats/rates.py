"""How many of the seeds would grow?"""

from dataclasses import dataclass
from math import sqrt


@dataclass(frozen=True)
class Rate:
    """A rate with its Wilson interval; fractions from 0 to 1."""

    grown: int
    sown: int
    low: float
    high: float


def wilson(grown: int, sown: int, z: float = 1.96) -> Rate:
    if sown == 0:
        raise ValueError("no seeds were sown")
    p = grown / sown
    centre = (p + z * z / (2 * sown)) / (1 + z * z / sown)
    half = z * sqrt(p * (1 - p) / sown + z * z / (4 * sown * sown)) / (1 + z * z / sown)
    return Rate(grown, sown, centre - half, centre + half)
