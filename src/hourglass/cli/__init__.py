"""The command line: start, test, check, bench."""
