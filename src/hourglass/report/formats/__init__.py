"""The forms in which the report leaves the program."""
