"""A trial's CSV, with the corrections that belong to it."""

from pathlib import Path

import polars as pl


def read(trial: Path) -> pl.DataFrame:
    counts = pl.read_csv(trial)
    corrections = pl.read_csv(trial.parent / "corrections.csv")
    return counts.update(corrections, on=["dish", "day"])
