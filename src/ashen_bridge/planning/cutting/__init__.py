"""From a build to its pieces: what is cut, from which sheets, what is dispensed, and what has to be ordered."""
