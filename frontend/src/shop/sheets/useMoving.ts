import { useCallback, useRef, useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { Tried } from "../../api/types";

export type Move = {
  piece: string;
  cut: number;
  x_um: number;
  y_um: number;
  turned: boolean;
  half: boolean;
  slant: number;
};

/** Where a print that is being moved would lie, drawn to its neighbours: asked one at a time, the newest place next. */
export function useMoving(sheetId: string) {
  const [shown, setShown] = useState<(Move & { refused: string }) | null>(null);
  const wanted = useRef<Move | null>(null);
  const isAsking = useRef(false);
  const onTry = useCallback(
    async (to: Move | null) => {
      wanted.current = to;
      if (!to) setShown(null);
      if (isAsking.current) return;
      isAsking.current = true;
      while (wanted.current) {
        const now: Move = wanted.current;
        try {
          const at = await told<Tried>(
            api.POST("/api/sheets/{sheet_id}/try", {
              params: { path: { sheet_id: sheetId } },
              body: { ...now, base: 0 },
            }),
          );
          if (wanted.current) setShown({ ...now, x_um: at.x_um, y_um: at.y_um, refused: at.refused });
        } catch (error) {
          if (!(error instanceof ProblemError)) throw error;
        }
        if (wanted.current === now) break;
      }
      isAsking.current = false;
    },
    [sheetId],
  );
  return { shown, onTry };
}
