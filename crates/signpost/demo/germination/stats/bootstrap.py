"""Intervals for what has no formula."""

import numpy as np


def interval(values: np.ndarray, statistic, generator: np.random.Generator, times: int = 2_000) -> tuple[float, float]:
    draws = [statistic(generator.choice(values, size=len(values))) for _ in range(times)]
    low, high = np.quantile(draws, [0.025, 0.975])
    return float(low), float(high)
