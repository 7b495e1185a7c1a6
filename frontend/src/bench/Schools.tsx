import type { Recipe } from "../api/types";
import { say } from "../texts/say";

type SchoolsProps = {
  questions: Recipe["schools"];
  chosen: Record<string, string>;
  onChoose: (question: string, choice: string) => void;
};

/** Where practice differs: each choice with its consequence. */
export function Schools({ questions, chosen, onChoose }: SchoolsProps) {
  return questions.map((q) => {
    const taken = chosen[q.id] ?? q.choices[0]?.id ?? "";
    return (
      <fieldset key={q.id}>
        <legend className="font-semibold">{q.question}</legend>
        <p className="text-sm text-soft">{say("What decides: {what_decides}.", { what_decides: q.what_decides })}</p>
        {q.choices.map((c) => (
          <label
            key={c.id}
            className={`mt-1.5 flex gap-2.5 rounded-lg border px-3 py-1.5 ${taken === c.id ? "border-act bg-act-soft" : "border-hair"}`}
          >
            <input
              type="radio"
              name={q.id}
              className="mt-1 accent-[var(--act)]"
              checked={taken === c.id}
              onChange={() => onChoose(q.id, c.id)}
            />
            <span>
              <span className="block font-semibold">{c.name}</span>
              <span className="block text-sm">{c.consequence}</span>
            </span>
          </label>
        ))}
      </fieldset>
    );
  });
}
