"""Entry point of ``python -m dianoia``."""

import os
import sys

# The circuits' matrices are small: threads inside numpy only cost, and the benchmark runs its own processes.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from dianoia.cli import main

try:
    status = main(sys.argv[1:])
    sys.stdout.flush()
except BrokenPipeError:  # whoever reads has read enough
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    status = 0
sys.stderr.flush()
os._exit(status)  # all is written: what is left of a large recording is not taken apart piece by piece
