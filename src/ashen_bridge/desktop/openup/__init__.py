"""Open up: the device is taken apart step by step, and what it shows is noted before it is wiped off."""
