import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import { keep } from "../../api/keep";
import type { Today, TodayBlock } from "../../api/types";
import { useMe } from "../../settings/me";
import { capitalised, say } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { useMoney } from "../../ui/money";
import { Button, Choice, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Another } from "./Another";
import { orderChanged } from "./changed";
import { clock, closer, dayName, daysOf, isCare, isoAt, placeOf, said, scaleOf, span, tagsOf } from "./day";
import { Hours } from "./Hours";
import { InHands } from "./InHands";
import { Lanes } from "./Lanes";
import { saidOf, useTrying } from "./useTrying";

const SEARCHING_MS = 1500;
const LOOKED_MS = 30_000;
const STEP_MIN = 5;
const KEY = ["today"];

/** The day as heat over time: what is made when, by which machine and whose hands, and whether it leaves in time. */
const MOST_SAID = 4;

export default function TodayPage() {
  const { money } = useMoney();
  const queries = useQueryClient();
  const me = useMe();
  const canAct = me.role !== "viewer";
  const { data: today, error } = useQuery({
    queryKey: KEY,
    queryFn: () => told<Today>(api.GET("/api/today")),
    refetchInterval: (query) => (query.state.data?.is_better === false ? SEARCHING_MS : LOOKED_MS),
  });
  const [chosen, setChosen] = useState<{ job: string; step: string } | null>(null);
  const [day, setDay] = useState<number | null>(null);
  const [person, setPerson] = useState("");
  const [isWall, setIsWall] = useState(false);
  const [near, setNear] = useState<number | null>(null);
  const [isAsking, setIsAsking] = useState(false);
  const [hoursOf, setHoursOf] = useState("");
  const { tried, onTry } = useTrying(today);
  const [change, setChange] = useState<string[]>([]);
  const { wrong, tell } = useSaying();
  // Another order is said, never sprung: against the last plan that this screen showed with its search over.
  const settled = useRef<Today | null>(null);
  useEffect(() => {
    if (!today?.is_better) return;
    const moved = settled.current ? orderChanged(settled.current, today) : [];
    settled.current = today;
    if (moved.length) setChange((said) => [...said.filter((s) => !moved.includes(s)), ...moved].slice(-MOST_SAID));
  }, [today]);

  const accept = (seen: Today) => {
    keep(queries, KEY, seen);
    setChange([...seen.said]);
  };
  const pin = (block: TodayBlock, minute: number, out = false) =>
    today &&
    !isCare(block) &&
    tell(
      told<Today>(
        api.POST("/api/today/pins", {
          body: { pin: { job: block.job, step: block.step, at: isoAt(today, minute), by: "" }, out },
        }),
      ).then(accept),
    );
  const away = (what: "machine" | "person", id: string, back: boolean) =>
    tell(
      told<Today>(
        api.POST("/api/today/away", { body: { away: { what, id, since: new Date().toISOString() }, back } }),
      ).then(accept),
    );
  const learn = (press: string, refused: boolean) =>
    tell(told<Today>(api.POST("/api/today/pace", { body: { press, refused } })).then(accept));
  const block = today?.blocks.find((b) => b.job === chosen?.job && b.step === chosen?.step) ?? null;
  const days = today ? daysOf(today) : [];
  const shown = day !== null && days.includes(day) ? day : (days[0] ?? 0);
  const inOrder = today?.blocks.filter((b) => Math.floor(b.start_min / 1440) === shown) ?? [];
  const whole = today ? scaleOf(today, shown) : { from: 0, to: 0, day: 0 };
  const step = (by: number) => {
    const at = inOrder.indexOf(block as TodayBlock);
    const next = inOrder[Math.min(inOrder.length - 1, Math.max(0, at + by))];
    if (!next) return;
    setChosen(next);
    if (near !== null) setNear(next.start_min);
  };
  const keys = {
    arrowright: () => step(1),
    arrowleft: () => step(block ? -1 : 1),
    escape: () => setChosen(null),
    x: () => setNear(near === null ? (block?.start_min ?? inOrder[0]?.start_min ?? 0) : null),
    v: () => setIsWall(!isWall),
    o: () => setIsAsking(true),
    ...(block && canAct
      ? {
          p: () => void pin(block, block.start_min, block.is_pinned),
          "+": () => void pin(block, block.start_min + STEP_MIN),
          "-": () => void pin(block, block.start_min - STEP_MIN),
        }
      : {}),
  };
  useHotkeys(keys);
  useEffect(() => {
    document.title = say("Today · Offsetter");
  }, []);
  const tags = useMemo(() => (today ? tagsOf(today) : new Map<string, string>()), [today]);
  if (error) return <main className="grow p-6 text-stop">{error.message}</main>;
  if (!today) return <main className="grow p-6 text-soft">{say("Planning…")}</main>;
  const mine =
    today.people.find((p) => p.id === person) ??
    today.people.find((p) => p.name === me.name && p.here.length) ??
    today.people.find((p) => p.here.length);

  return (
    <main className="flex min-h-0 grow">
      <div className="min-w-0 grow overflow-auto px-6 py-4">
        <div className="flex items-start justify-between gap-4">
          <div>
            <h1 className="text-2xl font-bold">{today.verdict}</h1>
            <p className="text-soft">
              {today.sub}
              {!today.is_better && <span role="status"> {say("· a better order is being searched for")}</span>}
            </p>
          </div>
          {!isWall && inOrder.length > 0 && (
            <div className="flex shrink-0 flex-wrap items-center justify-end gap-2">
              {near !== null && (
                <>
                  <Button label={say("Earlier")} onClick={() => setNear(Math.max(whole.from + 30, near - 90))}>
                    ←
                  </Button>
                  <Button label={say("Later")} onClick={() => setNear(Math.min(whole.to - 150, near + 90))}>
                    →
                  </Button>
                </>
              )}
              <Button hotkey="X" onClick={keys.x}>
                {near === null ? say("Three hours") : say("Whole day")}
              </Button>
              {days.length > 1 && (
                <Choice
                  hideLabel
                  label={say("Which day")}
                  value={String(shown)}
                  options={days.slice(0, 4).map((d) => ({ id: String(d), name: dayName(today, d) }))}
                  onChange={(d) => {
                    setDay(Number(d));
                    setNear(null);
                  }}
                />
              )}
            </div>
          )}
        </div>
        {(change.length > 0 || wrong) && (
          <div className="mt-2" role="status">
            <Refused said={wrong} />
            {!wrong && <p className="border-l-4 border-act pl-3">{change.join(" ")}</p>}
          </div>
        )}
        {today.machines.length > 0 && (
          <div className="mt-3">
            <Lanes
              today={today}
              scale={near === null ? whole : closer(whole, near)}
              chosen={block}
              canAct={canAct && !isWall}
              onChoose={setChosen}
              onMove={(b, minute) => void pin(b, minute)}
              onAway={(what, id, back) => void away(what, id, back)}
              onTry={(b, minute) => void onTry(b, minute)}
              tried={tried}
            />
          </div>
        )}
        {tried && (
          <p
            role="status"
            className={`mt-2 border-l-4 pl-3 font-semibold ${tried.refused ? "border-stop text-stop" : tried.late?.length ? "border-need" : "border-act"}`}
          >
            {saidOf(tried)}
          </p>
        )}
        {today.waiting.map((w) => (
          <p key={w} className="mt-2 border-l-4 border-stop pl-3">
            {w}
          </p>
        ))}
        {today.outs.length > 0 && (
          <div className="mt-3">
            <h2 className="text-lg font-bold">{say("Ways out")}</h2>
            <ul>
              {today.outs.map((o) => (
                <li key={o.name} className="border-l-4 border-need pl-3">
                  <span className="font-semibold">{o.name.charAt(0).toUpperCase() + o.name.slice(1)}</span>
                  {o.price == null ? (
                    <span> {say("(what it costs is not known yet)")}</span>
                  ) : Number(o.price) ? (
                    <span className="num">
                      {" "}
                      (
                      {Number(o.price) < 0
                        ? say("{money} less", { money: money(Math.abs(Number(o.price))) })
                        : say("{money} more", { money: money(Math.abs(Number(o.price))) })}
                      )
                    </span>
                  ) : null}
                  : {o.said}.
                </li>
              ))}
            </ul>
          </div>
        )}
        <Leaving
          today={today}
          tags={tags}
          chosen={chosen?.job ?? ""}
          onChoose={(job) => setChosen(today.blocks.find((b) => b.job === job) ?? null)}
        />
      </div>
      {!isWall && (
        <aside
          aria-label={say("The card")}
          className="w-76 shrink-0 overflow-auto border-l border-hair bg-panel px-4 py-4"
        >
          {block ? (
            <Chosen
              today={today}
              block={block}
              tag={tags.get(block.job) ?? ""}
              canAct={canAct}
              onPin={pin}
              onClose={() => setChosen(null)}
            />
          ) : (
            <>
              <h2 className="mb-2 text-lg font-bold">
                {!mine
                  ? say("Next in their hands")
                  : mine.name === me.name
                    ? say("Next in your hands")
                    : say("Next in {name}'s hands", { name: mine.name })}
              </h2>
              <InHands today={today} person={mine} />
            </>
          )}
          <hr className="my-4 border-hair" />
          {mine && (
            <Pick
              label={say("Whose hands")}
              value={mine.id}
              options={today.people.map((p) => ({ id: p.id, name: p.name }))}
              onChange={setPerson}
            />
          )}
          <div className="mt-3 flex flex-col items-start gap-2">
            <Button hotkey="O" onClick={() => setIsAsking(true)}>
              {say("Can one more be done?")}
            </Button>
            {canAct && mine && (
              <Button onClick={() => setHoursOf(mine.id)}>{say("{name}'s hours", { name: mine.name })}</Button>
            )}
            {today.learned.map((l) => (
              <div key={l.press}>
                <p>
                  {l.is_refused
                    ? say("{name} is planned by the minutes on paper.", { name: l.name })
                    : say(
                        "{name} is planned at {factor} times the minutes on paper, as {rounds} rounds here took (half of them {low} to {high}).",
                        {
                          name: l.name,
                          factor: l.pace.factor,
                          rounds: l.pace.rounds,
                          low: l.pace.low,
                          high: l.pace.high,
                        },
                      )}
                </p>
                {canAct && (
                  <button
                    type="button"
                    className="min-h-6 text-act underline underline-offset-2"
                    onClick={() => void learn(l.press, !l.is_refused)}
                  >
                    {l.is_refused ? say("Plan by what it took") : say("Plan by the paper")}
                  </button>
                )}
              </div>
            ))}
            <a href="/api/today/sheet.pdf" className="text-act underline underline-offset-2">
              {say("The day on paper (PDF)")}
            </a>
            <a href="/api/today/plan.ics" className="text-act underline underline-offset-2">
              {say("The plan as a calendar file")}
            </a>
            <Button hotkey="V" onClick={() => setIsWall(true)}>
              {say("For the wall")}
            </Button>
          </div>
        </aside>
      )}
      {isAsking && <Another today={today} onClose={() => setIsAsking(false)} />}
      {hoursOf && mine && (
        <Hours person={mine} closed={[...(today.closed ?? [])]} onClose={() => setHoursOf("")} onDone={accept} />
      )}
    </main>
  );
}

type LeavingProps = { today: Today; tags: Map<string, string>; chosen: string; onChoose: (job: string) => void };

/** Every open job: when it is done against when it is due; then what is not planned, and why. */
function Leaving({ today, tags, chosen, onChoose }: LeavingProps) {
  return (
    <div className="mt-4 @container">
      {today.jobs.length > 0 && (
        <>
          <h2 className="text-lg font-bold">{say("What leaves when")}</h2>
          <ul className="mt-1 grid gap-x-8 @min-[700px]:grid-cols-2">
            {today.jobs.map((j) => (
              <li key={j.id} className="border-b border-hair">
                <button
                  type="button"
                  onClick={() => onChoose(j.id)}
                  className={`grid w-full grid-cols-[28px_1fr_auto] items-baseline gap-x-2 py-1.5 text-left ${chosen === j.id ? "bg-act-soft" : ""}`}
                >
                  <span className="num font-bold">{tags.get(j.id)}</span>
                  <span className="truncate font-semibold">{j.title}</span>
                  <span className="num text-sm">{say("done {said}", { said: said(today, j.end_min) })}</span>
                  <span />
                  <span className="text-sm text-soft">
                    {say("due {said}{likely}", {
                      said: said(today, j.due_min),
                      likely: j.likely
                        ? say(" · likely {at}, between {soonest} and {latest}", {
                            at: said(today, j.likely[1]),
                            soonest: clock(j.likely[0]),
                            latest: clock(j.likely[2]),
                          })
                        : "",
                    })}
                  </span>
                  <span className={`text-sm ${j.late_min ? "font-semibold text-stop" : "text-soft"}`}>
                    {j.late_min
                      ? say("{span} late", { span: span(j.late_min) })
                      : say("{span} to spare", { span: span(j.due_min - j.end_min) })}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      {today.left.length > 0 && (
        <>
          <h2 className="mt-4 text-lg font-bold">{say("Not planned yet")}</h2>
          <ul>
            {today.left.map((j) => (
              <li key={j.id} className="py-1">
                <Link to={`/jobs/${j.id}`} className="font-semibold text-act underline underline-offset-2">
                  {j.title}
                </Link>
                {say(", due {said}:", { said: said(today, j.due_min) })} <span className="text-soft">{j.why}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

type ChosenProps = {
  today: Today;
  block: TodayBlock;
  tag: string;
  canAct: boolean;
  onPin: (block: TodayBlock, minute: number, out?: boolean) => void;
  onClose: () => void;
};

/** One stage: when, by whom, why then; and pinned to another time. */
function Chosen({ today, block, tag, canAct, onPin, onClose }: ChosenProps) {
  const names = new Map(today.people.map((p) => [p.id, p.name]));
  const who = [...new Set(block.hands.map((h) => names.get(h.person)))].join(", ");
  const machine = today.machines.find((m) => m.id === block.machine)?.name;
  return (
    <div>
      <h2 className="text-lg font-bold">
        {tag} {block.title}
      </h2>
      <p className="font-semibold">{block.name}</p>
      <p className="num mt-1 text-xl">
        {capitalised(said(today, block.start_min))} – {said(today, block.end_min)}
      </p>
      <p className="text-soft">
        {[
          machine,
          who && (block.hands_all ? say("{who}, all the while", { who }) : say("{who}, at its begin and end", { who })),
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      <p className="mt-2">
        <span className="font-semibold">{say("Why then:")}</span>{" "}
        {block.why || say("It is the first moment that fits.")}
      </p>
      {canAct && !isCare(block) && (
        <div className="mt-3 flex flex-wrap gap-2">
          <Button hotkey="P" onClick={() => onPin(block, block.start_min, block.is_pinned)}>
            {block.is_pinned ? say("Take the pin out") : say("Pin it here")}
          </Button>
          <Button hotkey="-" onClick={() => onPin(block, block.start_min - STEP_MIN)}>
            {say("5 min sooner")}
          </Button>
          <Button hotkey="+" onClick={() => onPin(block, block.start_min + STEP_MIN)}>
            {say("5 min later")}
          </Button>
        </div>
      )}
      <p className="mt-3 flex gap-4">
        <Link to={placeOf(block)} className="font-semibold text-act underline underline-offset-2">
          {isCare(block) ? say("To its machine") : say("To its station")}
        </Link>
        <button type="button" onClick={onClose} className="text-act underline underline-offset-2">
          {say("Close")}
        </button>
      </p>
    </div>
  );
}
