"""How fast do they grow? Time-to-germination curves."""

import numpy as np


def hill(day: np.ndarray, top: float, half: float, steep: float) -> np.ndarray:
    """The share that has germinated by a day."""
    return top * day**steep / (half**steep + day**steep)
