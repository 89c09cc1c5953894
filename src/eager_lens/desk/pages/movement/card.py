"""Writing the card of a camera's rule."""

from __future__ import annotations

import datetime

from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.job.file import write_whole
from eager_lens.core.job.model import Camera
from eager_lens.desk.asking import Asker, FileKind
from eager_lens.desk.session import Session

PDF = FileKind("PDF", (".pdf",))


def save_card(session: Session, asker: Asker, camera: Camera) -> None:
    """Ask where to, and write the card as a PDF."""
    path = asker.save_file("The rule's card", PDF, session.beside(f"-rule-{camera.id}.pdf"))
    if path is None:
        return
    from eager_lens.core.exchange.pdf import handover_pdf
    from eager_lens.core.exchange.rule_sheet import rule_card

    date = datetime.date.today().strftime("%-d %B %Y")
    try:
        write_whole(path, handover_pdf(rule_card(session.assessment, camera, date)))
    except OSError as error:
        session.notice(str(EagerLensError(advice_for(error, path, "Writing"))), needs=True)
        return
    session.notice(f"Written: {path}")
