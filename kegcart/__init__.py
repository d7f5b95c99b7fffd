"""Keg Cart: design, build and test a portable power station."""

import os

# Matrices here are small, and processes run beside one another: threads of the linear algebra would wait for each other most of the time.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
