"""The compiler of the simulation's equations, behind one name."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

Function = TypeVar("Function", bound=Callable[..., Any])


def equation(function: Function) -> Function:
    """A function of numbers and arrays, compiled when first called and kept beside its source; it runs without Python's lock.

    Only what stands in the same file is seen to change: a compiled function calls none of another file, and reads no constant of one.
    """
    return cast(Function, njit(cache=True, nogil=True, error_model="numpy")(function))
