"""Heat: column grid, assembly, solver, surfaces, sinks and packages. SI units, kelvin."""
