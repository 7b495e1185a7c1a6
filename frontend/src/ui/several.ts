import { sayMany } from "../texts/say";

/** Such as "1 transfer" and "3 transfers". */
export function several(count: number, one: string): string {
  return sayMany(count, `{count} ${one}`, `{count} ${one}s`);
}
