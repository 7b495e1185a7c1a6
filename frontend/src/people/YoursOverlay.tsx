import { useQueryClient } from "@tanstack/react-query";
import { api } from "../api/client";
import { forgetAtPress } from "../api/offline";
import { useMe, useWelcome } from "../settings/me";
import { useSettings } from "../settings/settings";
import { Overlay } from "../ui/Overlay";
import { Button, Choice } from "../ui/parts";
import { Switching } from "../ui/Switching";

export function YoursOverlay({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { theme, length, heat, language, change } = useSettings();
  const languages = useWelcome().data?.languages ?? [];
  const me = useMe();
  const queries = useQueryClient();
  const signOut = async () => {
    await api.POST("/api/welcome/sign-out");
    await forgetAtPress();
    await queries.invalidateQueries({ queryKey: ["welcome"] });
  };
  return (
    <Overlay
      title={`${me.name}, ${me.role}`}
      open={open}
      onClose={onClose}
      sub="Your name is written beside what you decide and do. Units and theme follow you."
    >
      <div className="flex flex-col gap-4">
        <Switching me={me.name} />
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
        {languages.length > 0 && (
          <Choice
            label="What the shop's computer says"
            value={language}
            onChange={(v) => change({ language: v })}
            options={[{ id: "", name: "English" }, ...languages.map(([id, name]) => ({ id, name }))]}
          />
        )}
        <div className="flex gap-2">
          <Button kind="go" onClick={onClose}>
            Done
          </Button>
          <Button onClick={() => void signOut()}>Sign out</Button>
        </div>
      </div>
    </Overlay>
  );
}
