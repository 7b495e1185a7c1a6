"""Numbers in sentences."""


def several(count: int, one: str, then: str = "") -> str:
    """Such as "1 transfer is" and "3 transfers are": the noun, and what is said of it as of one."""
    said = f"{count} {one if count == 1 else f'{one}s'}"
    if not then:
        return said
    return f"{said} {then if count == 1 else {'is': 'are', 'has': 'have'}.get(then, then)}"
