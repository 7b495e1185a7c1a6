import { useShop } from "../api/useShop";

const DIGITS = 2;

/** A currency's sign, or its code where it has none. */
export function signOf(currency: string): string {
  try {
    const parts = new Intl.NumberFormat("en", { style: "currency", currency, currencyDisplay: "narrowSymbol" });
    return parts.formatToParts(0).find((p) => p.type === "currency")?.value ?? currency;
  } catch {
    return currency;
  }
}

/** Amounts in this shop's own money. */
export function useMoney() {
  const { shop } = useShop();
  const sign = signOf(shop?.currency ?? "");
  return {
    sign,
    money: (amount: number | string) => `${Number(amount).toFixed(DIGITS)} ${sign}`,
    /** Of a reading: money where it is money. */
    unit: (unit: string) => (unit && unit === shop?.currency ? sign : unit),
  };
}
