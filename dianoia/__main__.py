"""The command line: ``python -m dianoia decode|diagnose ...``."""

import sys

from dianoia.cli import main

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
