"""The Addresses page."""

from eager_lens.desk.pages.addresses.page import AddressesPage

PAGE = AddressesPage

__all__ = ["PAGE"]
