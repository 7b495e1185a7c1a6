import type { Shelf } from "../../api/types";

export function amount(shelf: Shelf, value: number): string {
  return `${value.toFixed(shelf.digits)}${shelf.unit ? ` ${shelf.unit}` : ""}`;
}
