from offsetter.core.sentences import shown


class Refusal(Exception):
    """Something the technician can put right: what happened, what was kept, what to do."""

    def __init__(self, code: str, happened: str, kept: str, to_do: str) -> None:
        super().__init__(shown(f"{happened} {kept} {to_do}"))
        self.code, self.happened, self.kept, self.to_do = code, happened, kept, to_do
