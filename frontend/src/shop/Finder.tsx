import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import { useNavigate } from "react-router";
import { api, told } from "../api/client";
import type { Found } from "../api/types";
import { say } from "../texts/say";
import { worded } from "../texts/words";
import { Overlay } from "../ui/Overlay";

const REST_MS = 150;
const WHERE: Record<Found["kind"], (id: string) => string> = {
  job: (id) => `/jobs/${id}`,
  customer: (id) => `/customers/${id}`,
  blank: (id) => `/blanks/${id}`,
  machine: (id) => `/machines/${id}`,
  recipe: (id) => `/recipes/${id}`,
  code: (id) => `/codes/${id}`,
};

/** Anything of the shop by typing: arrow keys choose, Enter goes there. */
export function Finder({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Overlay
      title={say("Find")}
      open={open}
      onClose={onClose}
      sub={say("A job, a customer, a blank, a machine, a recipe, a label's code.")}
    >
      <Field onClose={onClose} />
    </Overlay>
  );
}

function Field({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const id = useId();
  const [typed, setTyped] = useState("");
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  useEffect(() => {
    const rest = setTimeout(() => setWords(typed.trim()), REST_MS);
    return () => clearTimeout(rest);
  }, [typed]);
  const { data: found = [] } = useQuery({
    queryKey: ["find", words],
    queryFn: () => told<Found[]>(api.GET("/api/find", { params: { query: { words } } })),
    enabled: words !== "",
    placeholderData: (before) => before,
  });
  const go = (one: Found | undefined) => {
    if (!one) return;
    onClose();
    navigate(WHERE[one.kind](encodeURIComponent(one.id)));
  };
  const chosen = Math.min(at, Math.max(0, found.length - 1));
  return (
    <div>
      <input
        className="field"
        role="combobox"
        aria-label={say("What to find")}
        aria-expanded={found.length > 0}
        aria-controls={`${id}-found`}
        aria-activedescendant={found[chosen] ? `${id}-${chosen}` : undefined}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown" || e.key === "ArrowUp") {
            e.preventDefault();
            setAt(Math.max(0, Math.min(found.length - 1, chosen + (e.key === "ArrowDown" ? 1 : -1))));
          }
          if (e.key === "Enter") go(found[chosen]);
        }}
      />
      <div id={`${id}-found`} role="listbox" aria-label={say("Found")} className="mt-2 max-h-96 overflow-auto">
        {found.map((one, n) => (
          // The keyboard is the field's own: it names the row that is chosen.
          <div
            key={`${worded(one.kind)} ${one.id}`}
            id={`${id}-${n}`}
            role="option"
            tabIndex={-1}
            aria-selected={n === chosen}
            onMouseEnter={() => setAt(n)}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => go(one)}
            onKeyDown={(e) => e.key === "Enter" && go(one)}
            className={`flex cursor-pointer items-baseline gap-3 rounded-md px-2 py-1.5 ${n === chosen ? "bg-act-soft" : ""}`}
          >
            <span className="w-20 shrink-0 text-sm text-soft">{one.kind}</span>
            <span className="font-semibold">{one.name}</span>
            <span className="ml-auto truncate text-sm text-soft">{one.said}</span>
          </div>
        ))}
      </div>
      {words !== "" && found.length === 0 && (
        <p className="mt-2 text-soft">{say("Nothing holds “{words}”.", { words })}</p>
      )}
    </div>
  );
}
