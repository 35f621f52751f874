"""The Measure workspace: every gap with its ±, readings taken at the bench, and what to read next."""
