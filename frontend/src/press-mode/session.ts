import type { Stage } from "../api/types";

/** A press session as the browser keeps it: it survives a reload, sleep and a lost network. */
export type Session = {
  size: string;
  stage: number;
  /** When the running stage was started, by this browser's clock; null while it waits for hands. */
  startedAt: number | null;
  ran: { stage: string; temperature_c: number | null; planned_s: number; ran_s: number; ended_early: boolean }[];
  pieces: number;
  /** The last piece recorded, and when: it can be taken back for ten seconds. */
  last: { act: string; size: string; at: number } | null;
};

const keyOf = (job: string) => `offsetter.press.${job}`;

export function readSession(job: string): Session | null {
  try {
    return JSON.parse(localStorage.getItem(keyOf(job)) ?? "null") as Session | null;
  } catch {
    return null;
  }
}

export function keepSession(job: string, session: Session) {
  localStorage.setItem(keyOf(job), JSON.stringify(session));
}

export function fresh(size: string, earlier?: Session | null): Session {
  return { size, stage: 0, startedAt: null, ran: [], pieces: earlier?.pieces ?? 0, last: earlier?.last ?? null };
}

/** Seconds left of the running stage: below zero when it ran over. */
export function secondsLeft(session: Session, stage: Stage, now: number): number {
  return session.startedAt === null ? stage.time_s : stage.time_s - (now - session.startedAt) / 1000;
}

/** The stage ended: what it really took is kept, the next one waits for hands. */
export function ended(session: Session, stage: Stage, now: number, isEarly: boolean): Session {
  const ran_s = session.startedAt === null ? 0 : Math.round((now - session.startedAt) / 100) / 10;
  const ran = {
    stage: stage.id,
    temperature_c: stage.temperature_c ?? null,
    planned_s: stage.time_s,
    ran_s,
    ended_early: isEarly,
  };
  return { ...session, stage: session.stage + 1, startedAt: null, ran: [...session.ran, ran] };
}

export function clock(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
