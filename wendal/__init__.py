"""Wendal: datum geometry, constrained sketches and parts that follow when dimensions change."""

import os

# Small dense systems are solved many times a second; a second BLAS thread only makes them wait.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
