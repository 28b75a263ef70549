"""The computing core: arrays in, typed results out; imports NumPy and SciPy and nothing else."""
