"""What every request to the API may be answered besides what it asks for."""

from typing import Any

from server.problems import Problem

#: Nobody signed in; not allowed; not understood; the server's own failure; a store that cannot be read.
READS: dict[Any, Any] = {401: Problem, 403: Problem, 422: Problem, 500: Problem, 503: Problem}
#: And of one that changes something: another one was quicker; too large; no JSON.
WRITES: dict[Any, Any] = {**READS, 409: Problem, 413: Problem, 415: Problem}
#: And of one that takes a password: too many wrong ones, or too many at once.
SIGNS: dict[Any, Any] = {**WRITES, 429: Problem}
