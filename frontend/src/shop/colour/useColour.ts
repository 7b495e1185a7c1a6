import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { ColourRoom } from "../../api/types";
import { locale, say } from "../../texts/say";

export function useColour() {
  return useQuery({ queryKey: ["colour"], queryFn: () => told<ColourRoom>(api.GET("/api/colour")) });
}

/** Something done to the shop's colour: whatever shows it is read again, a refusal is said. */
export function useDeed() {
  const queries = useQueryClient();
  const [wrong, setWrong] = useState("");
  const [isBusy, setBusy] = useState(false);
  const run = async <T>(deed: () => Promise<T>): Promise<T | undefined> => {
    setBusy(true);
    setWrong("");
    try {
      const done = await deed();
      await queries.invalidateQueries({ queryKey: ["colour"] });
      queries.invalidateQueries({ queryKey: ["measured"] });
      queries.invalidateQueries({ queryKey: ["job"] });
      return done;
    } catch (error) {
      setWrong(
        error instanceof ProblemError ? `${error.happened} ${error.kept} ${error.thenDo}` : say("That did not work."),
      );
      return undefined;
    } finally {
      setBusy(false);
    }
  };
  return { run, wrong, isBusy };
}

export function day(iso: string): string {
  return new Date(iso).toLocaleDateString(locale(), { day: "numeric", month: "short" });
}
