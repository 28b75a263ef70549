"""Steps: what people decided to do to the rows, applied in order and never to the file itself."""
