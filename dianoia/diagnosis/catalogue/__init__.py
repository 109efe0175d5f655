"""The readings that can be proposed, what each needs and costs."""
