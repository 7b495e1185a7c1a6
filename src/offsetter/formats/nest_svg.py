"""A layout as a drawing to look at: sheets side by side, pieces to scale with their names, the roll from below upwards."""

from html import escape
from pathlib import Path

from shapely import Polygon, box
from shapely.affinity import rotate, translate

from offsetter.core.compute.nest import Nested, Piece, size_of

GAP_MM = 20.0
FILLS = ("#cfe3e8", "#ead9c4", "#d6e6cf", "#e6cfdc", "#dcd8ee", "#f0e6b8")


def write_nest(target: Path, made: Nested, pieces: tuple[Piece, ...], wide_mm: float, high_mm: float) -> None:
    sheets = max(1, made.sheets)
    known = {p.id: p for p in pieces}
    colour = {p.id: FILLS[n % len(FILLS)] for n, p in enumerate(pieces)}
    drawn = [
        f'<rect x="{s * (wide_mm + GAP_MM):g}" y="0" width="{wide_mm:g}" height="{high_mm:g}" fill="#fff" stroke="#555"/>'
        for s in range(sheets)
    ]
    for place in made.places:
        piece = known[place.id]
        across = (place.sheet - 1) * (wide_mm + GAP_MM) if made.sheets else 0.0
        ring = _ring(piece, place.rotation_deg, place.x_mm, place.y_mm)
        points = " ".join(f"{across + x:.2f},{high_mm - y:.2f}" for x, y in ring)
        x, y = across + sum(p[0] for p in ring) / len(ring), high_mm - sum(p[1] for p in ring) / len(ring)
        drawn.append(f'<polygon points="{points}" fill="{colour[place.id]}" stroke="#222" stroke-width="0.4"/>')
        drawn.append(f'<text x="{x:.1f}" y="{y:.1f}" font-size="6" text-anchor="middle">{escape(place.id)}</text>')
    whole = sheets * (wide_mm + GAP_MM) - GAP_MM
    target.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{whole:g}mm" height="{high_mm:g}mm" viewBox="0 0 {whole:g} {high_mm:g}">'
        f"{''.join(drawn)}</svg>\n"
    )


def _ring(piece: Piece, angle: float, x: float, y: float) -> list[tuple[float, float]]:
    """The turned outline with the lower left corner of its box at x, y."""
    shape = Polygon(piece.outline_mm) if piece.outline_mm else box(0, 0, *size_of(piece))
    turned = rotate(shape, angle, origin=(0, 0))
    left, low, *_ = turned.bounds
    return list(translate(turned, x - left, y - low).exterior.coords)
