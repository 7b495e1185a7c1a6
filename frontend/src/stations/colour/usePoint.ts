import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, told } from "../../api/client";
import type { PointView } from "../../api/types";
import type { Point } from "./Split";

const RESTS_MS = 40;

/** The figures of the point under the glass: asked for when it rests, the ones before shown until then. */
export function usePoint(key: string, point: Point | null): PointView | undefined {
  const [asked, setAsked] = useState<Point | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(point), RESTS_MS);
    return () => clearTimeout(timer);
  }, [point]);
  return useQuery({
    queryKey: ["point", key, asked?.x, asked?.y],
    queryFn: () =>
      told<PointView>(
        api.GET("/api/pictures/{key}/point", {
          params: { path: { key }, query: { x: asked?.x ?? 0, y: asked?.y ?? 0 } },
        }),
      ),
    enabled: asked !== null,
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
  }).data;
}
