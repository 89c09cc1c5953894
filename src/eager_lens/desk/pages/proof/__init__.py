"""The Proof page."""

from eager_lens.desk.pages.proof.page import ProofPage as make

__all__ = ["make"]
