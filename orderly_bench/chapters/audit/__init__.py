"""The audit trail as a lead reads it."""
