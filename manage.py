#!/usr/bin/env python
"""Django's command line for the server."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    # The circuits' matrices are small: threads inside numpy only cost, here and in the processes that this one starts.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    if sys.argv[1:2] == ["test"]:  # tests run as one bench, but for those of signing in
        os.environ.setdefault("DIANOIA_BENCH", "1")
        os.environ.setdefault("DIANOIA_LOG", "ERROR")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
