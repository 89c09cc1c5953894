"""What a telephone saved: one JSON file with what was filled in, the state that the sheet was made from, and its photos."""

from __future__ import annotations

import base64
import binascii
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.errors import DamagedFile
from eager_lens.core.files import read_whole
from eager_lens.core.job.proof import SnagWords
from eager_lens.core.job.texts import Id, LocalMoment, Text
from eager_lens.core.validation import AnySign, Plain, read_document_of

FORMAT, VERSION = "eager-lens-field-sheet", 1
ENDING = ".field.json"
LARGEST_BYTES = 256 * 2**20
MOST_PHOTO_LETTERS = 20 * 2**20
MOST = 200_000

PhotoId = Annotated[str, Field(pattern=r"^p-[0-9a-f]{16}$")]
PhotoIds = Annotated[tuple[PhotoId, ...], Field(max_length=20)]


class FieldTick(Plain):
    """A step of the mounting that was ticked or left out."""

    step: Text
    outcome: Literal["done", "skipped"]
    by: Text
    at: LocalMoment


class FieldCheck(Plain):
    """A test that was made. ``id`` is its own, so that a file that is taken in twice counts once."""

    id: Id
    device: Id
    check: Id
    outcome: Literal["passed", "failed"]
    measured: AnySign | None = None
    value: Text = ""
    by: Text
    at: LocalMoment
    photos: PhotoIds = ()


class FieldSnag(SnagWords):
    """A snag as it stands on the sheet: a new one, or one of the job with changes."""

    photos: PhotoIds = ()


class BaseCheck(Plain):
    """The last result of a test when the sheet was made."""

    outcome: Literal["passed", "failed"]
    measured: AnySign | None = None
    value: Text = ""
    by: Text = ""
    at: Text = ""


class BaseTick(Plain):
    """What was noted of a step when the sheet was made."""

    outcome: Literal["done", "skipped"]
    by: Text = ""
    at: Text = ""


class Base(Plain):
    """The state that the sheet was made from: by ``device/test``, by step, by snag."""

    checks: Annotated[dict[str, BaseCheck], Field(max_length=MOST)]
    ticks: Annotated[dict[str, BaseTick], Field(max_length=MOST)]
    snags: Annotated[dict[str, FieldSnag], Field(max_length=MOST)]


class FieldFile(Plain):
    """The file.

    Attributes:
        sheet: the sheet's own id. job: the job's name. made_at, saved_at: when the sheet was made, and this file saved.
        by: who filled it in. photos: as data addresses, by their ids.
    """

    format: str
    version: int
    sheet: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
    job: Text
    made_at: LocalMoment
    saved_at: LocalMoment
    by: Text
    base: Base
    ticks: Annotated[tuple[FieldTick, ...], Field(max_length=MOST)] = ()
    checks: Annotated[tuple[FieldCheck, ...], Field(max_length=MOST)] = ()
    snags: Annotated[tuple[FieldSnag, ...], Field(max_length=MOST)] = ()
    photos: Annotated[
        dict[PhotoId, Annotated[str, Field(max_length=MOST_PHOTO_LETTERS)]],
        Field(max_length=5000, default_factory=dict),
    ]


def read_field_file(path: Path) -> FieldFile:
    """A file that a telephone saved.

    Raises:
        FileTrouble: when it cannot be read. RefusedInput: naming what is wrong in it.
    """
    return field_file_from(read_whole(path, LARGEST_BYTES, "saved field sheet").decode("utf-8", "replace"))


def field_file_from(text: str) -> FieldFile:
    """A saved field sheet out of its text.

    Raises:
        RefusedInput: naming what is wrong in it.
    """
    what = f"saved field sheet; select a file that ends in {ENDING}"
    return read_document_of(text, FieldFile, FORMAT, VERSION, what)


PHOTO_HEAD = "data:image/jpeg;base64,"


def photo_bytes(address: str) -> bytes:
    """A photo out of its data address.

    Raises:
        DamagedFile: when it is none.
    """
    if not address.startswith(PHOTO_HEAD):
        raise DamagedFile("A photo of the sheet is not a JPEG.")
    try:
        return base64.b64decode(address.removeprefix(PHOTO_HEAD), validate=True)
    except (binascii.Error, ValueError) as error:
        raise DamagedFile("A photo of the sheet is damaged.") from error
