"""The Addresses page."""

from eager_lens.desk.pages.addresses.page import AddressesPage as make

__all__ = ["make"]
