from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from offsetter.core.sentences import say
from offsetter.core.values import Refusal

LOOPBACK = {"127.0.0.1", "::1", "localhost"}
CORES_EACH, MOST, BYTES_EACH = 2, 4, 3_000_000_000
"""Of a web process: a core for it and one for its previews, and the machine's memory that both want."""


def processes_for(cores: int, memory_bytes: int) -> int:
    """Web processes that a machine takes."""
    return max(1, min(MOST, cores // CORES_EACH, memory_bytes // BYTES_EACH))


class Settings(BaseSettings):
    """Read once, at the start, from OFFSETTER_* in the environment."""

    model_config = SettingsConfigDict(env_prefix="OFFSETTER_")

    database_url: str
    data_folder: Path
    address: str = "127.0.0.1"
    port: int = Field(8040, ge=1, le=65535)
    demo: bool = False
    """The demo shop: one click signs in, and only this machine is served."""
    filling: Path | None = None
    """Where the demo's opener notes how far its filling is."""
    last_backup: Path | None = None
    """Where the shop's opener notes its last backup; None: somebody else sees to them."""
    loopback_ports: list[int] = []
    """Of this machine, as JSON, that machines may answer at; besides those only the shop's own network is spoken to."""
    tls_certificate: Path | None = None
    tls_key: Path | None = None
    authority: Path | None = None
    """The certificate that signed ours: a tablet takes it once and trusts this shop from then on."""
    without_tls: bool = False
    proxies: list[str] = []
    """Addresses of proxies in front, as JSON: what they say of a caller's address and scheme is believed, and nobody else."""
    processes: int | None = Field(None, ge=1, le=16)
    """That answer browsers, behind one port; None: by this machine's cores and memory."""
    lookers: int | None = Field(None, ge=0, le=16)
    """Processes for previews, of each of those; None: by this machine's cores and memory, 0: none."""
    dist: Path = Path(__file__).resolve().parents[3] / "frontend" / "dist"

    def refuse_data_inside(self, checkout: Path) -> None:
        """A shop's data do not lie where an update of the program writes."""
        if self.data_folder.resolve().is_relative_to(checkout.resolve()):
            raise Refusal("data-inside", say("The data folder {data_folder} lies inside the program's own folder.", data_folder=self.data_folder),
                          say("Nothing was started."), say("Set OFFSETTER_DATA_FOLDER to a folder elsewhere."))  # fmt: skip

    def refuse_open_address(self) -> None:
        """The demo's open door is for this machine alone; on a shop's network passwords go encrypted."""
        if self.address in LOOPBACK:
            return
        if self.demo:
            raise Refusal("demo-in-the-open", say("The demo shop lets everybody in and does not listen on {address}.", address=self.address),
                          say("Nothing was started."), say("Set OFFSETTER_ADDRESS to 127.0.0.1."))  # fmt: skip
        if not (self.tls_certificate and self.tls_key) and not self.without_tls:
            raise Refusal("no-tls", say("On {address} passwords would cross the network in the open.", address=self.address), say("Nothing was started."),
                          say("Set OFFSETTER_TLS_CERTIFICATE and OFFSETTER_TLS_KEY, or OFFSETTER_WITHOUT_TLS=yes to do it all the same."))  # fmt: skip
