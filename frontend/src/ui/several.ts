/** Such as "1 transfer" and "3 transfers". */
export function several(count: number, one: string): string {
  return `${count} ${one}${count === 1 ? "" : "s"}`;
}
