import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, sent, told } from "../../api/client";
import type { Arrival } from "../../api/types";
import { say } from "../../texts/say";
import { FileButton } from "../../ui/FileButton";
import { Overlay } from "../../ui/Overlay";
import { Button, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";

const ONE: Record<string, string> = {
  blanks: say("Blank"),
  printers: say("Printer"),
  presses: say("Press"),
  ovens: say("Oven"),
};

/** A whole job that comes as a file; what this shop does not have of it is asked for. */
export function BringJob({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [isLooking, setLooking] = useState(false);
  const [seen, setSeen] = useState<Arrival | null>(null);
  const [choices, setChoices] = useState<Record<string, string>>({});
  const { wrong, tell } = useSaying();
  const look = async (file: File) => {
    setSeen(null);
    setLooking(true);
    await tell(sent<Arrival>("/api/job-files", file).then(setSeen));
    setLooking(false);
  };
  const take = async () => {
    if (!seen) return;
    const path = { key: seen.key };
    const asked = told<{ id: string }>(api.POST("/api/job-files/{key}", { params: { path }, body: { choices } }));
    if (!(await tell(asked))) return;
    await queries.invalidateQueries();
    navigate(`/jobs/${(await asked).id}/order`);
  };
  const missing = seen?.missing ?? [];
  const open = missing.filter((m) => !choices[`${m.sort}/${m.id}`]);
  return (
    <Overlay
      open
      wide
      onClose={onClose}
      title={say("Bring a job in")}
      sub={say("A whole job, as its own page gives it out: decisions, pictures, runs and what was done.")}
    >
      <FileButton
        label={say("A job's file")}
        accept=".zip,application/zip"
        kind={seen ? "plain" : "go"}
        disabled={isLooking}
        onFile={(file) => void look(file)}
      >
        {isLooking ? say("Looking at it…") : seen ? say("Another file") : say("Choose its file")}
      </FileButton>
      <Refused said={wrong} />
      {seen && (
        <div className="mt-3 flex flex-col gap-3">
          <p>
            <span className="font-semibold">
              {say("{title}, for {customer}", { title: seen.title, customer: seen.customer })}
            </span>
            {say(", from {shop}: {pieces}, {runs}, {acts}.", {
              shop: seen.shop,
              pieces: several(seen.pieces, "piece"),
              runs: several(seen.runs, "run"),
              acts: several(seen.acts, "act"),
            })}
          </p>
          {missing.map((m) => {
            const key = `${m.sort}/${m.id}`;
            return (
              <Pick
                key={key}
                label={say("{sort} “{name}” is not here", { sort: ONE[m.sort], name: m.name })}
                value={choices[key] ?? ""}
                options={[
                  { id: "", name: say("choose") },
                  { id: "bring", name: say("bring it along") },
                  ...m.like.map(([id, name]) => ({ id: String(id), name: String(name) })),
                ]}
                onChange={(chosen) => setChoices({ ...choices, [key]: chosen })}
              />
            );
          })}
          {(seen.notes ?? []).map((n) => (
            <p key={n} className="border-l-4 border-need pl-2">
              {n}
            </p>
          ))}
          <div>
            <Button kind="go" disabled={open.length > 0} onClick={() => void take()}>
              {say("Take it in")}
            </Button>
          </div>
        </div>
      )}
    </Overlay>
  );
}
