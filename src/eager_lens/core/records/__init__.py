"""What is recorded on site and kept: the event log, acceptance tests, the field sheet, the sealed file of passwords."""
