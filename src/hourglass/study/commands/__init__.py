"""Everything that can be done to a study. Each makes one entry of its log, with all that is decided after it.

A command starts from a study as it was loaded, and is refused with
:class:`hourglass.study.study.StaleError` should somebody have changed it since; what was decided from an
older revision is put on the newer one by :mod:`hourglass.study.rebasing`.
"""
