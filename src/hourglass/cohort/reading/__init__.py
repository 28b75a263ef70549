"""From the bytes of a file to a typed table, with the evidence for how they were read."""
