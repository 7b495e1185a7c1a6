import { useQuery } from "@tanstack/react-query";
import { api, told } from "./client";
import type { Shop } from "./types";

type Asked = Shop & {
  /** Seconds that this screen's clock is ahead of the shop's. */
  aheadS: number;
};

export function useShop() {
  const query = useQuery({ queryKey: ["shop"], queryFn: ask, staleTime: 60_000 });
  return { shop: query.data };
}

async function ask(): Promise<Asked> {
  const began = Date.now();
  const shop = await told<Shop>(api.GET("/api/shop"));
  // Somewhere between the question and the answer the shop's clock was read.
  const middle = (began + Date.now()) / 2;
  return { ...shop, aheadS: (middle - new Date(shop.now).getTime()) / 1000 };
}
