"""The customer's data as the ledger commits to it."""

from server.ledger.models import Customer


def committed_data(customer: Customer) -> dict[str, str]:
    """A customer's data as it is committed to."""
    return {"name": customer.name, "plate": customer.plate, "vin": customer.vin}
