"""The rows. Codes and keys compare byte by byte; bodies are the core's own documents as JSON."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, Double, ForeignKey, Index, MetaData, String, UniqueConstraint, text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from offsetter.store.types import UtcDateTime

Key = String(40, collation="utf8mb4_bin")
Item = String(80, collation="utf8mb4_bin")
"""Of the store: see core.stock."""
NAMING = {
    "ix": "ix_%(column_0_label)s", "uq": "uq_%(table_name)s_%(column_0_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s", "pk": "pk_%(table_name)s",
}  # fmt: skip


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)


class ShopRow(Base):
    """A shop's own version of a fact: blanks, machines, recipes, prices, levels."""

    __tablename__ = "shop_facts"
    kind: Mapped[str] = mapped_column(Key, primary_key=True)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    version: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[dict[str, Any]] = mapped_column(JSON)
    author: Mapped[str] = mapped_column(String(80), server_default=text("''"))
    """Empty: shipped, or of a version that did not say."""
    made_at: Mapped[datetime | None] = mapped_column(UtcDateTime())


class JobRow(Base):
    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime())


class DecisionRow(Base):
    """One revision of one document. body is None where an undo went back to nothing decided."""

    __tablename__ = "decisions"
    __table_args__ = (UniqueConstraint("job_id", "print_id", "station", "revision"),)
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    print_id: Mapped[str] = mapped_column(Key)
    station: Mapped[str] = mapped_column(Key)
    revision: Mapped[int]
    step: Mapped[str] = mapped_column(Key)
    target: Mapped[int | None]
    author: Mapped[str] = mapped_column(String(80))
    made_at: Mapped[datetime] = mapped_column(UtcDateTime())
    body: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))


class ArtworkRow(Base):
    __tablename__ = "artworks"
    hash: Mapped[str] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(String(255))
    size_bytes: Mapped[int]
    received_at: Mapped[datetime] = mapped_column(UtcDateTime())


class RunRow(Base):
    __tablename__ = "runs"
    __table_args__ = (UniqueConstraint("number"), Index("ix_runs_job_id", "job_id"))
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    number: Mapped[int]
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    state: Mapped[str] = mapped_column(Key)
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    released_at: Mapped[datetime] = mapped_column(UtcDateTime())
    released_by: Mapped[str] = mapped_column(String(80))


class ActRow(Base):
    """Append-only: the application's database user may insert and read here, nothing else."""

    __tablename__ = "acts"
    __table_args__ = (
        UniqueConstraint("id"), Index("ix_acts_job_id", "job_id"), Index("ix_acts_kind", "kind"), Index("ix_acts_about", "about", "kind"),
    )  # fmt: skip
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(Key)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    at: Mapped[datetime] = mapped_column(UtcDateTime())
    recorded_at: Mapped[datetime] = mapped_column(UtcDateTime())
    actor: Mapped[str] = mapped_column(String(80))
    signature: Mapped[str] = mapped_column(Key)
    kind: Mapped[str] = mapped_column(Key)
    about: Mapped[str | None] = mapped_column(Key)
    """The press, lot or act that it is looked for by."""
    body: Mapped[dict[str, Any]] = mapped_column(JSON)


class StandingRow(Base):
    """Where a job stands, written with every decision, act and run that changes it; body is the core's JobStanding."""

    __tablename__ = "standings"
    __table_args__ = (
        Index("ix_standings_stands_due", "stands", "due"),
        Index("ix_standings_ended_at", "ended_at"),
        Index("ix_standings_customer_due", "customer", "due", "ended_at"),
    )
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)
    changes: Mapped[int]
    edition: Mapped[int]
    stands: Mapped[str] = mapped_column(Key)
    due: Mapped[datetime] = mapped_column(UtcDateTime())
    ended_at: Mapped[datetime | None] = mapped_column(UtcDateTime())
    needs_person: Mapped[bool]
    spoil_tried: Mapped[int]
    spoil_spoiled: Mapped[int]
    customer: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"), server_default=text("''"))
    """The key of whom it is for."""
    is_stocked: Mapped[bool] = mapped_column(server_default=text("0"))
    """What it takes is reckoned in the store; jobs of a version that kept none are not yet."""
    body: Mapped[dict[str, Any]] = mapped_column(JSON)
    scene: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    work: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    """What is left to do of it: for the plan of a day, and read by nothing else."""
    measured: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    """Print to what was measured on its pixels: an act, or another fact of the shop, draws none of them again."""


class CustomerRow(Base):
    """Whom the shop works for; key: what spellings of one name share. A standing names its customer by it."""

    __tablename__ = "customers"
    __table_args__ = (UniqueConstraint("key"),)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    key: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"))
    name: Mapped[str] = mapped_column(String(80))
    contact: Mapped[str] = mapped_column(String(400))
    notes: Mapped[str] = mapped_column(String(2000))
    made_at: Mapped[datetime] = mapped_column(UtcDateTime())


class JobWordRow(Base):
    """Words that jobs are found by."""

    __tablename__ = "job_words"
    __table_args__ = (Index("ix_job_words_job_id", "job_id"),)
    word: Mapped[str] = mapped_column(Key, primary_key=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)


class LogbookRow(Base):
    """A closed job's entry as it was on the day of its closing."""

    __tablename__ = "logbook"
    __table_args__ = (Index("ix_logbook_closed_at", "closed_at"),)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)
    closed_at: Mapped[datetime] = mapped_column(UtcDateTime())
    body: Mapped[dict[str, Any]] = mapped_column(JSON)
    scene: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))


class LotRow(Base):
    """Transfers in the store; left is what nobody took yet."""

    __tablename__ = "lots"
    __table_args__ = (Index("ix_lots_left", "left"), Index("ix_lots_signature", "signature"))
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    run_id: Mapped[str] = mapped_column(Key)
    signature: Mapped[str] = mapped_column(Key)
    count: Mapped[int]
    left: Mapped[int]
    note: Mapped[str] = mapped_column(String(200))
    stored_at: Mapped[datetime] = mapped_column(UtcDateTime())


class CountedSheetRow(Base):
    """A sheet at a press that is good for so many uses."""

    __tablename__ = "counted_sheets"
    press: Mapped[str] = mapped_column(Key, primary_key=True)
    cover: Mapped[str] = mapped_column(String(60, collation="utf8mb4_bin"), primary_key=True)
    since: Mapped[datetime | None] = mapped_column(UtcDateTime())
    used: Mapped[int]


class StockRow(Base):
    """One item of the store: what acts make of it, and what jobs took of it and still want. On hand is counted less taken."""

    __tablename__ = "stock"
    item: Mapped[str] = mapped_column(Item, primary_key=True)
    is_counted: Mapped[bool]
    """Somebody has said how much there is; before that nothing is known of it."""
    counted: Mapped[float] = mapped_column(Double())
    taken: Mapped[float] = mapped_column(Double())
    wanted: Mapped[float] = mapped_column(Double())
    changes: Mapped[int] = mapped_column(server_default="1")
    """Counts up with each of them: their sum tells whether any item is otherwise than it was."""


class StockActRow(Base):
    """What somebody did at the shelf; change: how it moved what is on hand. Append-only like a job's acts."""

    __tablename__ = "stock_acts"
    __table_args__ = (Index("ix_stock_acts_item", "item", "seq"), UniqueConstraint("id"))
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(Key)
    item: Mapped[str] = mapped_column(Item)
    kind: Mapped[str] = mapped_column(Key)
    amount: Mapped[float] = mapped_column(Double())
    change: Mapped[float] = mapped_column(Double())
    reason: Mapped[str] = mapped_column(String(200))
    lot: Mapped[str] = mapped_column(String(60))
    expires: Mapped[date | None]
    actor: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(UtcDateTime())


class JobStockRow(Base):
    """What one job took of an item and still wants of it, as the stock reckons it."""

    __tablename__ = "job_stock"
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)
    item: Mapped[str] = mapped_column(Item, primary_key=True)
    taken: Mapped[float] = mapped_column(Double())
    wanted: Mapped[float] = mapped_column(Double())


class StockDayRow(Base):
    """What jobs took of an item on one day: the pace is read from the last weeks of them."""

    __tablename__ = "stock_days"
    day: Mapped[date] = mapped_column(primary_key=True)
    item: Mapped[str] = mapped_column(Item, primary_key=True)
    taken: Mapped[float] = mapped_column(Double())


EDITION, TURNS = "shop", "stock"
"""Counters: of the shop's facts, and of what its shelves hold."""


class CounterRow(Base):
    """Numbers that only go up: the edition of the shop's facts."""

    __tablename__ = "counters"
    name: Mapped[str] = mapped_column(Key, primary_key=True)
    value: Mapped[int]


class UserRow(Base):
    """A person. Passwords and PINs are kept as Argon2 hashes alone."""

    __tablename__ = "users"
    __table_args__ = (UniqueConstraint("name"),)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"))
    role: Mapped[str] = mapped_column(Key)
    password_hash: Mapped[str] = mapped_column(String(160))
    pin_hash: Mapped[str] = mapped_column(String(160))
    is_active: Mapped[bool]
    liking: Mapped[dict[str, Any]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime())
    rights: Mapped[list[str] | None] = mapped_column(JSON(none_as_null=True))
    """That a technician was given besides; None: none."""


class SessionRow(Base):
    """A browser that is signed in; the cookie's token is kept as its hash alone."""

    __tablename__ = "sessions"
    __table_args__ = (Index("ix_sessions_user_id", "user_id"),)
    token_hash: Mapped[str] = mapped_column(String(64, collation="utf8mb4_bin"), primary_key=True)
    id: Mapped[str] = mapped_column(Key)
    user_id: Mapped[str] = mapped_column(Key, ForeignKey("users.id"))
    device: Mapped[str] = mapped_column(String(120))
    created_at: Mapped[datetime] = mapped_column(UtcDateTime())
    seen_at: Mapped[datetime] = mapped_column(UtcDateTime())
    ended_at: Mapped[datetime | None] = mapped_column(UtcDateTime())


class SignInTryRow(Base):
    """A failed sign-in, for the limit on guessing."""

    __tablename__ = "sign_in_tries"
    __table_args__ = (Index("ix_sign_in_tries_key", "key"),)
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    key: Mapped[str] = mapped_column(String(120, collation="utf8mb4_bin"))
    at: Mapped[datetime] = mapped_column(UtcDateTime())


class PressSessionRow(Base):
    """The one live session of a press: where it is, and which screen leads it."""

    __tablename__ = "press_sessions"
    press: Mapped[str] = mapped_column(Key, primary_key=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    print_id: Mapped[str] = mapped_column(Key)
    holder: Mapped[str] = mapped_column(Key)
    person: Mapped[str] = mapped_column(String(80))
    screen: Mapped[str] = mapped_column(String(120), server_default=text("''"))
    seq: Mapped[int]
    state: Mapped[dict[str, Any]] = mapped_column(JSON)
    seen_at: Mapped[datetime] = mapped_column(UtcDateTime())


class DayNoteRow(Base):
    """Something of the day, by its name: hours, who is away, what is pinned, the order of the plan last shown."""

    __tablename__ = "day_notes"
    name: Mapped[str] = mapped_column(Key, primary_key=True)
    body: Mapped[Any] = mapped_column(JSON)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime())


class NozzleRow(Base):
    """A nozzle check that was read, or a cleaning."""

    __tablename__ = "nozzle_checks"
    __table_args__ = (Index("ix_nozzle_checks_printer_at", "printer", "at"),)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    printer: Mapped[str] = mapped_column(Key)
    at: Mapped[datetime] = mapped_column(UtcDateTime())
    body: Mapped[dict[str, Any]] = mapped_column(JSON)


class LinkRow(Base):
    """How a machine is reached: its address on the network, or the folder that it takes files from."""

    __tablename__ = "machine_links"
    machine: Mapped[str] = mapped_column(Key, primary_key=True)
    address: Mapped[str] = mapped_column(String(200, collation="utf8mb4_bin"))
    folder: Mapped[str] = mapped_column(String(400, collation="utf8mb4_bin"))
    body: Mapped[dict[str, Any]] = mapped_column(JSON)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime())


class MachineStateRow(Base):
    """A machine as it was last heard, and what it has done since anybody counts."""

    __tablename__ = "machine_states"
    machine: Mapped[str] = mapped_column(Key, primary_key=True)
    asked_at: Mapped[datetime | None] = mapped_column(UtcDateTime())
    """By whichever server asks: two of them do not ask at once."""
    told_at: Mapped[datetime | None] = mapped_column(UtcDateTime())
    told: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    problem: Mapped[str] = mapped_column(String(300))
    totals: Mapped[dict[str, Any]] = mapped_column(JSON)
    held: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    """Channel to what is in it, by what it really lays: worked out when a level comes in."""
    last_used: Mapped[datetime | None] = mapped_column(UtcDateTime())
    begun: Mapped[datetime] = mapped_column(UtcDateTime())


class MachineActRow(Base):
    """What was done with a machine, and what it took. Append-only."""

    __tablename__ = "machine_acts"
    __table_args__ = (UniqueConstraint("id"), Index("ix_machine_acts_machine_kind", "machine", "kind", "at"), Index("ix_machine_acts_machine_at", "machine", "at"))  # fmt: skip
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(60, collation="utf8mb4_bin"))
    machine: Mapped[str] = mapped_column(Key)
    kind: Mapped[str] = mapped_column(Key)
    at: Mapped[datetime] = mapped_column(UtcDateTime())
    actor: Mapped[str] = mapped_column(String(80))
    body: Mapped[dict[str, Any]] = mapped_column(JSON)


class SendRow(Base):
    """A run handed to its printer: written before anything is sent, so that nothing is ever sent twice."""

    __tablename__ = "sends"
    __table_args__ = (
        UniqueConstraint("name"),
        Index("ix_sends_run_id", "run_id"),
        Index("ix_sends_is_open", "is_open"),
        Index("ix_sends_machine_made_at", "machine", "made_at"),
    )
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"))
    run_id: Mapped[str] = mapped_column(Key)
    machine: Mapped[str] = mapped_column(Key)
    name: Mapped[str] = mapped_column(String(120, collation="utf8mb4_bin"))
    """As the printer knows it."""
    is_open: Mapped[bool]
    """It is not known yet how it ends."""
    made_at: Mapped[datetime] = mapped_column(UtcDateTime())
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime())
    body: Mapped[dict[str, Any]] = mapped_column(JSON)


class TokenRow(Base):
    """A program that may bring orders: its token is kept as its hash alone."""

    __tablename__ = "tokens"
    __table_args__ = (UniqueConstraint("token_hash"),)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    token_hash: Mapped[str] = mapped_column(String(64, collation="utf8mb4_bin"))
    rights: Mapped[list[str]] = mapped_column(JSON)
    made_by: Mapped[str] = mapped_column(String(80))
    made_at: Mapped[datetime] = mapped_column(UtcDateTime())
    used_at: Mapped[datetime | None] = mapped_column(UtcDateTime())
    ended_at: Mapped[datetime | None] = mapped_column(UtcDateTime())


class BroughtRow(Base):
    """An order that came from elsewhere, by whose it is and what it is called there: sent again, it is the same job."""

    __tablename__ = "brought_orders"
    __table_args__ = (UniqueConstraint("source", "reference"),)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)
    source: Mapped[str] = mapped_column(Key)
    reference: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"))


class RunJobRow(Base):
    """Which jobs a run carries, where it carries several."""

    __tablename__ = "run_jobs"
    __table_args__ = (Index("ix_run_jobs_job_id", "job_id"),)
    run_id: Mapped[str] = mapped_column(Key, ForeignKey("runs.id"), primary_key=True)
    job_id: Mapped[str] = mapped_column(Key, ForeignKey("jobs.id"), primary_key=True)


class GangSheetRow(Base):
    """A sheet that several jobs share, until it is released or given up."""

    __tablename__ = "gang_sheets"
    __table_args__ = (Index("ix_gang_sheets_is_open", "is_open"),)
    id: Mapped[str] = mapped_column(Key, primary_key=True)
    is_open: Mapped[bool]
    revision: Mapped[int]
    made_by: Mapped[str] = mapped_column(String(80))
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime())
    body: Mapped[dict[str, Any]] = mapped_column(JSON)


class LongWorkRow(Base):
    """Work that goes on beside the requests, while it does and for a day after: whichever process is asked knows of it."""

    __tablename__ = "long_work"
    __table_args__ = (Index("ix_long_work_is_open_alive_at", "is_open", "alive_at"),)
    work: Mapped[str] = mapped_column(String(255, collation="utf8mb4_bin"), primary_key=True)
    task: Mapped[str] = mapped_column(Key)
    owner: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"))
    """The process that does it; empty: nobody."""
    is_open: Mapped[bool]
    is_stopping: Mapped[bool]
    tries: Mapped[int]
    alive_at: Mapped[datetime] = mapped_column(UtcDateTime())
    """By the database's clock."""
    arguments: Mapped[dict[str, Any]] = mapped_column(JSON)
    events: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
