import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, newId, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Job, Proof } from "../../api/types";
import { useShop } from "../../api/useShop";
import { Bench, PrintDimensions } from "../../bench/Bench";
import { GarmentPicture, PrintPicture } from "../../bench/GarmentPicture";
import { useMe } from "../../settings/me";
import { listed, say } from "../../texts/say";
import { Button, Switch } from "../../ui/parts";
import { when } from "../../ui/when";

/** The piece as the customer will see it, and the customer's word on it. */
export default function ProofPage() {
  const { id = "" } = useParams();
  const [at, setAt] = useState(0);
  const [asksAgain, setAsksAgain] = useState(false);
  const query = useQuery({
    queryKey: ["proof", id],
    queryFn: () => told<Proof>(api.GET("/api/jobs/{job_id}/proof", { params: { path: { job_id: id } } })),
    staleTime: 0,
  });
  useEffect(() => {
    document.title = say("Proof · Offsetter");
  }, []);
  if (query.error) return <p className="p-6">{say("{message} Press J for Jobs.", { message: query.error.message })}</p>;
  const proof = query.data;
  if (!proof) return <p className="p-6 text-soft">{say("Laying out the proof…")}</p>;
  const shown = proof.prints[Math.min(at, proof.prints.length - 1)];
  const box = shown?.garment.box;
  return (
    <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_356px] max-[980px]:grid-cols-1 max-[980px]:overflow-auto">
      <main className="flex min-h-0 min-w-0 flex-col bg-bench max-[980px]:min-h-[520px]">
        <div className="px-6 pt-4">
          <p>
            <Link to={`/jobs/${id}/print`} className="font-semibold text-act underline underline-offset-2">
              {proof.title}
            </Link>
          </p>
          <h1 className="text-[17px] font-bold">{said(proof)}</h1>
          <p className="text-sm text-soft">
            {proof.customer} · {proof.pieces}
          </p>
          {proof.prints.length > 1 && <Views prints={proof.prints} at={at} onChoose={setAt} />}
        </div>
        {shown && box ? (
          <Bench
            label={say("{name} on {cloth_name}, to scale", { name: shown.name, cloth_name: shown.cloth_name })}
            bounds={shown.garment.bounds_mm}
            pad={[14, 110, 30, 40]}
          >
            <GarmentPicture garment={shown.garment} centre={false}>
              <PrintPicture garment={shown.garment} href={`/api/pictures/${shown.picture_key}/cloth.png`} />
            </GarmentPicture>
            <PrintDimensions garment={shown.garment} />
          </Bench>
        ) : (
          <p className="p-6">{say("There is no artwork yet: add it at Order, and the proof shows it on the piece.")}</p>
        )}
      </main>
      <aside
        aria-label={say("The customer's word")}
        className="flex min-h-0 flex-col gap-4 overflow-auto border-l border-hair bg-panel px-5 py-4"
      >
        <h2 className="text-[22px] font-bold">{say("Proof")}</h2>
        <ul className="list-disc pl-5">
          <li>{say("Unmirrored, as its wearer shows it, to scale.")}</li>
          <li>{say("Colours as they are reckoned to look on this cloth.")}</li>
          <li>{say("Have every word and number read.")}</li>
        </ul>
        <p>
          <a
            href={`/api/jobs/${id}/proof.pdf`}
            className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
            target="_blank"
            rel="noreferrer"
          >
            {say("The proof as PDF")}
          </a>
        </p>
        {proof.state.state === "signed" && !asksAgain && (
          <div className="rounded-lg border border-done p-3">
            <p className="font-semibold text-done">{say("✓ Agreed to")}</p>
            <p>{say("by {by}, {at}", { by: proof.state.by, at: when(proof.state.at ?? "") })}</p>
            <div className="mt-2">
              <Button onClick={() => setAsksAgain(true)}>{say("Have it signed again")}</Button>
            </div>
          </div>
        )}
        {shown && (proof.state.state !== "signed" || asksAgain) && (
          <Sign
            id={id}
            onSigned={() => {
              setAsksAgain(false);
              void query.refetch();
            }}
          />
        )}
        <Wanted />
      </aside>
    </div>
  );
}

/** The owner decides whether printing waits for signatures. */
function Wanted() {
  const me = useMe();
  const queries = useQueryClient();
  const outbox = useOutbox();
  const { shop } = useShop();
  if (me.role !== "owner" || !shop) return null;
  const change = async (wanted: boolean) => {
    try {
      await told(api.PUT("/api/shop/proof", { body: { wanted } }));
      await queries.invalidateQueries();
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <div className="mt-auto border-t border-hair pt-3">
      <Switch
        label={say("Print only what is signed")}
        hint={say("for every job of this shop")}
        value={shop.proof_wanted}
        onChange={(on) => void change(on)}
      />
    </div>
  );
}

type ViewsProps = { prints: Proof["prints"]; at: number; onChoose: (at: number) => void };

/** One row for each place: what is on it, on which cloth and size, or whose name. */
function Views({ prints, at, onChoose }: ViewsProps) {
  const places = [...new Set(prints.map((p) => p.place))];
  const several = new Set(prints.map((p) => p.cloth_name)).size > 1;
  const choose = (e: React.KeyboardEvent, i: number) => {
    const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
    if (!step) return;
    const next = (i + step + prints.length) % prints.length;
    onChoose(next);
    document.getElementById(`proof-${next}`)?.focus();
  };
  return (
    <div role="tablist" aria-label={say("Prints")} className="mt-2 flex flex-col gap-1">
      {places.map((place) => (
        <div key={place} role="presentation" className="flex flex-wrap items-center gap-1.5">
          <span className="w-24 text-sm text-soft">{place}</span>
          {prints.map(
            (p, i) =>
              p.place === place && (
                <button
                  key={p.picture_key + p.name}
                  id={`proof-${i}`}
                  type="button"
                  role="tab"
                  aria-selected={i === at}
                  tabIndex={i === at ? 0 : -1}
                  onClick={() => onChoose(i)}
                  onKeyDown={(e) => choose(e, i)}
                  className={`rounded-full border px-2.5 py-0.5 text-sm ${i === at ? "border-act bg-act font-semibold text-on-act" : "border-hair2 bg-raise"}`}
                >
                  {p.text || `${several ? `${p.cloth_name}, ` : ""}${p.sizes}`}
                </button>
              ),
          )}
        </div>
      ))}
    </div>
  );
}

function said(proof: Proof): string {
  const { state, by, at, changed } = proof.state;
  if (state === "signed") return say("{by} agreed to this on {at}", { by, at: when(at ?? "") });
  if (state === "changed")
    return say("{changed} changed since {by} agreed: show it again", { changed: listed(changed ?? []), by });
  return state === "unsigned"
    ? say("Not agreed to yet: this shop prints only what the customer has signed")
    : say("Not agreed to yet; this shop does not insist on it");
}

function Sign({ id, onSigned }: { id: string; onSigned: () => void }) {
  const outbox = useOutbox();
  const [by, setBy] = useState("");
  const [how, setHow] = useState("");
  const sign = async () => {
    try {
      outbox.accept(
        await told<Job>(
          api.POST("/api/jobs/{job_id}/proof/sign", {
            params: { path: { job_id: id } },
            body: { id: newId(), by: by.trim(), how: how.trim() },
          }),
        ),
      );
      onSigned();
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <form
      className="flex flex-col gap-2.5 rounded-lg border border-hair2 p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void sign();
      }}
    >
      <p className="font-semibold">{say("The customer agrees")}</p>
      <label>
        <span className="font-semibold">{say("Who")}</span>
        <input className="field" maxLength={120} value={by} onChange={(e) => setBy(e.target.value)} />
      </label>
      <label>
        <span className="font-semibold">{say("How")}</span>
        <input
          className="field"
          maxLength={120}
          placeholder={say("at the counter, by letter")}
          value={how}
          onChange={(e) => setHow(e.target.value)}
        />
      </label>
      <Button kind="go" type="submit" disabled={!by.trim()}>
        {say("Record the signature")}
      </Button>
      <p className="text-sm text-soft">{say("It holds for exactly these prints; a change after it is said.")}</p>
    </form>
  );
}
