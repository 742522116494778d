"""Cells of CSV files: text a spreadsheet would run as a formula gets an apostrophe before it, and is read without."""

_STARTS = ("=", "+", "-", "@", "\t", "\r")


def neutral(text: str) -> str:
    """A text as a cell that no spreadsheet runs; numbers stay as they are."""
    if not text.startswith((*_STARTS, "'")):
        return text
    try:
        float(text)
    except ValueError:
        return "'" + text
    return text


def plain(cell: str) -> str:
    """The text a cell was written from."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith((*_STARTS, "'")) else cell
