import { type MouseEvent, useEffect, useState } from "react";
import { api, ProblemError, sent, told } from "../../api/client";
import type { ChartView, OffColour } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { say } from "../../texts/say";
import { Overlay } from "../../ui/Overlay";
import { Button } from "../../ui/parts";

type Lab = [number, number, number];
type Spot = { x: number; y: number };

/** A pressed colour came out off: measured or taken from a photograph, it says what to ask for instead. */
export function CameOutOff({ colour, jobLine, onClose }: { colour: string; jobLine: JobLine; onClose: () => void }) {
  const [text, setText] = useState(["", "", ""]);
  const [answer, setAnswer] = useState<OffColour | null>(null);
  const [strip, setStrip] = useState<ChartView | null>(null);
  const [wrong, setWrong] = useState("");
  const job = jobLine.job;
  const values = text.map((t) => Number(t.replace(",", ".")));
  const isWhole = text.every((t) => t.trim()) && values.every(Number.isFinite);
  const key = isWhole ? values.join() : "";
  useEffect(() => {
    setStrip(null);
    if (!key) return setAnswer(null);
    let isWanted = true;
    told<OffColour>(
      api.POST("/api/jobs/{job_id}/off-colour/try", {
        params: { path: { job_id: job.id } },
        body: { print: job.print, colour, seen: key.split(",").map(Number) as Lab },
      }),
    ).then(
      (found) => {
        if (!isWanted) return;
        setAnswer(found);
        setWrong("");
      },
      (error) => isWanted && setWrong(said(error)),
    );
    return () => {
      isWanted = false;
    };
  }, [key, colour, job.id, job.print]);
  const take = (lab: Lab) => {
    const shifts = jobLine.document("colour").shifts ?? [];
    const rest = shifts.filter((one) => one.colour.toUpperCase() !== colour.toUpperCase());
    jobLine.done("colour", { shifts: [...rest, { colour, lab }] });
    onClose();
  };
  const makeStrip = async () => {
    try {
      setStrip(
        await told<ChartView>(
          api.POST("/api/jobs/{job_id}/off-colour/strip", {
            params: { path: { job_id: job.id } },
            body: { print: job.print, colour, seen: values as Lab },
          }),
        ),
      );
    } catch (error) {
      setWrong(said(error));
    }
  };
  return (
    <Overlay
      open
      wide
      onClose={onClose}
      title={say("{colour} came out off", { colour })}
      sub={say(
        "Measure the pressed colour with a probe, or take it from a photograph that shows a white sheet in the same light.",
      )}
    >
      <div className="grid grid-cols-2 gap-6 max-[800px]:grid-cols-1">
        <div className="flex flex-col gap-3">
          <fieldset>
            <legend className="font-semibold">{say("As pressed, in Lab (D50)")}</legend>
            <div className="mt-1 grid grid-cols-3 gap-2">
              {["L", "a", "b"].map((name, i) => (
                <label key={name}>
                  <span className="text-sm text-soft">{name}</span>
                  <input
                    className="field num"
                    inputMode="decimal"
                    value={text[i]}
                    onChange={(e) => setText(text.map((t, n) => (n === i ? e.target.value : t)))}
                  />
                </label>
              ))}
            </div>
          </fieldset>
          <FromPhoto onLab={(lab) => setText(lab.map((v) => v.toFixed(1)))} onWrong={setWrong} />
        </div>
        <div aria-live="polite">
          {answer ? (
            <>
              <div className="flex h-16 overflow-hidden rounded-md border border-hair2">
                <span className="grow" style={{ background: answer.shown[0] }} title={say("wanted")} />
                <span className="grow" style={{ background: answer.shown[1] }} title={say("pressed")} />
              </div>
              <p className="flex justify-between text-sm text-soft">
                <span>{say("wanted")}</span>
                <span>{say("pressed")}</span>
              </p>
              <p className="mt-1 text-lg font-bold">
                {answer.words}, <span className="num">ΔE {answer.delta_e.toFixed(1)}</span>
              </p>
              <table className="mt-2">
                <caption className="sr-only">{say("Ink before and after")}</caption>
                <tbody>
                  <InkRow name={say("now")} values={answer.before_pct} />
                  <InkRow name={say("next time")} values={answer.after_pct} />
                </tbody>
              </table>
              <p className="mt-1 text-sm text-soft">
                {say(
                  "Moved by as much as it was off, the other way; its shades go part of the way with it.{left_delta_e}",
                  {
                    left_delta_e:
                      answer.left_delta_e > 1
                        ? say(" The inks cannot follow for the last {left_delta_e}.", {
                            left_delta_e: answer.left_delta_e.toFixed(1),
                          })
                        : "",
                  },
                )}
              </p>
              <div className="mt-3 flex flex-wrap gap-2">
                <Button kind="go" onClick={() => take(answer.shift.lab as Lab)}>
                  {say("Print it so from now on")}
                </Button>
                <Button onClick={() => void makeStrip()}>{say("Test strip first")}</Button>
              </div>
              {strip && <Strip strip={strip} onRight={take} />}
            </>
          ) : (
            <p className="text-soft">{say("The answer stands here as soon as the pressed colour is known.")}</p>
          )}
          {wrong && (
            <p role="alert" className="mt-2 border-l-4 border-stop pl-3 text-stop">
              {wrong}
            </p>
          )}
        </div>
      </div>
    </Overlay>
  );
}

function InkRow({ name, values }: { name: string; values: Record<string, number> }) {
  return (
    <tr>
      <th scope="row" className="pr-4 text-left font-normal text-soft">
        {name}
      </th>
      {Object.entries(values).map(([ink, v]) => (
        <td key={ink} className="num pr-3">
          {ink} {v.toFixed(0)}
        </td>
      ))}
    </tr>
  );
}

/** The strip's patches as they lie on it: touch the one that looked right when it was pressed. */
function Strip({ strip, onRight }: { strip: ChartView; onRight: (lab: Lab) => void }) {
  return (
    <div className="mt-3">
      <p>
        <a className="font-semibold text-act underline" href={`/api/colour/charts/${strip.chart.id}/chart.pdf`}>
          {say("Open the strip")}
        </a>
        {say(", print it at 100 %, press it; then touch the patch that looks right.")}
      </p>
      <ul className="mt-1 grid gap-1" style={{ gridTemplateColumns: `repeat(${strip.chart.columns}, 1fr)` }}>
        {strip.chart.patches.map((p) => (
          <li key={p.label}>
            <button
              type="button"
              className="w-full rounded-md border border-hair2 pb-0.5 text-sm"
              onClick={() => p.lab && onRight(p.lab as Lab)}
            >
              <span className="block h-8 rounded-t-md" style={{ background: strip.shown[p.label] }} />
              {p.label}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** First the white sheet, then the colour: two touches on the photograph. */
function FromPhoto({ onLab, onWrong }: { onLab: (lab: Lab) => void; onWrong: (said: string) => void }) {
  const [photo, setPhoto] = useState<{ file: File; href: string } | null>(null);
  const [white, setWhite] = useState<Spot | null>(null);
  const [spot, setSpot] = useState<Spot | null>(null);
  const touch = async (event: MouseEvent<HTMLButtonElement>) => {
    const edge = event.currentTarget.getBoundingClientRect();
    const at = { x: (event.clientX - edge.left) / edge.width, y: (event.clientY - edge.top) / edge.height };
    if (!photo) return;
    if (!white) return setWhite(at);
    setSpot(at);
    try {
      const fields = { x: `${at.x}`, y: `${at.y}`, white_x: `${white.x}`, white_y: `${white.y}` };
      onLab(await sent<Lab>("/api/colour/pick", photo.file, fields));
      onWrong("");
    } catch (error) {
      onWrong(said(error));
      setWhite(null);
      setSpot(null);
    }
  };
  return (
    <div>
      <label className="block">
        <span className="font-semibold">{say("Or from a photograph")}</span>
        <input
          type="file"
          accept="image/jpeg,image/png,image/webp"
          className="field"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (!file) return;
            setPhoto({ file, href: URL.createObjectURL(file) });
            setWhite(null);
            setSpot(null);
          }}
        />
      </label>
      {photo && (
        <>
          <p className="mt-1 text-sm">
            {white ? say("Now touch the colour that is off.") : say("First touch the white sheet.")}
          </p>
          <button
            type="button"
            onClick={(e) => void touch(e)}
            className="relative mt-1 block max-w-full cursor-crosshair"
          >
            <img src={photo.href} alt={say("The photograph")} className="max-h-64" />
            {[white, spot].map(
              (s, i) =>
                s && (
                  <span
                    key={i === 0 ? "white" : "colour"}
                    className="absolute size-4 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-black outline-2 outline-white"
                    style={{ left: `${s.x * 100}%`, top: `${s.y * 100}%` }}
                  />
                ),
            )}
          </button>
          <p className="mt-1 text-sm text-soft">
            {say("A photograph is a guide, not a measurement: within about ΔE 5.")}
          </p>
        </>
      )}
    </div>
  );
}

function said(error: unknown): string {
  return error instanceof ProblemError ? `${error.happened} ${error.kept} ${error.thenDo}` : say("That did not work.");
}
