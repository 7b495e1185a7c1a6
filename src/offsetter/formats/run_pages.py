"""Some pages of a run's PDF as a file of their own."""

from pathlib import Path

import pikepdf


def take_pages(source: Path, out: Path, first: int, count: int) -> None:
    """count pages from first on, counted from 1, exactly as they are."""
    with pikepdf.open(source) as whole, pikepdf.new() as part:
        for page in whole.pages[first - 1 : first - 1 + count]:
            part.pages.append(page)
        part.save(out, compress_streams=False)
