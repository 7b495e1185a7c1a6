import type { Today, TodayBlock, TodayPerson } from "../../api/types";
import { locale, say } from "../../texts/say";

const DAY_MIN = 24 * 60;
const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";

export type Scale = { from: number; to: number; day: number };

/** What a job is called in the drawing: A to Z, then A2 and on. */
export function tagsOf(today: Today): Map<string, string> {
  return new Map(
    today.jobs.map((j, i) => [j.id, `${LETTERS[i % 26]}${i < 26 ? "" : Math.floor(i / 26) + 1}`] as [string, string]),
  );
}

export const clock = (minute: number) => {
  const of = ((minute % DAY_MIN) + DAY_MIN) % DAY_MIN;
  return `${String(Math.floor(of / 60)).padStart(2, "0")}:${String(of % 60).padStart(2, "0")}`;
};

const dateOf = (today: Today, minute: number) => {
  const at = new Date(today.midnight);
  at.setDate(at.getDate() + Math.floor(minute / DAY_MIN));
  return at;
};

export function dayName(today: Today, day: number): string {
  if (day === 0) return say("Today");
  if (day === 1) return say("Tomorrow");
  return dateOf(today, day * DAY_MIN).toLocaleDateString(locale(), {
    weekday: "short",
    day: "numeric",
    month: "short",
  });
}

/** A minute of the plan within a sentence: the clock, with the day where it is another one. */
export function said(today: Today, minute: number): string {
  const [day, at] = [Math.floor(minute / DAY_MIN), clock(minute)];
  if (day === 0) return at;
  return day === 1 ? say("tomorrow {at}", { at }) : `${dayName(today, day)} ${at}`;
}

export const isoAt = (today: Today, minute: number) =>
  new Date(new Date(today.midnight).getTime() + minute * 60_000).toISOString();

/** Days that have work, the first one first. */
export function daysOf(today: Today): number[] {
  const found = new Set(today.blocks.map((b) => Math.floor(b.start_min / DAY_MIN)));
  return [...found].sort((a, b) => a - b);
}

/** The stretch of a day that is drawn: its work, with whole hours around it. */
export function scaleOf(today: Today, day: number): Scale {
  const own = today.blocks.filter((b) => Math.floor(b.start_min / DAY_MIN) === day);
  const begins = Math.min(...own.map((b) => b.start_min), ...(day === 0 ? [today.now_min] : []));
  const ends = Math.max(begins, ...own.map((b) => b.end_min));
  const from = Math.floor((begins - 10) / 30) * 30;
  return { from, to: Math.max(from + 120, Math.ceil((ends + 5) / 30) * 30), day };
}

const CLOSE_MIN = 180;

/** Three hours of it, round a moment. */
export function closer(scale: Scale, around: number): Scale {
  if (scale.to - scale.from <= CLOSE_MIN) return scale;
  const from = Math.min(Math.max(scale.from, Math.floor((around - 30) / 30) * 30), scale.to - CLOSE_MIN);
  return { ...scale, from, to: from + CLOSE_MIN };
}

export const isIn = (scale: Scale, start: number, end: number) => end > scale.from && start < scale.to;

export function span(minutes: number): string {
  const days = Math.floor(minutes / DAY_MIN);
  if (days >= 2) return say("{days} days", { days });
  const [h, m] = [Math.floor(minutes / 60), minutes % 60];
  return h ? (m ? say("{h} h {m} min", { h, m }) : `${h} h`) : say("{m} min", { m });
}

export type Doing = { block: TodayBlock; from: number; to: number };

/** What one pair of hands does, in order; what follows at once on the same thing is one. */
export function doingOf(today: Today, person: TodayPerson): Doing[] {
  const found: Doing[] = [];
  const all = today.blocks.flatMap((block) =>
    block.hands.filter((h) => h.person === person.id).map((h) => ({ block, from: h.start_min, to: h.end_min })),
  );
  for (const one of all.sort((a, b) => a.from - b.from)) {
    const last = found.at(-1);
    if (last && last.block.job === one.block.job && last.block.step === one.block.step && last.to === one.from)
      last.to = one.to;
    else found.push({ ...one });
  }
  return found;
}

export const isCare = (block: TodayBlock) => block.station === "care";

/** Where a stage is done from: its job's station, or its machine. */
export const placeOf = (block: TodayBlock) =>
  isCare(block) ? `/machines/${block.machine}` : `/jobs/${block.job}/${block.station}`;
