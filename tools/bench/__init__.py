"""Measuring against the bars of the design."""

import wendal  # noqa: F401 - one BLAS thread, before numpy is loaded
