"""A new job by questions, and the offer that it makes: what the window does with them."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from eager_lens.core.job.model import new_job
from eager_lens.desk.asking import PDF, Asker, file_to_write
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.writing import export

if TYPE_CHECKING:
    from eager_lens.core.enquiry.enquiry import Enquiry


def enquiry_view(session: Session, built: Callable[[], object], leave: Callable[[], object]) -> QWidget:
    """The questions; ``built`` is called when their job is open, ``leave`` when they are given up."""
    from eager_lens.core.enquiry.build import build  # only those who ask need it
    from eager_lens.desk.panels.enquiry_view import EnquiryView

    def take(enquiry: Enquiry) -> None:
        session.start_job(new_job())
        if session.apply(build(enquiry)):
            built()
            session.notice(
                "Job created from your answers. The menu Job, “Offer for the customer…” writes the customer's page."
            )

    return EnquiryView(session, new_job(), take, leave)


def practice_view(session: Session, begun: Callable[[], object], leave: Callable[[], object]) -> QWidget:
    """The lessons; ``begun`` is called when the job of one is open, ``leave`` when they are given up."""
    from eager_lens.desk.panels.practice_door import PracticeDoor  # only those who practise need it

    return PracticeDoor(session, lambda code: begun(), leave)


def save_offer(session: Session, asker: Asker) -> None:
    """Ask where to, and write the offer as a PDF."""
    if not session.job.cameras:
        session.notice("The offer would be empty; add cameras first", needs=True)
        return
    path = file_to_write(asker, "The offer", PDF, session.beside("-offer.pdf"))
    if path is None:
        return
    from eager_lens.core.outgoing.formats.pdf import handover_pdf
    from eager_lens.core.outgoing.formats.sheets import date_words
    from eager_lens.core.outgoing.handover.offer import offer_sheet
    from eager_lens.core.outgoing.handover.printable import stand_ins

    sheets, names = offer_sheet(session.assessment, date_words(datetime.date.today())), stand_ins(session.job)
    export(session, path, waited_for(lambda: handover_pdf(sheets, stand_ins=names), "Drawing the offer…"))
