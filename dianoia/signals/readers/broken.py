"""What polars raises of a file that it cannot read. A panic of its own is no Exception."""

import polars as pl

BROKEN = (pl.exceptions.PolarsError, pl.exceptions.PanicException, OSError, ValueError)
