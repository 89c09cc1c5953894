"""Whether a list that is given as cameras is the list of a search tool."""

from __future__ import annotations

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.model import Job
from eager_lens.core.scan.scan_list import is_by_form, scan_columns, scan_list

SHARE = 0.5
"""From this share of its rows on a list is taken for what they are."""


def is_scan(table: RawTable, job: Job) -> bool:
    """Whether a list tells what answered on a network: by lines as search tools write them, by a column of states, or since it has
    nothing but addresses and labels, most of them of devices of the job."""
    columns = scan_columns(table.rows[0])
    if not columns:
        return sum(is_by_form(row) for row in table.rows) > SHARE * len(table.rows)
    if "state" in columns:
        return True
    if len(columns) < sum(bool(cell) for cell in table.rows[0]):
        return False
    try:
        answers = scan_list(table).answers
    except RefusedInput:
        return False
    known = {device.address for device in job.devices()} | {device.mac_address for device in job.devices()}
    held = sum(bool({one.address, one.mac_address} & known - {""}) for one in answers)
    return held > SHARE * len(answers)
