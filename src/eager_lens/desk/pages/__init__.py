"""One folder a stage. A page is made when it is first asked for, and no page imports another."""

from __future__ import annotations

from importlib import import_module

from eager_lens.core.assess.finding import Stage
from eager_lens.desk.asking import Asker
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.page import Page


def make_page(stage: Stage, session: Session, asker: Asker) -> Page:
    """Make the page of a stage; only then is its code loaded."""
    page: Page = import_module(f"eager_lens.desk.pages.{stage}").PAGE(session, asker)
    return page
