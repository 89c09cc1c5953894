"""Writing the card of a camera's rule."""

from __future__ import annotations

import datetime

from eager_lens.core.job.model import Camera
from eager_lens.desk.asking import PDF, Asker, file_to_write
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.writing import export


def save_card(session: Session, asker: Asker, camera: Camera) -> None:
    """Ask where to, and write the card as a PDF."""
    path = file_to_write(asker, "The rule's card", PDF, session.beside(f"-rule-{camera.id}.pdf"))
    if path is None:
        return
    from eager_lens.core.outgoing.formats.pdf import handover_pdf
    from eager_lens.core.outgoing.formats.sheets import date_words
    from eager_lens.core.outgoing.handover.printable import stand_ins
    from eager_lens.core.outgoing.handover.rule_sheet import rule_card

    sheets, names = rule_card(session.assessment, camera, date_words(datetime.date.today())), stand_ins(session.job)
    # Others may be in the layout engine: their turn is waited for without standing still.
    export(session, path, waited_for(lambda: handover_pdf(sheets, stand_ins=names), "Drawing the card…"))
