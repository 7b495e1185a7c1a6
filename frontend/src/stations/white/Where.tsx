import { useState } from "react";
import { ProblemError, sent } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { JobLine } from "../../line/useJobLine";
import { say } from "../../texts/say";
import { Choice, Switch } from "../../ui/parts";
import { TakeFile } from "../../ui/TakeFile";

export const LIGHTS_FROM = 60;
const NOTHING = { mask: null, lights_from: null };
const DECIDES = { level: NOTHING, lights: { ...NOTHING, lights_from: LIGHTS_FROM }, file: NOTHING };

type By = keyof typeof DECIDES | "mask";
type Props = { jobLine: JobLine; by: By; ownWhite: string };

/** What says where white lies: the artwork, its lights alone, the file's own white, or a picture drawn for it. */
export function Where({ jobLine, by, ownWhite }: Props) {
  const outbox = useOutbox();
  const [isSending, setSending] = useState(false);
  const doc = jobLine.document("white");
  const take = async (file: File) => {
    setSending(true);
    try {
      const got = await sent<{ file: string }>("/api/artworks", file);
      jobLine.done("white", { mask: got.file });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setSending(false);
    }
  };
  const options: { id: By; name: string }[] = [
    { id: "level", name: say("the picture") },
    { id: "lights", name: say("its lights") },
  ];
  if (ownWhite) options.push({ id: "file", name: say("the file's own") });
  if (by === "mask") options.push({ id: "mask", name: say("a mask") });
  return (
    <section aria-label={say("Where white lies")}>
      <Choice
        label={say("White follows")}
        value={by}
        onChange={(id) => id !== "mask" && jobLine.done("white", { ...DECIDES[id], own: id === "file" || !ownWhite })}
        options={options}
      />
      <div className="mt-2">
        <TakeFile
          kind="quiet"
          label={say("A picture for the white")}
          accept=".png,.jpg,.jpeg,.tif,.tiff,.webp"
          onTaken={(file) => void take(file)}
        >
          {isSending ? say("Sending…") : doc.mask ? say("Another picture") : say("Take a picture of its own")}
        </TakeFile>
      </div>
      {doc.mask && (
        <Switch
          label={say("White lies where it is dark")}
          hint={say("off: where it is light")}
          value={doc.mask_dark ?? false}
          onChange={(mask_dark) => jobLine.done("white", { mask_dark })}
        />
      )}
    </section>
  );
}
