"""The records of passes, found by being here: what each reads, what it needs, how it is computed."""
