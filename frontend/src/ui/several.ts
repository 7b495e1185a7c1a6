/** Such as "1 transfer" and "3 transfers". */
export function several(count: number, one: string): string {
  return `${count} ${called(count, one)}`;
}

export function called(count: number, one: string): string {
  return count === 1 ? one : `${one}s`;
}
