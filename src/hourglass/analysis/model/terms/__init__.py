"""The forms that a term of a model can have: each is a class in a module here, and a line in ``forms``."""
