"""The WSGI application."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
# The circuits' matrices are small: threads inside numpy only cost.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
within = get_wsgi_application()
from server.stand import Unchanged  # noqa: E402 (its modules want Django set up)

application = Unchanged(within)
# What was loaded to here stays: looking through it again and again would hold up a reading by some 50 ms now and then.
gc.collect()
gc.freeze()
