import type { IScannerControls } from "@zxing/browser";
import { useEffect, useRef, useState } from "react";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

/** The tablet's camera held over a label: what it reads is opened. */
export function Camera({ onRead, onClose }: { onRead: (code: string) => void; onClose: () => void }) {
  const video = useRef<HTMLVideoElement>(null);
  const [wrong, setWrong] = useState("");
  const read = useRef(onRead);
  read.current = onRead;
  useEffect(() => {
    let controls: IScannerControls | null = null;
    let isOver = false;
    const begin = async () => {
      if (!navigator.mediaDevices?.getUserMedia) {
        setWrong(say("This browser gives its camera to secure pages only: open the shop by https, or type the code."));
        return;
      }
      // Loaded when somebody wants it: no other page waits for it.
      const { BrowserQRCodeReader } = await import("@zxing/browser");
      try {
        const from = { video: { facingMode: "environment" } };
        controls = await new BrowserQRCodeReader().decodeFromConstraints(from, video.current ?? undefined, (found) => {
          if (found && !isOver) read.current(found.getText());
        });
        if (isOver) controls.stop();
      } catch {
        setWrong(say("The camera cannot be used here: allow it in the browser, or type the code."));
      }
    };
    void begin();
    return () => {
      isOver = true;
      controls?.stop();
    };
  }, []);
  return (
    <div className="mt-3 max-w-md">
      {wrong ? (
        <p role="alert" className="border-l-4 border-stop pl-3">
          {wrong}
        </p>
      ) : (
        <>
          {/* biome-ignore lint/a11y/useMediaCaption: a live picture without sound. */}
          <video ref={video} aria-label={say("What the camera sees")} className="w-full rounded border border-hair2" />
          <p className="mt-1 text-sm text-soft">{say("Hold it over the code beside a print, or on the ticket.")}</p>
        </>
      )}
      <div className="mt-2">
        <Button onClick={onClose}>{say("Close the camera")}</Button>
      </div>
    </div>
  );
}
