"""Secrets: made by rule, kept in a file of their own that only a passphrase opens. Never in the job."""
