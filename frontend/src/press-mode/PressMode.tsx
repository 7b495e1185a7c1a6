import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { whenKept } from "../api/offline";
import type { PressCard } from "../api/types";
import { useSeenFrom } from "../line/PrintTabs";
import { type JobLine, useJobLine } from "../line/useJobLine";
import { usePressCard } from "../line/usePressCard";
import { say } from "../texts/say";
import { AtThePress } from "./AtThePress";
import { Taken } from "./Taken";
import { usePressSession } from "./usePressSession";

export default function PressMode() {
  const { id = "" } = useParams();
  const { print, see } = useSeenFrom();
  const part = useSearchParams()[0].get("part") === "prepare" ? "prepare" : "press";
  const { data: card, error: cardError } = usePressCard(id, print, part);
  const { line, error } = useJobLine(id, print);
  useEffect(() => {
    const before = document.documentElement.dataset.theme;
    document.documentElement.dataset.theme = "dark";
    document.title = say("Press · Offsetter");
    return () => {
      if (before) document.documentElement.dataset.theme = before;
    };
  }, []);
  // What this page lives on is read once more as soon as it is kept for a time without a network.
  const queries = useQueryClient();
  useEffect(() => {
    let isHere = true;
    void whenKept().then(() => {
      if (!isHere) return;
      for (const queryKey of [["welcome"], ["job", id], ["press-card", id]])
        void queries.refetchQueries({ queryKey, type: "active" });
    });
    return () => {
      isHere = false;
    };
  }, [queries, id]);
  // The print is kept in the address: what is pressed next must not change under the hands.
  useEffect(() => {
    if (card && !print) see({ print: card.print });
  }, [card, print, see]);
  const wrong = error ?? (card ? null : cardError);
  if (wrong)
    return (
      <p role="alert" className="p-8 text-2xl">
        {wrong.message}
      </p>
    );
  if (!line || !card || !print) return <p className="p-8 text-2xl">{say("Opening the press…")}</p>;
  return <OnePress key={`${card.press}.${print}.${card.part}`} card={card} jobLine={line} />;
}

function OnePress({ card, jobLine }: { card: PressCard; jobLine: JobLine }) {
  const { job } = jobLine;
  const navigate = useNavigate();
  const now = useNow();
  const pass = card.part === "prepare" ? `${card.print}.prepare` : card.print;
  const session = usePressSession(card.press, job.id, pass);
  const leave = async (to: string) => {
    await session.leave();
    navigate(to);
  };
  if (session.leading === "taken" || session.leading === "follows")
    return (
      <main className="flex h-full flex-col bg-ground text-ink" data-press-mode>
        <Taken
          session={session.other}
          job={session.other?.print === pass ? job.id : ""}
          stages={card.stages}
          isFollowing={session.leading === "follows"}
          now={now}
          labelOf={(slot) => job.ledger.books.labels[slot] ?? slot}
          onFollow={session.follow}
          onTakeOver={() => void session.takeOver()}
          onLeave={() => navigate(`/jobs/${job.id}/${card.part}?print=${card.print}`)}
        />
      </main>
    );
  return <AtThePress card={card} jobLine={jobLine} session={session} now={now} onLeave={(to) => void leave(to)} />;
}

const TICK_MS = 100;

function useNow(): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), TICK_MS);
    return () => clearInterval(tick);
  }, []);
  return now;
}
