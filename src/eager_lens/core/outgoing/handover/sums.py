"""The offer with sums: parts at the firm's own prices, hours at its rate, tax as typed, and options side by side.

No price is invented: a part without one stands apart, and the sum says that it lacks it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.figures.enough_drives import enough_drives
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.money import Money
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.pauses import with_pauses
from eager_lens.core.planning.attaching import ATTACHMENT_WORDS, ATTACHMENTS, attached
from eager_lens.core.present.parts import Part, parts_list
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.mounting import mounted_devices, mounting_minutes
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import count, days_figure, figure, fixed

RETENTIONS_DAYS = (14.0, 31.0, 60.0, 90.0)


class SumLine(NamedTuple):
    """A line of the offer: a part or hours, the price of one, and of all (None: not priced), in a currency."""

    group: str
    what: str
    quantity: str
    each: float | None
    total: float | None
    currency: str = ""


class Sums(NamedTuple):
    """The offer in figures. Sums of several currencies are kept apart: what one is worth in another is nobody's figure here.

    Attributes:
        lines: parts and hours. unpriced: those without a price. net: by currency, the job's first, of what has a price.
        tax_share, tax_words: as typed.
    """

    lines: tuple[SumLine, ...]
    unpriced: tuple[str, ...]
    net: dict[str, float]
    tax_share: float
    tax_words: str

    def tax(self, currency: str) -> float:
        """The tax on the sum of a currency."""
        return self.net[currency] * self.tax_share

    def gross(self, currency: str) -> float:
        """The sum of a currency with tax."""
        return self.net[currency] + self.tax(currency)

    @property
    def gross_words(self) -> str:
        """The sums with tax: a bare amount in one currency, else each with its own."""
        if len(self.net) == 1:
            return _money(self.gross(*self.net))
        return " + ".join(f"{_money(self.gross(one))} {one}".rstrip() for one in self.net)


def price_of(what: str, prices: dict[str, Money]) -> Money | None:
    """The price of a part: of its own line, or else of the longest beginning that is priced."""
    name = what.casefold()
    if name in prices:
        return prices[name]
    beginnings = [key for key in prices if name.startswith(key) and not name[len(key) :][:1].isalnum()]
    return prices[max(beginnings, key=len)] if beginnings else None


def prices_of(job: Job) -> dict[str, Money]:
    """The job's prices by the line of the part; of drives also by the drives that can be bought, the cheapest of a size in the
    job's currency, or in the first that is offered."""
    own = job.charges.currency
    prices: dict[str, Money] = {}
    for offer in sorted(job.drive_offers, key=lambda one: (one.currency not in ("", own), one.price)):
        prices.setdefault(f"drive, {figure(offer.tb)} tb", Money(offer.price, offer.currency or own))
    return {**prices, **{one.what.casefold(): Money(one.price, one.currency or own) for one in job.prices}}


def hours_of(assessment: Assessment) -> tuple[float, float]:
    """Hours of mounting by the lists, and of hands by the commissioning plan."""
    mounting_h = (
        sum(mounting_minutes(device, assessment) for device in with_pauses(mounted_devices(assessment.job))) / 60
    )
    bench_h = sum(step.hands_s for step in commissioning(assessment).steps) / 3600
    return mounting_h, bench_h


def sums_of(assessment: Assessment, hours: tuple[float, float] | None = None) -> Sums:
    """The sums of a job. ``hours``: those of mounting and commissioning, where they are known already."""
    job = assessment.job
    charges, prices = job.charges, prices_of(job)
    lines = [_part_line(part, prices) for part in parts_list(assessment.facts) if part.unit != "runs"]
    if charges.rate_per_h is not None:
        mounting_h, bench_h = hours or hours_of(assessment)
        for what, spent_h in (("Mounting and connecting", mounting_h), ("Commissioning", bench_h)):
            if spent_h:
                total = spent_h * charges.rate_per_h
                hours_words = f"{figure(spent_h, 3)} h"
                lines.append(SumLine("Work", what, hours_words, charges.rate_per_h, total, charges.currency))
    net = {charges.currency: 0.0}
    for line in lines:
        if line.total is not None:
            net[line.currency] = net.get(line.currency, 0.0) + line.total
    if not net[charges.currency] and len(net) > 1:
        del net[charges.currency]
    tax_words = f"{charges.tax_name or 'Tax'}, {figure(100 * charges.tax_share)} %" if charges.tax_share else ""
    unpriced = tuple(line.what for line in lines if line.total is None)
    return Sums(tuple(lines), unpriced, net, charges.tax_share, tax_words)


def _part_line(part: Part, prices: dict[str, Money]) -> SumLine:
    each = price_of(part.what, prices)
    if each is None:
        return SumLine(part.group, part.what, part.quantity_words(), None, None)
    total = each.amount * part.quantity
    return SumLine(part.group, part.what, part.quantity_words(), each.amount, total, each.currency)


def is_priced(job: Job) -> bool:
    """Whether the firm gave any price."""
    return bool(job.prices or job.drive_offers or job.charges.rate_per_h is not None)


def sums_sheets(assessment: Assessment) -> tuple[Sheet, ...]:
    """The sums, and the options side by side; nothing while no price is known."""
    if not is_priced(assessment.job):
        return ()
    hours = hours_of(assessment)
    sums = sums_of(assessment, hours)
    return (_sums_sheet(sums), _options_sheet(assessment, hours))


def _money(value: float | None) -> str:
    return "—" if value is None else fixed(value, 2)


def _sums_sheet(sums: Sums) -> Sheet:
    several = len(sums.net) > 1
    only = "" if several else next(iter(sums.net))
    unit = f", {only}" if only else ""

    def amount(value: float | None, currency: str) -> str:
        return _money(value) + (f" {currency}" if several and value is not None else "")

    rows = [
        (line.group, line.what, line.quantity, amount(line.each, line.currency), amount(line.total, line.currency))
        for line in sums.lines
    ]
    for currency, net in sums.net.items():
        rows.append(("", "Sum", "", "", amount(net, currency)))
        if sums.tax_words:
            rows.append(("", sums.tax_words, "", "", amount(sums.tax(currency), currency)))
            rows.append(("", "Sum with tax", "", "", amount(sums.gross(currency), currency)))
    columns = (
        SheetColumn("Group", 0.18),
        SheetColumn("What", 0.4),
        SheetColumn("Quantity", 0.14, "right"),
        SheetColumn(f"Each{unit}", 0.14, "right"),
        SheetColumn(f"Total{unit}", 0.14, "right"),
    )
    lacking = (
        f"The sum does not include {count(len(sums.unpriced), 'line')} without a price: {', '.join(sums.unpriced[:8])}"
    )
    if len(sums.unpriced) > 8:
        lacking += f", and {len(sums.unpriced) - 8} more"
    notes = (
        *((f"{lacking}.",) if sums.unpriced else ()),
        *(("Prices are in several currencies, with a separate sum for each.",) if several else ()),
        "Hours come from the mounting lists and the commissioning plan; the site may need more.",
    )
    intro = "Prices and rates are those of the firm." + (
        f" The sum does not include {count(len(sums.unpriced), 'line')}." if sums.unpriced else ""
    )
    return Sheet("Sums", intro, (SheetTable(columns, tuple(rows)), Bullets(notes)))


class _Option(NamedTuple):
    """Something that could be done instead: of what sort, what, and the job as it would be."""

    sort: str
    what: str
    job: Job


def _options(assessment: Assessment) -> Iterator[_Option]:
    job = assessment.job
    for attachment in ATTACHMENTS:
        try:
            yield _Option("Cameras connected by", ATTACHMENT_WORDS[attachment], attached(job, attachment))
        except RefusedInput:
            continue
    for level, words in LEVEL_WORDS.items():
        drives = {recorder.id: {"raid_level": level} for recorder in job.recorders}
        changed = set_fields(list(drives), "Set the level", raid_level=level).apply(job) if drives else job
        yield _Option("Drives as", words, changed)
    for days in RETENTIONS_DAYS:
        other, possible = job, bool(job.recorders)
        for recorder in job.recorders:
            keeping = assessment.facts.keeping[recorder.id]
            need_tb = keeping.space_gb_for(days) / 1000 if keeping is not None else 0.0
            if need_tb > assessment.facts.recorder_figures[recorder.id].usable_tb:
                enough = enough_drives(recorder, need_tb)
                possible = possible and enough is not None
                other = enough.edit.apply(other) if enough is not None else other
        if possible:
            yield _Option("Drives enough for", f"{days_figure(days)} days", other)


def _options_sheet(assessment: Assessment, hours: tuple[float, float]) -> Sheet:
    """Each option is this job with that changed, assessed and priced again; the hours are taken to stay."""
    known = set(sums_of(assessment, hours).unpriced)
    rows = []
    for option in with_pauses(_options(assessment), 1):
        other = assess(option.job, assessment)
        troubles = [got.trouble for got in other.facts.recorder_figures.values() if got.trouble]
        faults = sum(finding.severity is Severity.FAULT for finding in other.findings)
        present = " (as planned)" if option.job == assessment.job else ""
        whole = other.whole
        promised = (
            "not possible" if troubles or whole.keeps == "no recorder" else days_words(whole.promised_days, whole.keeps)
        )
        sums = sums_of(other, hours)
        # A sum that lacks a part which the present one has would look cheaper than it is.
        lacking = [what for what in sums.unpriced if what not in known]
        total = "—" if troubles else f"{lacking[0]}: no price" if lacking else sums.gross_words
        rows.append((option.sort, f"{option.what}{present}", promised, figure(faults, 9), total))
    currencies = sums_of(assessment, hours).net
    unit = f", {next(iter(currencies))}" if len(currencies) == 1 and next(iter(currencies)) else ""
    columns = (
        SheetColumn("What is compared", 0.22),
        SheetColumn("Option", 0.34),
        SheetColumn("Days promised", 0.12, "right"),
        SheetColumn("Faults then", 0.1, "right"),
        SheetColumn(f"Sum with tax{unit}", 0.22, "right"),
    )
    intro = "Each line is this job with one change, calculated and priced again."
    return Sheet("Options side by side", intro, (SheetTable(columns, tuple(rows)),))
