"""Entry point of ``python -m dianoia``."""

import os
import sys

# The circuits' matrices are small: threads inside numpy only cost, and the benchmark runs its own processes.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from dianoia.cli import main

sys.exit(main(sys.argv[1:]))
