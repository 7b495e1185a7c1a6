import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import type { Shop } from "../api/types";

export function useShop() {
  const query = useQuery({ queryKey: ["shop"], queryFn: () => told<Shop>(api.GET("/api/shop")), staleTime: 60_000 });
  return { shop: query.data };
}
