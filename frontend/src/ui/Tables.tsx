import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { sent } from "../api/client";
import type { TableSeen } from "../api/types";
import { say, sayMany } from "../texts/say";
import { FileButton } from "./FileButton";
import { Overlay } from "./Overlay";
import { Button } from "./parts";
import { Refused, useSaying } from "./saying";
import { several } from "./several";

const SHOWN = 200;

type TablesProps = { list: string; brings?: "customers" | "stock" | "blanks" | "orders"; hint?: string };

/** A list as a table to take along; where it makes sense, one brought in, each row seen before anything is written. */
export function Tables({ list, brings, hint }: TablesProps) {
  const [isOpen, setOpen] = useState(false);
  return (
    <span className="inline-flex flex-wrap items-center gap-x-4">
      <a
        href={`/api/lists/${list}.csv`}
        download
        className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
      >
        {say("As a table (CSV)")}
      </a>
      {brings && (
        <button
          type="button"
          onClick={() => setOpen(true)}
          className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
        >
          {say("Bring a table in")}
        </button>
      )}
      {brings && isOpen && <BringIn table={brings} hint={hint ?? ""} onClose={() => setOpen(false)} />}
    </span>
  );
}

function BringIn({ table, hint, onClose }: { table: string; hint: string; onClose: () => void }) {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [seen, setSeen] = useState<TableSeen | null>(null);
  const { wrong, tell } = useSaying();
  const look = (chosen: File) => {
    setFile(chosen);
    setSeen(null);
    void tell(sent<TableSeen>(`/api/lists/${table}/preview`, chosen).then(setSeen));
  };
  const write = async () => {
    if (!file) return;
    if (await tell(sent<TableSeen>(`/api/lists/${table}`, file).then(setSeen))) await queries.invalidateQueries();
  };
  const isWritten = (seen?.written ?? 0) > 0;
  return (
    <Overlay open wide onClose={onClose} title={say("Bring a table in")} sub={hint}>
      <div className="flex flex-wrap gap-2">
        <FileButton label={say("A table as CSV")} accept=".csv,text/csv" kind={seen ? "plain" : "go"} onFile={look}>
          {seen ? say("Another file") : say("Choose a file")}
        </FileButton>
        {seen && !isWritten && seen.ready > 0 && (
          <Button kind="go" onClick={() => void write()}>
            {say("Write {ready}", { ready: several(seen.ready, "row") })}
          </Button>
        )}
      </div>
      <Refused said={wrong} />
      {seen && (
        <>
          <p role="status" className="mt-3 font-semibold">
            {isWritten
              ? say("{written} written.", { written: several(seen.written ?? 0, "row") })
              : seen.wrong
                ? say(
                    "{rows} would be written, {wrong} cannot be read and would be left out; nothing is written yet.",
                    { rows: several(seen.ready, "row"), wrong: seen.wrong },
                  )
                : say("{rows} would be written; nothing is written yet.", { rows: several(seen.ready, "row") })}
          </p>
          <ul className="mt-2 max-h-80 overflow-auto border-t border-hair">
            {seen.rows.slice(0, SHOWN).map((r) => (
              <li key={r.row} className="grid grid-cols-[60px_1fr] border-b border-hair py-1">
                <span className="num text-soft">{r.row}</span>
                <span className={r.wrong ? "text-stop" : r.changes ? "" : "text-soft"}>{r.wrong || r.said}</span>
              </li>
            ))}
          </ul>
          {seen.rows.length > SHOWN && (
            <p className="text-sm text-soft">
              {sayMany(seen.rows.length - SHOWN, "and {count} more row", "and {count} more rows")}
            </p>
          )}
        </>
      )}
    </Overlay>
  );
}
