"""What was seen, read as evidence about the device's own numbers and about what may be wrong with it."""
