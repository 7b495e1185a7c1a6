"""Numbers in sentences."""

from offsetter.core.sentences import say_many


def several(count: int, one: str, then: str = "") -> str:
    """Such as "1 transfer is" and "3 transfers are": the noun, and what is said of it as of one."""
    of_one, of_many = (f" {then}", f" {OF_MANY.get(then, then)}") if then else ("", "")
    return say_many(count, f"{{count}} {one}{of_one}", f"{{count}} {one}s{of_many}")


OF_MANY = {"is": "are", "has": "have"}
NOUNS = ("transfer", "garment", "printed transfer", "printed garment", "sheet", "length", "print", "piece")
"""That are counted under a name that is only known then: what makes the catalogue cannot read them from their sentences."""
