import type { Today } from "../../api/types";
import { say } from "../../texts/say";

const MOST = 3;

/** Whose turn comes before whose at a machine, where that is another order than this screen showed before. */
export function orderChanged(before: Today, now: Today): string[] {
  const found: string[] = [];
  const names = new Map(now.machines.map((m) => [m.id, m.name]));
  for (const [machine, name] of names) {
    const [was, is] = [turnsAt(before, machine), turnsAt(now, machine)];
    const both = is.filter((job) => was.includes(job));
    for (const [at, job] of both.entries()) {
      const overtaken = both.slice(at + 1).find((other) => was.indexOf(other) < was.indexOf(job));
      if (overtaken) {
        found.push(
          say("On {name}, {job} now goes before {other}.", {
            name,
            job: titleOf(now, job),
            other: titleOf(now, overtaken),
          }),
        );
        break;
      }
    }
  }
  const more = found.length - MOST;
  return more > 0 ? [...found.slice(0, MOST), say("The order changed at {more} more.", { more })] : found;
}

/** Jobs at a machine in the order of their first turn there. */
function turnsAt(today: Today, machine: string): string[] {
  const blocks = today.blocks.filter((b) => b.machine === machine).sort((a, b) => a.start_min - b.start_min);
  return [...new Set(blocks.map((b) => b.job))];
}

const titleOf = (today: Today, job: string) => today.blocks.find((b) => b.job === job)?.title ?? job;
