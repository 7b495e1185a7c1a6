"""Every list of the shop as a table (CSV): written a page at a time, however long it is; and tables of customers, counts and blanks brought
in, each row looked at before anything is written."""

import csv
import io
import math
from collections.abc import Callable, Iterator
from datetime import date, datetime
from typing import Any, Literal

from pydantic import ValidationError

from offsetter.core import facts as shipped
from offsetter.core import stock as core_stock
from offsetter.core.facts import Blank
from offsetter.core.facts.kinds import blank_body
from offsetter.core.sentences import a_day, say
from offsetter.core.stock import StockAct
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.at_work import MachinesAtWork
from offsetter.desk.base import Base
from offsetter.desk.elsewhere import Elsewhere, OrderIn
from offsetter.desk.inventory import Inventory
from offsetter.desk.jobs import Jobs
from offsetter.desk.leftovers import Leftovers
from offsetter.desk.stock import Stock, plain_cell
from offsetter.intake.tables import Limits, Table, read_table
from offsetter.store.customers import LONGEST, CustomerStore, key_of
from offsetter.store.logbook import LogbookStore
from offsetter.store.standings import StandingStore, Unreadable
from offsetter.store.stock import StockStore

Listed = Literal["jobs", "logbook", "customers", "blanks", "stock", "leftovers", "machines"]
Brought = Literal["customers", "stock", "blanks", "orders"]
PAGE = 500
TABLE = "table"
"""Whose orders of tables are."""
MOST_BYTES, MOST_ROWS = 2_000_000, 5_000
NOTHING = say("Nothing was written.")
COLUMNS: dict[Brought, dict[str, str]] = {
    "customers": {"name": "name", "customer": "name", "contact": "contact", "notes": "notes"},
    "stock": {"item": "item", "thing": "item", "count": "count", "counted": "count", "on hand": "count", "lot": "lot", "expires": "expires", "reason": "reason"},
    "orders": {"reference": "reference", "title": "title", "job": "title", "customer": "customer", "due": "due", "blank": "blank", "colour": "colour", "color": "colour", "size": "size", "count": "count", "pieces": "count", "quoted": "quoted"},
    "blanks": {"like": "like", "kind": "like", "colour name": "colour_name", "colour": "colour", "color": "colour", "name": "name", "price": "price", "code": "code"},
}  # fmt: skip
NEEDED: dict[Brought, tuple[str, ...]] = {"customers": ("name",), "stock": ("item", "count"), "blanks": ("like", "colour_name"), "orders": ("reference", "title", "customer", "due", "blank", "count")}  # fmt: skip


class RowSeen(Frozen):
    """One row of a table that is brought in: what it would do, or why it cannot."""

    row: int
    said: str
    wrong: str = ""
    changes: bool = True


class TableSeen(Frozen):
    rows: tuple[RowSeen, ...]
    ready: int
    wrong: int
    written: int = 0


class Lists:
    def __init__(self, base: Base, jobs: Jobs, stock: Stock, leftovers: Leftovers, inventory: Inventory, at_work: MachinesAtWork, elsewhere: Elsewhere) -> None:  # fmt: skip
        self._base, self._jobs, self._stock = base, jobs, stock
        self._leftovers, self._inventory, self._at_work, self._elsewhere = leftovers, inventory, at_work, elsewhere

    def csv(self, listed: Listed) -> Iterator[str]:
        """The table in parts, its heads first."""
        rows: dict[Listed, Callable[[], Iterator[tuple[Any, ...]]]] = {
            "jobs": self._of_jobs, "logbook": self._of_logbook, "customers": self._of_customers, "blanks": self._of_blanks,
            "stock": self._of_stock, "leftovers": self._of_leftovers, "machines": self._of_machines,
        }  # fmt: skip
        for row in rows[listed]():
            out = io.StringIO()
            csv.writer(out, lineterminator="\r\n").writerow([_cell(c) for c in row])
            yield out.getvalue()

    def _of_jobs(self) -> Iterator[tuple[Any, ...]]:
        yield ("title", "customer", "due", "stands", "pieces", "good", "next", "codes", "ended")
        after: tuple[datetime, str] | None = None
        lost: set[str] = set()
        while True:
            try:
                with self._base.session() as session:
                    found = StandingStore(session, lost).page("all", "", self._base.now(), PAGE, after)
            except Unreadable as row:  # it says elsewhere why; the others are listed
                lost.add(row.job_id)
                continue
            for kept in found:
                s = kept.standing
                yield (s.title, s.customer, s.due, s.stands, s.pieces, s.good, s.next_verdict, " ".join(s.codes), s.ended_at)  # fmt: skip
            if len(found) < PAGE:
                return
            last = found[-1].standing
            after = (last.ended_at or last.due, last.id)

    def _of_logbook(self) -> Iterator[tuple[Any, ...]]:
        yield ("closed", "title", "customer", "blank", "method", "ordered", "good", "spoiled", "cost a piece", "quoted", "currency", "people")  # fmt: skip
        after: tuple[datetime, str] | None = None
        while True:
            with self._base.session() as session:
                found = LogbookStore(session).readable(PAGE, after)
            for e in (e for e in found if e[2] is not None):
                entry = e[2]
                assert entry is not None
                yield (entry.closed_at, entry.title, entry.customer, entry.blank, entry.method, entry.ordered, entry.good, sum(s.count for s in entry.spoiled),
                       entry.cost_a_piece, entry.quoted, entry.currency, ", ".join(entry.people))  # fmt: skip
            if len(found) < PAGE:
                return
            after = (found[-1][0], found[-1][1])

    def _of_customers(self) -> Iterator[tuple[Any, ...]]:
        yield ("name", "contact", "notes", "open", "ended", "newest due")
        after = ""
        while True:
            with self._base.session() as session:
                found = CustomerStore(session).page("", after, PAGE)
            for customer, ordered in found:
                yield (customer.name, customer.contact, customer.notes, ordered.open, ordered.ended, ordered.latest)
            if len(found) < PAGE:
                return
            after = key_of(found[-1][0].name)

    def _of_blanks(self) -> Iterator[tuple[Any, ...]]:
        yield ("code", "name", "colour name", "colour", "fibres or material", "sizes", "price", "retired")
        for b in sorted(self._jobs.shop()[0].blanks.values(), key=lambda b: (b.name, b.colour_name, b.id)):
            made = ", ".join(f"{n} {s * 100:.0f} %" for n, s in b.fibres.items()) or b.material
            yield (b.id, b.name, b.colour_name, b.colour, made, " ".join(b.sizes), b.price, "yes" if b.retired else "")

    def _of_stock(self) -> Iterator[tuple[Any, ...]]:
        yield (
            "item",
            "name",
            "counted",
            "on hand",
            "wanted by jobs",
            "free",
            "unit",
            "lasts days",
            "order by",
            "order",
        )
        for s in self._stock.look().shelves:
            told = s.outlook
            yield (s.item, s.name, "yes" if s.is_counted else "no", s.on_hand if s.is_counted else "", s.wanted, told.free if s.is_counted else "", s.unit or "pieces",
                   told.lasts_days, told.order_by, told.order or "")  # fmt: skip

    def _of_leftovers(self) -> Iterator[tuple[Any, ...]]:
        yield ("run", "print", "count", "width mm", "height mm", "cloth", "stored", "note")
        for lot in self._leftovers.left():
            yield (f"R{lot.run}", lot.name, lot.count, round(lot.width_mm, 1), round(lot.height_mm, 1), lot.cloth_name, lot.stored_at, lot.note)  # fmt: skip

    def _of_machines(self) -> Iterator[tuple[Any, ...]]:
        yield ("machine", "name", "stands", "runs low", "tasks due")
        shop = self._jobs.shop()[0]
        for b in self._at_work.briefs():
            yield (b.machine, shop.machines[b.machine].name, b.said, b.low, b.care_due)

    def preview(self, what: Brought, data: bytes) -> TableSeen:
        """What every row would do. Raises Refusal for a file that is no such table."""
        return self._through(what, data, "", write=False)

    def bring_in(self, what: Brought, data: bytes, author: str, *, may_price: bool = False) -> TableSeen:
        """Write the rows that are right, each once: the same file again changes nothing more."""
        return self._through(what, data, author, write=True, may_price=may_price)

    def _through(self, what: Brought, data: bytes, author: str, *, write: bool, may_price: bool = True) -> TableSeen:
        table = self._read(what, data)
        if what == "orders":
            return self._orders(table, author, write=write)
        row_of = {"customers": self._customer, "stock": self._counted, "blanks": self._blank}[what]
        seen, written = [], 0
        mark = digest("table", what, data.hex()) if write else ""
        told: set[str] = set()
        for number, cells in table.rows:
            try:
                one = row_of(number, cells, author, f"{mark[:20]}-{number}" if write else "", told, may_price)
                written += write and one.changes
            except Refusal as no:
                one = RowSeen(row=number, said="", wrong=f"{no.happened} {no.to_do}", changes=False)
            seen.append(one)
        return TableSeen(rows=tuple(seen), ready=sum(r.changes for r in seen), wrong=sum(bool(r.wrong) for r in seen), written=written)  # fmt: skip

    def _orders(self, table: Table, author: str, *, write: bool) -> TableSeen:
        """Rows of one reference are one order; it waits for a person's look like one that a program brings."""
        groups: dict[str, list[tuple[int, dict[str, str]]]] = {}
        for number, cells in table.rows:
            groups.setdefault(_text(cells, "reference", 80, number) or f"row {number}", []).append((number, cells))
        seen, written = [], 0
        for reference, rows in groups.items():
            number, first = rows[0]
            try:
                if self._elsewhere.is_known(TABLE, reference):
                    seen.append(
                        RowSeen(
                            row=number, said=say("{reference}: is there already", reference=reference), changes=False
                        )
                    )
                    continue
                told = _order_of(reference, rows)
                order = self._elsewhere.order_of(told)
                if told.due <= self._base.now():
                    raise _wrong(
                        "table-due",
                        say("Row {number}: its due time lies in the past.", number=number),
                        say("Give a time from now on."),
                    )
                if write:
                    self._elsewhere.take(told, TABLE, f"a table of {author}")
                    written += 1
                seen.append(
                    RowSeen(
                        row=number,
                        said=say(
                            "{first} for {first2}: {pieces} pieces, due {due}",
                            first=first["title"],
                            first2=first["customer"],
                            pieces=order.pieces,
                            due=a_day(told.due, "full"),
                        ),
                    )
                )
            except Refusal as no:
                seen.append(RowSeen(row=number, said="", wrong=f"{no.happened} {no.to_do}", changes=False))
        return TableSeen(rows=tuple(seen), ready=sum(r.changes for r in seen), wrong=sum(bool(r.wrong) for r in seen), written=written)  # fmt: skip

    def _read(self, what: Brought, data: bytes) -> Table:
        table = read_table(data, COLUMNS[what], Limits("table", MOST_BYTES, MOST_ROWS, NOTHING))
        missing = [n.replace("_", " ") for n in NEEDED[what] if n not in table.heads]
        if missing:
            raise Refusal("table-no-head", say("The first row must name the columns, and none of them is “{missing}”.", missing=missing[0]), NOTHING,
                          say("Give it a first row such as: {fromkeys}", fromkeys=', '.join(dict.fromkeys(v.replace('_', ' ') for v in COLUMNS[what].values()))))  # fmt: skip
        return table

    def _customer(self, row: int, cells: dict[str, str], author: str, mark: str, told: set[str], may_price: bool) -> RowSeen:  # fmt: skip
        name = _text(cells, "name", LONGEST, row, needed=True)
        contact, notes = _text(cells, "contact", 400, row), _text(cells, "notes", 2000, row)
        _once(told, key_of(name), name, row)
        with self._base.session() as session, session.begin():
            store = CustomerStore(session)
            known = store.named(name)
            if known is not None:
                contact, notes = contact or known.contact, notes or known.notes
                if (contact, notes) == (known.contact, known.notes):
                    return RowSeen(row=row, said=say("{name}: as it is", name=known.name), changes=False)
            if mark:
                store.ensure(name, self._base.now())
                made = store.named(name)
                assert made is not None
                store.change(made.id, contact, notes)
        return RowSeen(
            row=row,
            said=say("{name}: new", name=name)
            if known is None
            else say("{name}: other contact or notes", name=known.name),
        )

    def _counted(self, row: int, cells: dict[str, str], author: str, mark: str, told: set[str], may_price: bool) -> RowSeen:  # fmt: skip
        asked = _text(cells, "item", 160, row, needed=True)
        names = core_stock.items_of(self._jobs.shop()[0])
        found = [i for i, n in names.items() if asked.casefold() in (i.casefold(), n.casefold())]
        if len(found) != 1:
            raise _wrong("table-item", say("Row {row}: the shop counts nothing called “{asked}”.", row=row, asked=asked[:60]) if not found else say("Row {row}: several things are called “{asked}”.", row=row, asked=asked[:60]), say("Write it as the Stores' own table does."))  # fmt: skip
        _once(told, found[0], names[found[0]], row)
        amount = _number(cells.get("count", ""), row)
        expires = _day(cells.get("expires", ""), row)
        with self._base.session() as session:
            shelf = StockStore(session).shelves(found).get(found[0])
        now = f"{shelf.on_hand:g}" if shelf and shelf.is_counted else say("not counted yet")
        if mark:
            act = StockAct(id=f"table-{mark}"[:40], item=found[0], kind="counted", amount=amount, reason=_text(cells, "reason", 200, row) or say("from a table"), lot=_text(cells, "lot", 60, row), expires=expires)  # fmt: skip
            self._stock.record(act, author)
        is_same = bool(shelf and shelf.is_counted and math.isclose(shelf.on_hand, amount, abs_tol=1e-6))
        return RowSeen(
            row=row,
            said=say("{names}: {now}, then {amount}", names=names[found[0]], now=now, amount=f"{amount:g}"),
            changes=not is_same,
        )

    def _blank(self, row: int, cells: dict[str, str], author: str, mark: str, told: set[str], may_price: bool) -> RowSeen:  # fmt: skip
        like = _text(cells, "like", 60, row, needed=True)
        kinds = shipped.kinds().blanks
        kind = kinds.get(like) or next(
            (k for k in kinds.values() if k.body["name"].casefold() == like.casefold()), None
        )
        if kind is None:
            raise _wrong("table-like", say("Row {row}: there is no general kind “{like}”.", row=row, like=like), say("Take one of: {kinds}.", kinds=', '.join(k.body['name'] for k in kinds.values())))  # fmt: skip
        colour_name = _text(cells, "colour_name", 40, row, needed=True)
        colour = _text(cells, "colour", 7, row) or dict(kind.colours).get(colour_name, "")
        if not colour:
            raise _wrong("table-colour", say("Row {row}: nobody knows how “{colour_name}” looks.", row=row, colour_name=colour_name), say("Give it a column “colour” such as #1A2B3C."))  # fmt: skip
        own = {"name": _text(cells, "name", 60, row) or kind.body["name"]}
        price = cells.get("price", "").strip()
        if price:
            _number(price, row)
            if not may_price:
                raise _wrong("table-price", say("Row {row}: what things cost is the owner's to say.", row=row), say("Leave the column “price” out."))  # fmt: skip
            own["price"] = price
        code = _text(cells, "code", 40, row)
        _once(told, f"{own['name']} {colour_name}".casefold(), f"{own['name']}, {colour_name}", row)
        body = {**blank_body(kind, colour_name, colour), **own, **({"code": code} if code else {})}
        if not mark:
            known = self._jobs.shop()[0].blanks.values()
            if any(
                (b.name.casefold(), b.colour_name.casefold()) == (own["name"].casefold(), colour_name.casefold())
                for b in known
            ):
                return RowSeen(
                    row=row,
                    said=say("{own}, {colour_name}: is there already", own=own["name"], colour_name=colour_name),
                    changes=False,
                )
            _read_blank(body, row)
            return RowSeen(row=row, said=say("{own}, {colour_name}: new", own=own["name"], colour_name=colour_name))
        try:
            made = self._inventory.add_blank(body, author)
        except Refusal as no:
            if no.code == "blank-known":
                return RowSeen(
                    row=row,
                    said=say("{own}, {colour_name}: is there already", own=own["name"], colour_name=colour_name),
                    changes=False,
                )
            raise
        return RowSeen(row=row, said=say("{name}, {colour_name}: new", name=made.name, colour_name=made.colour_name))


def _order_of(reference: str, rows: list[tuple[int, dict[str, str]]]) -> OrderIn:
    number, first = rows[0]
    for at, cells in rows[1:]:
        other = next(
            (n for n in ("title", "customer", "due") if cells.get(n, "").strip() not in ("", first.get(n, "").strip())),
            None,
        )
        if other:
            raise _wrong(
                "table-mixed",
                say(
                    "Row {at} gives {reference} another {other} than row {number}.",
                    at=at,
                    reference=reference,
                    other=other,
                    number=number,
                ),
                say("Give every row of an order the same."),
            )
    try:
        due = datetime.fromisoformat(_text(first, "due", 40, number, needed=True))
    except ValueError:
        raise _wrong("table-day", say("Row {number}: “{first}” is no time.", number=number, first=first.get('due', '')[:20]), say("Write it as 2027-03-12 15:00.")) from None  # fmt: skip
    # A day alone is its end of work; a time without a zone is the shop's own.
    due = due.replace(hour=17) if (due.hour, due.minute) == (0, 0) else due
    pieces = [{"blank": _text(c, "blank", 60, n, needed=True), "colour": _text(c, "colour", 40, n), "size": _text(c, "size", 20, n) or "one", "count": round(_number(c.get("count", ""), n))} for n, c in rows]  # fmt: skip
    quoted = first.get("quoted", "").strip()
    try:
        return OrderIn.model_validate({
            "reference": reference, "title": _text(first, "title", 120, number, needed=True), "customer": _text(first, "customer", 80, number, needed=True),
            "due": due.astimezone(), "pieces": pieces, "quoted": _number(quoted, number) if quoted else None,
        })  # fmt: skip
    except ValidationError as wrong:
        what = wrong.errors()[0]
        raise _wrong("table-order", say("Row {number}: {what}: {what2}.", number=number, what='.'.join(str(p) for p in what['loc']), what2=what['msg']), say("Put it right and send it again.")) from wrong  # fmt: skip


def _read_blank(body: dict[str, Any], row: int) -> None:
    try:
        Blank.model_validate({**{k: v for k, v in body.items() if k != "code"}, "id": body.get("code") or "new"})
    except ValueError as wrong:
        raise _wrong("table-blank", say("Row {row} is no blank that can be.", row=row), say("Look at its colour, code and price.")) from wrong  # fmt: skip


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.isoformat(timespec="minutes")
    return plain_cell(str(value)) if isinstance(value, str) else str(value)


def _text(cells: dict[str, str], name: str, most: int, row: int, *, needed: bool = False) -> str:
    text = (cells.get(name) or "").strip()
    # A table of ours that comes back: a quote before what looks like a formula.
    text = text[1:] if text[:1] == "'" and text[1:2] in "=+-@" else text
    if (needed and not text) or len(text) > most:
        raise _wrong("table-cell", say("Row {row} has {which}{name}.", row=row, which=say('no ') if not text else say('a too long '), name=name.replace('_', ' ')), say("Give it 1 to {most} letters.", most=most))  # fmt: skip
    return text


def _number(text: str, row: int) -> float:
    try:
        value = float(text.strip().replace(",", ".") if text.count(",") == 1 and "." not in text else text.strip())
    except ValueError:
        value = math.nan
    if not 0 <= value <= core_stock.MOST:
        raise _wrong(
            "table-number",
            say("Row {row}: “{text}” is no amount.", row=row, text=text[:20]),
            say("Write a number from 0 on."),
        )
    return value


def _day(text: str, row: int) -> date | None:
    if not text.strip():
        return None
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise _wrong(
            "table-day", say("Row {row}: “{text}” is no day.", row=row, text=text[:20]), say("Write it as 2027-03-31.")
        ) from None


def _once(told: set[str], key: str, name: str, row: int) -> None:
    if key in told:
        raise _wrong(
            "table-twice",
            say("Row {row}: {name} stands in the table already.", row=row, name=name),
            say("Keep one of the rows."),
        )
    told.add(key)


def _wrong(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, happened, NOTHING, to_do)
