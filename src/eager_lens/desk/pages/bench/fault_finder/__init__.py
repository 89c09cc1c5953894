"""The fault finder: from what is seen to the cause, by the next best test."""
