import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { ActBody, Document } from "./types";

/** by: who did it. On a shared screen it waits for its own person, so that nobody's act is written to another. */
export type Letter =
  | { id: string; kind: "act"; by?: string; job: string; print?: string; at: string; body: ActBody }
  | {
      id: string;
      kind: "decision";
      by?: string;
      job: string;
      print?: string;
      station: Document;
      base: number;
      body: Record<string, unknown>;
    };

interface Shelf extends DBSchema {
  letters: { key: number; value: Letter & { n?: number }; indexes: { id: string } };
}

const NAME = "offsetter.outbox";
const LEAST_ROOM = 5_000_000;
let opened: Promise<IDBPDatabase<Shelf>> | null = null;

/** What waits for the server, in the order in which it was done; all tabs of this browser share it. */
function shelf(): Promise<IDBPDatabase<Shelf>> {
  opened ??= openDB<Shelf>(NAME, 1, {
    upgrade(db) {
      db.createObjectStore("letters", { keyPath: "n", autoIncrement: true }).createIndex("id", "id", { unique: true });
    },
  });
  return opened;
}

/** Raises what the browser raises when its store is full or forbidden. */
export async function put(letter: Letter): Promise<void> {
  await (await shelf()).add("letters", letter);
}

export async function drop(id: string): Promise<void> {
  const db = await shelf();
  const key = await db.getKeyFromIndex("letters", "id", id);
  if (key !== undefined) await db.delete("letters", key);
}

export async function every(): Promise<Letter[]> {
  return (await (await shelf()).getAll("letters")).map(({ n: _, ...letter }) => letter as Letter);
}

/** What an earlier version kept moves here. */
export async function takeOver(): Promise<void> {
  const before = JSON.parse(localStorage.getItem(NAME) ?? "[]") as Letter[];
  for (const letter of before) await put(letter).catch(() => null);
  localStorage.removeItem(NAME);
}

/** Whether this browser can still keep what is done; browsers that do not tell are believed to. */
export async function hasRoom(): Promise<boolean> {
  const told = await navigator.storage?.estimate?.().catch(() => null);
  return !told?.quota || told.quota - (told.usage ?? 0) > LEAST_ROOM;
}

const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(NAME);

export function announce(): void {
  channel?.postMessage("changed");
}

export function whenChanged(tell: () => void): () => void {
  channel?.addEventListener("message", tell);
  return () => channel?.removeEventListener("message", tell);
}

/** One sender among the tabs; a plain network address has no locks, and the server takes an act once all the same. */
export async function alone(work: () => Promise<void>): Promise<void> {
  if (navigator.locks) await navigator.locks.request(NAME, () => work());
  else await work();
}
