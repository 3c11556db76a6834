"""A list of students out of a file: text as it is, a spreadsheet's first page as CSV."""

from __future__ import annotations

import csv
import io
from zipfile import BadZipFile

from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

LARGEST = 1_000_000  # bytes
ROWS, COLUMNS = 2000, 40  # of a spreadsheet that are read


def roster_text(file: UploadedFile) -> str:
    """The text of a list.

    Args:
        file: text in UTF-8 or a western code page, or a spreadsheet (Office Open XML).

    Raises:
        ValidationError: a file that is neither, or too large for a list of names.
    """
    if file.size is None or file.size > LARGEST:
        raise ValidationError(
            "The file is too large for a list of names. Save it as CSV, and choose that."
        )
    data = file.read()
    if data[:2] == b"PK":
        return _of_spreadsheet(data)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        pass
    if b"\0" in data:
        raise ValidationError(
            "This is neither text nor a spreadsheet. Save the list as CSV, and choose that."
        )
    return data.decode("cp1252", errors="replace")


def _of_spreadsheet(data: bytes) -> str:
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        page = book.worksheets[0]
        rows = list(page.iter_rows(max_row=ROWS, max_col=COLUMNS, values_only=True))
    except (BadZipFile, InvalidFileException, KeyError, ValueError, IndexError, OSError) as error:
        raise ValidationError(
            "This spreadsheet cannot be read. Save the list as CSV, and choose that."
        ) from error
    out = io.StringIO()
    writer = csv.writer(out)
    for row in rows:
        cells = ["" if c is None else f"{c:g}" if isinstance(c, float) else str(c) for c in row]
        if any(cells):
            writer.writerow(cells)
    return out.getvalue()
