import { useState } from "react";
import { person, setPerson } from "../api/client";
import { Overlay } from "../ui/Overlay";
import { Button, Choice } from "../ui/parts";
import { useSettings } from "./settings";

export function YoursOverlay({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { theme, length, heat, change } = useSettings();
  const [name, setName] = useState(person());
  const close = () => {
    setPerson(name.trim() || "Counter");
    onClose();
  };
  return (
    <Overlay
      title="Yours, in this browser"
      open={open}
      onClose={close}
      sub="Your name is written beside what you decide and do."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          close();
        }}
      >
        <label>
          <span className="font-semibold">Your name</span>
          <input className="field" value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />
        </label>
        <Choice
          label="Lengths"
          value={length}
          onChange={(v) => change({ length: v })}
          options={[
            { id: "mm", name: "millimetres" },
            { id: "in", name: "inches" },
          ]}
        />
        <Choice
          label="Temperatures"
          value={heat}
          onChange={(v) => change({ heat: v })}
          options={[
            { id: "C", name: "°C first" },
            { id: "F", name: "°F first" },
          ]}
        />
        <Choice
          label="Theme"
          value={theme}
          onChange={(v) => change({ theme: v })}
          options={[
            { id: "light", name: "light" },
            { id: "dark", name: "dark" },
          ]}
        />
        <Button kind="go" type="submit">
          Done
        </Button>
      </form>
    </Overlay>
  );
}
