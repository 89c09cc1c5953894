"""The Proof page."""

from eager_lens.desk.pages.proof.page import ProofPage

PAGE = ProofPage

__all__ = ["PAGE"]
