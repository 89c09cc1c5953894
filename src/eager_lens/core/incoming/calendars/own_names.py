"""Names in this program's own calendars: ``outgoing/formats/calendar`` writes them, and one that is read again is known by them."""

from __future__ import annotations

ICAL_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
PRODUCT = "-//Eager Lens//Recording schedules//EN"
OWN_KIND, OWN_SCHEDULE, OWN_INSTEAD_OF, OWN_FIRST, OWN_LAST, OWN_YEARLY, OWN_DAYS = (
    f"X-EAGER-LENS-{name}" for name in ("KIND", "SCHEDULE", "INSTEAD-OF", "FIRST", "LAST", "YEARLY", "DAYS")
)
