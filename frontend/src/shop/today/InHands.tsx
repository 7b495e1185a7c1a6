import { Link } from "react-router";
import type { Today, TodayPerson } from "../../api/types";
import { capitalised, say } from "../../texts/say";
import { doingOf, placeOf, said, span, tagsOf } from "./day";

const MOST = 6;

/** What one person does now, what comes next, and when there is time to go away. */
export function InHands({ today, person }: { today: Today; person: TodayPerson | undefined }) {
  if (!person)
    return <p className="text-soft">{say("Nobody's hands are planned: the hours below say who is here.")}</p>;
  const doing = doingOf(today, person);
  const tags = tagsOf(today);
  if (!doing.length) return <p className="text-soft">{say("Nothing wants {name}'s hands.", { name: person.name })}</p>;
  return (
    <ol className="flex flex-col gap-2.5">
      {doing.slice(0, MOST).map((d, at) => {
        const next = doing[at + 1];
        const free = next ? next.from - d.to : 0;
        return (
          <li key={`${d.block.job} ${d.block.step} ${d.from}`} className="border-l-4 border-hair2 pl-3">
            <p className="font-semibold leading-snug">
              <span className="num">{capitalised(said(today, d.from))}</span> {d.block.name}
            </p>
            <p className="text-sm text-soft">
              <Link to={placeOf(d.block)} className="text-act underline underline-offset-2">
                {tags.get(d.block.job)} {d.block.title}
              </Link>
              {d.block.hands_all
                ? say(", {minutes} min", { minutes: d.to - d.from })
                : d.from === d.block.start_min
                  ? say(", {minutes} min to start it, then it runs by itself until {end}", {
                      minutes: d.to - d.from,
                      end: said(today, d.block.end_min),
                    })
                  : say(", {minutes} min to end it", { minutes: d.to - d.from })}
            </p>
            {free >= 15 && at < MOST - 1 && (
              <p className="text-sm">
                {say("Then {span} free, until {said}.", { span: span(free), said: said(today, next?.from ?? 0) })}
              </p>
            )}
          </li>
        );
      })}
    </ol>
  );
}
