"""What all numerical parts share: the types of arrays, and how many threads linear algebra may use."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.intp]
