import { useCallback, useRef, useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { PinTried, Today, TodayBlock } from "../../api/types";
import { say } from "../../texts/say";
import { isoAt } from "./day";

/** What a stage that is being moved would do there: asked one at a time, the newest place next. */
export function useTrying(today: Today | undefined) {
  const [tried, setTried] = useState<PinTried | null>(null);
  const wanted = useRef<{ block: TodayBlock; minute: number } | null>(null);
  const isAsking = useRef(false);
  const onTry = useCallback(
    async (block: TodayBlock | null, minute: number) => {
      wanted.current = block && { block, minute };
      if (!block) setTried(null);
      if (isAsking.current || !today) return;
      isAsking.current = true;
      while (wanted.current) {
        const now: { block: TodayBlock; minute: number } = wanted.current;
        const pin = { job: now.block.job, step: now.block.step, at: isoAt(today, now.minute), by: "" };
        try {
          const found = await told<PinTried>(api.POST("/api/today/pins/try", { body: { pin, out: false } }));
          if (wanted.current) setTried(found);
        } catch (error) {
          if (!(error instanceof ProblemError)) throw error;
        }
        if (wanted.current === now) wanted.current = null;
      }
      isAsking.current = false;
    },
    [today],
  );
  return { tried, onTry };
}

/** "+18 min; Comet tees 6 min late", or why it cannot begin then. */
export function saidOf(tried: PinTried): string {
  if (tried.refused) return tried.refused;
  const more = tried.more_min ?? 0;
  const whole =
    more > 0
      ? say("+{more} min in all", { more })
      : more < 0
        ? say("{minutes} min less in all", { minutes: -more })
        : say("Nothing takes longer");
  return [whole, ...(tried.late ?? [])].join("; ");
}
