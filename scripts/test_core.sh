#!/bin/sh
# The core's own tests on every processor: they share no database. Arguments go to the test command.
set -eu
exec .venv/bin/python -W error::DeprecationWarning:dianoia manage.py test tests.core --parallel "$@"
