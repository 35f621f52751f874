"""Threads of linear algebra."""

from __future__ import annotations

from contextlib import AbstractContextManager
from functools import lru_cache
from typing import cast

from threadpoolctl import ThreadpoolController


@lru_cache(maxsize=1)
def _threads() -> ThreadpoolController:
    # Looking for the libraries takes milliseconds; which there are does not change.
    return ThreadpoolController()


def one_blas_thread() -> AbstractContextManager[object]:
    """Hold BLAS to one thread: more only get in each other's way on vectors of this size."""
    return cast("AbstractContextManager[object]", _threads().limit(limits=1))
