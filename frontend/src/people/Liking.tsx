import { useEffect, useRef } from "react";
import { api } from "../api/client";
import type { Me } from "../api/types";
import { useSettings } from "../settings/settings";
import { LANGUAGE, languageKept } from "../texts/say";

type Liked = NonNullable<Me["liking"]>;

/** Whose liking this browser holds and the server has not answered for yet: a page may be left before it does. */
const UNTOLD = "offsetter.settings.untold";

const told = ({ theme, length, heat, language }: Liked) => [theme, length, heat, language].join(" ");

let newest = "";
let telling: Promise<unknown> = Promise.resolve();

/** One after the other, and none that is no longer so: two on their way at once can arrive in either order. */
function tell(me: string, liking: Liked) {
  newest = told(liking);
  localStorage.setItem(UNTOLD, me);
  telling = telling
    .then(async () => {
      if (newest !== told(liking)) return;
      const { error } = await api.PUT("/api/me/liking", { body: liking });
      if (!error && newest === told(liking)) localStorage.removeItem(UNTOLD);
    })
    .catch(() => {}); // kept here meanwhile, and told with the next change or when a page opens
}

/** Units, theme and language follow the person from screen to screen. */
export function Liking({ me }: { me: Me }) {
  const { theme, length, heat, language, change } = useSettings();
  const known = useRef<string | null>(null);
  useEffect(() => {
    const now = { theme, length, heat, language };
    if (known.current === null && localStorage.getItem(UNTOLD) !== me.name) {
      known.current = told(me.liking ?? now);
      if (me.liking) change(me.liking);
      return;
    }
    if (known.current === told(now)) return;
    known.current = told(now);
    tell(me.name, now);
  }, [me, theme, length, heat, language, change]);
  useEffect(() => {
    // A page keeps the texts that it was loaded with; where nothing is kept, loading anew would not change them.
    if (language !== LANGUAGE && languageKept() === language) void telling.then(() => window.location.reload());
  }, [language]);
  return null;
}
