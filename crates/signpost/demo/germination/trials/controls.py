"""A dead control voids the trial."""

import polars as pl


def is_void(counts: pl.DataFrame) -> bool:
    control = counts.filter(pl.col("treatment") == "control")
    return control["germinated"].max() == 0
