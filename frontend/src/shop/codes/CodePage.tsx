import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, told } from "../../api/client";
import type { Making } from "../../api/types";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { when } from "../../ui/when";
import { Camera } from "./Camera";

const TICKET = "J-";

/** From the code beside a print, or on the ticket, back to how it was made. */
export default function CodePage() {
  const { code = "" } = useParams();
  const navigate = useNavigate();
  const [asked, setAsked] = useState(code);
  const [isLooking, setLooking] = useState(false);
  const query = useQuery({
    queryKey: ["code", code],
    queryFn: () => told<Making>(api.GET("/api/codes/{code}", { params: { path: { code } } })),
    enabled: code !== "" && !code.startsWith(TICKET),
    retry: false,
  });
  // A job's ticket opens the job itself.
  useEffect(() => {
    if (code.startsWith(TICKET)) navigate(`/jobs/${code.slice(TICKET.length)}`, { replace: true });
  }, [code, navigate]);
  useEffect(() => {
    document.title = say("{code} · Offsetter", { code: code || say("Find by code") });
  }, [code]);
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <h1 className="text-2xl font-bold">
        {query.data ? `${query.data.code}: ${query.data.title}` : say("From a code to the making")}
      </h1>
      <form
        className="mt-3 flex max-w-xl items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          navigate(`/codes/${encodeURIComponent(asked.trim())}`);
        }}
      >
        <label className="grow">
          <span className="font-semibold">{say("Code")}</span>
          <input
            className="field num"
            placeholder={say("R12 or R12-7")}
            value={asked}
            onChange={(e) => setAsked(e.target.value)}
          />
        </label>
        <Button kind="go" type="submit" disabled={!asked.trim()}>
          {say("Find it")}
        </Button>
        {!isLooking && <Button onClick={() => setLooking(true)}>{say("Use the camera")}</Button>}
      </form>
      {isLooking && (
        <Camera
          onClose={() => setLooking(false)}
          onRead={(read) => {
            setLooking(false);
            setAsked(read);
            navigate(`/codes/${encodeURIComponent(read.trim())}`);
          }}
        />
      )}
      {!code && (
        <p className="mt-3 max-w-2xl text-soft">
          {say(
            "It stands beside every print on the carrier and on the job's ticket. A washed or returned piece leads back to its run, press, values, person and roll.",
          )}
        </p>
      )}
      {query.error && (
        <p role="alert" className="mt-3 border-l-4 border-stop pl-3">
          {query.error.message} {(query.error as { thenDo?: string }).thenDo}
        </p>
      )}
      {query.data && <Made made={query.data} />}
    </main>
  );
}

function Made({ made }: { made: Making }) {
  const facts: [string, string][] = [
    [say("For"), made.customer],
    [say("Printed on"), `${made.printer}, ${made.media}`],
    [say("Lot"), made.lots.join(", ") || say("not written down")],
    [
      say("Recipe"),
      say("{recipe}, version {recipe_version}", { recipe: made.recipe, recipe_version: made.recipe_version }),
    ],
    [
      say("Released"),
      say("{released_at} by {released_by}", { released_at: when(made.released_at), released_by: made.released_by }),
    ],
    [say("Prints"), made.what.join("; ")],
  ];
  return (
    <>
      <p className="mt-3">
        <Link to={`/jobs/${made.job}/inspect`} className="font-semibold text-act underline underline-offset-2">
          {say("Open the job")}
        </Link>
      </p>
      <img
        src={`/api/codes/${made.code}/qr.svg`}
        alt={say("The code {code}, to be read by a camera", { code: made.code })}
        width={110}
        height={110}
        className="mt-2 rounded"
      />
      <dl className="mt-2 grid max-w-3xl grid-cols-[130px_1fr] gap-y-1">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <h2 className="mt-5 text-lg font-bold">{say("What was done")}</h2>
      <ol className="mt-1 max-w-3xl">
        {made.done.map((d, i) => (
          <li key={i} className="grid grid-cols-[130px_90px_1fr] border-b border-hair py-1">
            <span className="text-soft">{when(d.at)}</span>
            <span>{d.by}</span>
            <span>{d.what}</span>
          </li>
        ))}
      </ol>
      {made.pieces.length > 0 && (
        <>
          <h2 className="mt-5 text-lg font-bold">{say("Pressed from it")}</h2>
          <table className="mt-1 w-full max-w-6xl text-left [&_td]:py-1 [&_td]:pr-6 [&_th]:py-1 [&_th]:pr-6 [&_td:not(:last-child)]:whitespace-nowrap [&_th]:whitespace-nowrap">
            <thead>
              <tr className="border-b border-hair text-sm text-soft">
                <th className="font-normal">{say("Piece")}</th>
                <th className="font-normal">{say("When")}</th>
                <th className="font-normal">{say("Who")}</th>
                <th className="font-normal">{say("Press")}</th>
                <th className="font-normal">{say("Stages as they ran")}</th>
              </tr>
            </thead>
            <tbody>
              {made.pieces.map((p, i) => (
                <tr key={i} className="border-b border-hair">
                  <th scope="row">{p.label}</th>
                  <td>{when(p.at)}</td>
                  <td>{p.by}</td>
                  <td>{p.press || say("not written down")}</td>
                  <td>{p.stages.join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {made.photos.length > 0 && (
        <div className="mt-4 flex gap-3">
          {made.photos.map((file, i) => (
            <img
              key={file}
              src={`/api/photos/${file}.jpg`}
              alt={say("Photograph {i} of the job", { i: i + 1 })}
              className="h-40 rounded border border-hair2"
            />
          ))}
        </div>
      )}
    </>
  );
}
