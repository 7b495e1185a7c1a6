"""Lengths, temperatures and resolutions. Lengths at rest are whole micrometres; conversions live here alone."""

MM_PER_INCH = 25.4  # exact, by definition since 1959
UM_PER_MM = 1000


def um_of(mm: float) -> int:
    """Whole micrometres of a length in millimetres."""
    return round(mm * UM_PER_MM)


def mm_of(um: int) -> float:
    """Millimetres of a length in whole micrometres."""
    return um / UM_PER_MM


def px_of(mm: float, dpi: float) -> int:
    """Whole device dots, at least one, that a length in millimetres takes at dpi dots per inch."""
    return max(1, round(mm / MM_PER_INCH * dpi))


def ppi_of(px: float, mm: float) -> float:
    """Pixels per inch when px pixels are printed mm millimetres long.

    >>> round(ppi_of(1200, 101.6))
    300
    """
    return px / mm * MM_PER_INCH


def fahrenheit_of(celsius: float) -> float:
    return celsius * 9 / 5 + 32
