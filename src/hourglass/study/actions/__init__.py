"""What can be done to a study: a closed union of typed bodies, each with what was before and after.

An entry of the log holds one. Sentences are made of it when it is read; nothing is found or compared by
them.
"""
