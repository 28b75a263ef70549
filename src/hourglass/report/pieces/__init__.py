"""The pieces of the report, a file each."""
