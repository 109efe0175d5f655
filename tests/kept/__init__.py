"""Stores and outboxes as earlier versions left them."""
