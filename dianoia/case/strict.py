"""How pydantic reads the format's types: unknown names, and numbers that are none, are refused."""

STRICT = {"extra": "forbid", "populate_by_name": True, "allow_inf_nan": False}
