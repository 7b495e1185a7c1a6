import { useQueryClient } from "@tanstack/react-query";
import { api } from "../api/client";
import { forgetAtPress } from "../api/offline";
import { useMe, useWelcome } from "../settings/me";
import { useSettings } from "../settings/settings";
import { say } from "../texts/say";
import { worded } from "../texts/words";
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
      title={`${me.name}, ${worded(me.role)}`}
      open={open}
      onClose={onClose}
      sub={say("Your name is written beside what you decide and do. Units, theme and language follow you.")}
    >
      <div className="flex flex-col gap-4">
        <Switching me={me.name} />
        <Choice
          label={say("Lengths")}
          value={length}
          onChange={(v) => change({ length: v })}
          options={[
            { id: "mm", name: say("millimetres") },
            { id: "in", name: say("inches") },
          ]}
        />
        <Choice
          label={say("Temperatures")}
          value={heat}
          onChange={(v) => change({ heat: v })}
          options={[
            { id: "C", name: say("°C first") },
            { id: "F", name: say("°F first") },
          ]}
        />
        <Choice
          label={say("Theme")}
          value={theme}
          onChange={(v) => change({ theme: v })}
          options={[
            { id: "light", name: say("light") },
            { id: "dark", name: say("dark") },
          ]}
        />
        {languages.length > 0 && (
          <Choice
            label={say("Language")}
            value={language}
            onChange={(v) => change({ language: v })}
            options={[{ id: "", name: say("English") }, ...languages.map(([id, name]) => ({ id, name }))]}
          />
        )}
        <div className="flex gap-2">
          <Button kind="go" onClick={onClose}>
            {say("Done")}
          </Button>
          <Button onClick={() => void signOut()}>{say("Sign out")}</Button>
        </div>
      </div>
    </Overlay>
  );
}
