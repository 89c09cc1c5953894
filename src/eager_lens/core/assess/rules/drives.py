"""Findings about drives and cards: whether they give space, hold together, and last."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.devices import CameraFigures, life_of
from eager_lens.core.assess.figures.enough_drives import enough_drives
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.job.model import Camera
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.sizing.drive_life import card_years
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

NO_SPACE = FindingKind("no-space", "sizing", colours="days", button="Add drives")
DRIVE_TOO_LARGE = FindingKind("drive-too-large", "sizing")
BAYS = FindingKind("bays", "sizing")


def drives_wrong(facts: Facts) -> Iterator[Finding]:
    """Drives that give no space, or do not fit into the recorder."""
    for recorder in facts.job.recorders:
        trouble, keeping = facts.recorder_figures[recorder.id].trouble, facts.keeping[recorder.id]
        if trouble:
            need_tb = keeping.space_gb_for(facts.job.retention.least_days) / 1000 if keeping is not None else 0.0
            drives = enough_drives(recorder, need_tb)
            enough = "" if drives is None else f" {sentence_case(drives.words)} hold {figure(drives.usable_tb)} TB."
            yield Finding(
                NO_SPACE,
                Severity.FAULT,
                f"{recorder.name} has no storage",
                f"{sentence_case(trouble)}. Nothing is kept of its "
                f"{count(facts.recorder_figures[recorder.id].cameras, 'camera')}.",
                f"Change the number of drives, the hot spares or the RAID level.{enough}",
                (recorder.id,),
                None if drives is None else drives.edit,
            )
        most_tb = recorder.largest_drive_tb
        if recorder.drives and most_tb is not None and not at_most(recorder.drive_tb, most_tb):
            yield Finding(
                DRIVE_TOO_LARGE,
                Severity.FAULT,
                f"{recorder.name}: {figure(recorder.drive_tb)} TB drives; it takes up to {figure(most_tb)} TB",
                "It does not recognise a larger drive, or uses only a part of it.",
                "Use more and smaller drives, or another recorder.",
                (recorder.id,),
            )
        if recorder.drives > recorder.bays:
            yield Finding(
                BAYS,
                Severity.FAULT,
                f"{recorder.name}: {recorder.drives} drives, but {count(recorder.bays, 'bay')}",
                "The drives do not fit.",
                "Use fewer and larger drives, or a recorder with more bays.",
                (recorder.id,),
            )


NO_REDUNDANCY = FindingKind("no-redundancy", "sizing")


def no_redundancy(facts: Facts) -> Iterator[Finding]:
    """One failed drive loses pictures."""
    bare = [
        recorder
        for recorder in facts.job.recorders
        if recorder.drives > 1 and not facts.recorder_figures[recorder.id].drives_that_may_fail
    ]
    if bare:
        yield Finding(
            NO_REDUNDANCY,
            Severity.NOTE,
            f"{names_listed([recorder.name for recorder in bare])}: a failed drive loses recordings",
            "Without redundancy the drives keep the most days, but a failed drive takes its recordings with it. Redundancy "
            "costs space and is still not a backup.",
            "Tell the customer, or select a RAID level with redundancy.",
            tuple(recorder.id for recorder in bare),
        )


DRIVES_WORN = FindingKind("drives-worn", "sizing")


def drives_worn(facts: Facts) -> Iterator[Finding]:
    """More is written on each drive a year than it is rated for."""
    for recorder in facts.job.recorders:
        life = life_of(recorder, facts.recorder_figures[recorder.id])
        if life is not None and not at_most(life.written_tb_per_year, recorder.drive_rated_tb_per_year):
            yield Finding(
                DRIVES_WORN,
                Severity.WARNING,
                f"{recorder.name}: {figure(life.written_tb_per_year)} TB a year written to each drive",
                f"The drives are rated for {figure(recorder.drive_rated_tb_per_year)} TB a year. Beyond that they fail sooner, "
                "and the warranty may be void.",
                "Use drives with a higher rating, or more drives, and keep them cool.",
                (recorder.id,),
            )


REBUILD_RISKY = FindingKind("rebuild-risky", "sizing")


RISKY_REBUILD_SHARE = 0.02
"""From this chance on, a rebuild that fails is told of."""


def rebuild_risky(facts: Facts) -> Iterator[Finding]:
    """The chance of losing the array while a drive is replaced is not small."""
    for recorder in facts.job.recorders:
        life = life_of(recorder, facts.recorder_figures[recorder.id])
        if life is None or life.rebuild_h is None or life.second_failure_share is None or life.unreadable_share is None:
            continue
        second, unreadable = life.second_failure_share, life.unreadable_share
        if max(second, unreadable) < RISKY_REBUILD_SHARE:
            continue
        yield Finding(
            REBUILD_RISKY,
            Severity.NOTE,
            f"{recorder.name}: up to {figure(100 * unreadable, 2)} % of rebuilds meet an unreadable sector",
            f"A rebuild takes {figure(life.rebuild_h)} h and reads all other drives. An unreadable sector (the worst rate that "
            "makers guarantee; mostly far fewer) costs the seconds stored there, or the whole rebuild if the recorder gives "
            f"up. In {figure(100 * second, 1)} % of rebuilds a second drive fails, and everything is lost. Redundancy is not a "
            "backup.",
            "Ask the maker what the recorder does with an unreadable sector. Use RAID 6, smaller drives, or mention it in the "
            "handover.",
            (recorder.id,),
        )


CARD_WORN = FindingKind("card-worn", "sizing")


LEAST_CARD_YEARS = 2.0
"""A card that wears out sooner is told of: nobody climbs to a camera every year for it."""


@trait
def wears_its_card(camera: Camera, figures: CameraFigures) -> bool:
    """Whether its card does not last until somebody climbs up again."""
    if not camera.card_gb or not camera.card_written_tb:
        return False
    years = card_years(camera.card_written_tb, figures.gb_per_day)
    return years is not None and years < LEAST_CARD_YEARS


def cards_worn(facts: Facts) -> Iterator[Finding]:
    """Memory cards that recording wears out soon."""
    for camera in facts.having(wears_its_card):
        years = card_years(camera.card_written_tb, facts.camera_figures[camera.id].gb_per_day)
        yield Finding(
            CARD_WORN,
            Severity.WARNING,
            f"{camera.name}: memory card lasts about {figure(years or 0.0)} years",
            f"It is rated for {figure(camera.card_written_tb)} TB of writes, and "
            f"{figure(facts.camera_figures[camera.id].gb_per_day)} GB a day are recorded.",
            "Use a high-endurance card, a larger one, or record on it only while the recorder cannot be reached.",
            (camera.id,),
        )


RULES = (drives_wrong, no_redundancy, drives_worn, rebuild_risky, cards_worn)
