"""A second car, from component equations alone, and the people who work on it: the judge that the engine cannot be tuned to.

It shares no model, prior, fault list or figure with the engine, and imports none of its rooms. Its constants have sources of
their own, said beside them. It is frozen once its baseline is taken: a change needs a physical reason, said in the changelog.
"""
